using NodaTime;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

/// <summary>What a message is made from beside its wording.</summary>
/// <param name="Facts">The event and its order.</param>
/// <param name="Names">Names of people, places and statuses.</param>
/// <param name="Now">The moment.</param>
/// <param name="Business">The business's name.</param>
/// <param name="BaseAddress">The address under which Sirena is reached, without a slash at the end.</param>
/// <param name="Branding">What messages look like.</param>
public sealed record MessageFacts(Facts Facts, TextNames Names, Instant Now, string Business, string BaseAddress, Branding Branding)
{
    /// <summary>Who reads it.</summary>
    public Audience Audience { get; init; }

    /// <summary>In which language.</summary>
    public TextLanguage Language { get; init; } = TextLanguage.En;

    /// <summary>The reader's name.</summary>
    public string Reader { get; init; } = "";

    /// <summary>The reader's id, where they are of the staff.</summary>
    public string? ReaderId { get; init; }

    /// <summary>The rule's name.</summary>
    public string Rule { get; init; } = "";

    /// <summary>The case's name.</summary>
    public string Case { get; init; } = "";

    /// <summary>The urgency's name.</summary>
    public string Urgency { get; init; } = "";

    /// <summary>Why the reader is told, after 'because'.</summary>
    public string Because { get; init; } = "";

    /// <summary>The names of other rules of which this message tells the reader too.</summary>
    public IReadOnlyList<string> Others { get; init; } = [];

    /// <summary>How they answer, or <see langword="null"/> where they cannot.</summary>
    public AnswerWays? Answer { get; init; }

    /// <summary>Who is told next, and when; <see langword="null"/> for nobody.</summary>
    public (string Who, Instant At)? Next { get; init; }

    /// <summary>The delivery's id, for the page that says why its reader was told; <see langword="null"/> in a preview.</summary>
    public Guid? Delivery { get; init; }
}
