using System.Collections.Immutable;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;

namespace Sirena.Core.Rules;

/// <summary>When an event happens, and only if conditions hold, tell recipients by channels, and if nobody answers climb the ladder.</summary>
public sealed record Rule
{
    /// <summary>Its id, lower-case words and hyphens; never used again after the rule is archived.</summary>
    public required string Id { get; init; }

    /// <summary>Its name.</summary>
    public required string Name { get; init; }

    /// <summary>Whether it tells anybody.</summary>
    public bool On { get; init; } = true;

    /// <summary>The event types that it listens to; at least one.</summary>
    public required ImmutableArray<string> When { get; init; }

    /// <summary>Decides deadlines, and whether quiet hours hold the alert back.</summary>
    public Urgency Urgency { get; init; } = Urgency.Prompt;

    /// <summary>What must hold, or <see langword="null"/> for always.</summary>
    public Condition? OnlyIf { get; init; }

    /// <summary>The cases, the first that holds is used; at least one.</summary>
    public required ImmutableArray<RuleCase> Cases { get; init; }

    /// <summary>The document had its one case at the top level.</summary>
    public bool Short { get; init; }

    /// <summary>How long messages are collected per recipient.</summary>
    public Duration Gather { get; init; }

    /// <summary>Not again for the same order within this, counted from the last alert's end.</summary>
    public Duration Rest { get; init; }

    /// <summary>Who is told may opt out of it.</summary>
    public bool MayOptOut { get; init; } = true;

    /// <summary>The statuses that end the alert.</summary>
    public ImmutableArray<string> WithdrawAt { get; init; } = [];

    /// <summary>
    /// How long whoever took the alert has until it is done, before it burns on; <see langword="null"/> for what the urgency says, zero for no end.
    /// </summary>
    public Duration? DoneWithin { get; init; }

    /// <summary>The next step is pulled forward to the order's due time when it would come later.</summary>
    public bool PullForward { get; init; } = true;

    /// <summary>From when on its alerts are gathered because there are too many, or <see langword="null"/> for never.</summary>
    public StormGuard? Storm { get; init; }

    /// <summary>The documents and files that go with its mails.</summary>
    public ImmutableArray<Attachment> Attach { get; init; } = [];

    /// <summary>How often it may ask the order system by itself, or <see langword="null"/> for as often as it fits.</summary>
    public DoLimit? DoAtMost { get; init; }

    /// <summary>It only says what it would have asked the order system.</summary>
    public bool Trial { get; init; }

    /// <summary>It asks the order system for something, or offers it.</summary>
    public bool Acts => Cases.Any(c => c.Acts);

    /// <summary>Its case of that name, or <see langword="null"/>.</summary>
    public RuleCase? Case(string? name) => Cases.FirstOrDefault(c => c.Name == name);

    /// <summary>Every question that it asks: its own, then those of its cases.</summary>
    public IEnumerable<ConditionLeaf> Leaves => (OnlyIf?.Leaves ?? []).Concat(Cases.SelectMany(c => c.OnlyIf?.Leaves ?? []));
}

/// <summary>A branch of a rule.</summary>
public sealed record RuleCase
{
    /// <summary>Its name: <c>high</c>, <c>otherwise</c>.</summary>
    public required string Name { get; init; }

    /// <summary>What must hold, or <see langword="null"/> for always.</summary>
    public Condition? OnlyIf { get; init; }

    /// <summary>Who is told; nobody when empty.</summary>
    public ImmutableArray<Recipient> Tell { get; init; } = [];

    /// <summary>By what; mail where the document does not say.</summary>
    public Ways? By { get; init; }

    /// <summary>The wording's id, or <see langword="null"/> for the shipped one.</summary>
    public string? Wording { get; init; }

    /// <summary>The id of the shared ladder whose steps are in <see cref="Ladder"/>, or <see langword="null"/> for steps of its own.</summary>
    public string? SharedLadder { get; init; }

    /// <summary>The steps after the first telling.</summary>
    public ImmutableArray<LadderStep> Ladder { get; init; } = [];

    /// <summary>An event older than this tells nobody; <see langword="null"/> for what the urgency says.</summary>
    public Duration? NotOlderThan { get; init; }

    /// <summary>What the order system is asked at once.</summary>
    public ImmutableArray<InstructionAsk> Do { get; init; } = [];

    /// <summary>What whoever is told may ask for by a button.</summary>
    public ImmutableArray<InstructionAsk> Offer { get; init; } = [];

    /// <summary>What the order system is asked when somebody answers, by the answer.</summary>
    public ImmutableArray<AnswerDo> OnAnswer { get; init; } = [];

    /// <summary>What the order system is asked when a message of the alert has landed: a mark that it went out.</summary>
    public ImmutableArray<InstructionAsk> OnLanded { get; init; } = [];

    /// <summary>It asks the order system for something, or offers it.</summary>
    public bool Acts => !Do.IsEmpty || !OnLanded.IsEmpty || !Offer.IsEmpty || !OnAnswer.IsEmpty || Ladder.Any(s => !s.Do.IsEmpty);
}

/// <summary>What the order system is asked when an answer is given.</summary>
/// <param name="Answer">The answer.</param>
/// <param name="Do">What it is asked.</param>
public sealed record AnswerDo(AnswerKind Answer, ImmutableArray<InstructionAsk> Do);

/// <summary>A guard against too many alerts of one rule.</summary>
/// <param name="Alerts">So many are told as usual.</param>
/// <param name="Within">In this span; those beyond are gathered into one message per reader that goes at its end.</param>
public sealed record StormGuard(int Alerts, Duration Within);

/// <summary>A document that is made of an order.</summary>
public enum DocumentKind
{
    /// <summary>What was ordered, with prices.</summary>
    OrderConfirmation,

    /// <summary>What is to be picked at a site.</summary>
    PickingList,

    /// <summary>What is in a shipment, and what follows later.</summary>
    ShippingNote,
}

/// <summary>Something that goes with a rule's mails.</summary>
/// <param name="Document">The document, or <see langword="null"/> for a file.</param>
/// <param name="File">The field that holds a file's address: <c>order.extra.drawing</c>; or <see langword="null"/>.</param>
/// <param name="Audience">Who gets it, or <see langword="null"/> for every reader.</param>
public sealed record Attachment(DocumentKind? Document, string? File, People.Audience? Audience);
