using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Instructions;

namespace Sirena.Engine.Decide;

/// <summary>Everything that deciding one event writes.</summary>
public sealed class Raised
{
    public List<Match> Matches { get; } = [];

    public List<Alert> Alerts { get; } = [];

    public List<AlertStep> Steps { get; } = [];

    public List<Delivery> Deliveries { get; } = [];

    public List<Message> Messages { get; } = [];

    public List<AnswerLink> Links { get; } = [];

    public List<ToldAnew> ToldAnew { get; } = [];

    /// <summary>Alerts that are told anew, with the case that tells: its ladder begins.</summary>
    public List<Joined> Rejoined { get; } = [];

    /// <summary>Alerts that somebody has and that another match joined.</summary>
    public List<Joined> Joined { get; } = [];

    /// <summary>Until when all messages of a step that fired are held, by its alert.</summary>
    public Dictionary<Guid, Instant> Held { get; } = [];

    /// <summary>The rules whose storm guard began to gather with this event.</summary>
    public List<Rule> Storms { get; } = [];

    /// <summary>What the rules ask of the order system, the most urgent rule's first.</summary>
    public List<RuleAsk> Asks { get; } = [];

    /// <summary>Lines that go into messages which are still being gathered.</summary>
    public List<GatheredLine> Gathered { get; } = [];
}

/// <summary>A match that joined an alert.</summary>
public sealed record Joined(Alert Alert, Decision Decision);

/// <summary>What a message that is still being gathered is to say as well.</summary>
public sealed record GatheredLine(Guid Delivery, string Line);

/// <summary>An alert that was joined and told anew: who was told this time and who was left out, as JSON lists, for its first step.</summary>
public sealed record ToldAnew(Guid Alert, IReadOnlyList<Told> Told, IReadOnlyList<LeftOut> Left);
