using NodaTime;

namespace Sirena.Core.Rules;

/// <summary>How much an alert hurries. Ordered: urgent is the greatest.</summary>
public enum Urgency
{
    /// <summary>Can wait a day.</summary>
    Routine,

    /// <summary>Within the hours of work.</summary>
    Prompt,

    /// <summary>Now; passes quiet hours.</summary>
    Urgent,
}

/// <summary>The spans that go with an urgency.</summary>
public static class UrgencySpans
{
    /// <summary>How long a delivery is tried: urgent 30 min, prompt 4 h, routine 24 h.</summary>
    public static Duration Deadline(this Urgency urgency) =>
        urgency switch
        {
            Urgency.Urgent => Duration.FromMinutes(30),
            Urgency.Prompt => Duration.FromHours(4),
            _ => Duration.FromHours(24),
        };

    /// <summary>How long whoever took an alert has until it is done, where the rule does not say: urgent 1 h, prompt 8 h, routine 3 days.</summary>
    public static Duration DoneWithin(this Urgency urgency) =>
        urgency switch
        {
            Urgency.Urgent => Duration.FromHours(1),
            Urgency.Prompt => Duration.FromHours(8),
            _ => Duration.FromDays(3),
        };

    /// <summary>How old an event may be and still tell somebody, where the case does not say: urgent 30 min, else 12 h.</summary>
    public static Duration NotOlderThan(this Urgency urgency) => urgency == Urgency.Urgent ? Duration.FromMinutes(30) : Duration.FromHours(12);
}
