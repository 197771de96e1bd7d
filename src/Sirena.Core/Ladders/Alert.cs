using NodaTime;
using Sirena.Core.Rules;

namespace Sirena.Core.Ladders;

/// <summary>Where an alert stands. Only done and withdrawn are final.</summary>
public enum AlertState
{
    /// <summary>Nobody has answered.</summary>
    Open,

    /// <summary>Somebody has it.</summary>
    Taken,

    /// <summary>It was seen to.</summary>
    Done,

    /// <summary>The last step passed and nobody answered.</summary>
    Lapsed,

    /// <summary>The order moved on.</summary>
    Withdrawn,
}

/// <summary>One rule's case that matched one event.</summary>
public sealed partial class Alert
{
    /// <summary>Its id, a version 7 UUID.</summary>
    public Guid Id { get; init; }

    /// <summary>The event that raised it.</summary>
    public long EventId { get; init; }

    /// <summary>Its order, or <see langword="null"/> for an event without one.</summary>
    public string? OrderNumber { get; init; }

    /// <summary>The order number, or the key of the thing that the event is about; alerts join by it.</summary>
    public string? Subject { get; init; }

    /// <summary>The rule's id.</summary>
    public required string RuleId { get; init; }

    /// <summary>The rule's version.</summary>
    public int Version { get; set; }

    /// <summary>The case's name.</summary>
    public required string Case { get; set; }

    /// <summary>The rule's urgency when it matched.</summary>
    public Urgency Urgency { get; set; }

    /// <summary>Where it stands.</summary>
    public AlertState State { get; set; }

    /// <summary>When it was raised.</summary>
    public Instant RaisedAt { get; init; }

    /// <summary>When it ended (done, lapsed, withdrawn), or <see langword="null"/>.</summary>
    public Instant? EndedAt { get; set; }

    /// <summary>The id of the person who has it, or <see langword="null"/>.</summary>
    public string? TakenBy { get; set; }

    /// <summary>Since when, or <see langword="null"/>.</summary>
    public Instant? TakenAt { get; set; }

    /// <summary>By when whoever took it is to have it done, or <see langword="null"/> while nobody has it or no time is set.</summary>
    public Instant? DoneBy { get; set; }

    /// <summary>The pause that holds it, or <see langword="null"/>.</summary>
    public int? PausedBy { get; set; }

    /// <summary>Since when it is held.</summary>
    public Instant? PausedAt { get; set; }

    /// <summary>From when its ladder counts: when it was raised, passed on, or joined anew.</summary>
    public Instant BeganAt { get; set; }

    /// <summary>How long its clock has stood still since then; while its messages are held this runs ahead, to their release.</summary>
    public Duration Stood { get; set; }

    /// <summary>Since when the clock stands still because somebody has it or a pause holds it, or <see langword="null"/> while it runs.</summary>
    public Instant? StoppedAt { get; set; }

    /// <summary>Until when all messages of the step that fired last are held (quiet hours, gathering), or <see langword="null"/>.</summary>
    public Instant? HeldUntil { get; set; }

    /// <summary>The end of the last wait: with no step ahead and no answer by then it lapses.</summary>
    public Instant? WaitsUntil { get; set; }

    /// <summary>How often somebody put it off.</summary>
    public int PutOff { get; set; }

    /// <summary>How many of its recipients resolved to nobody.</summary>
    public int Unreached { get; set; }

    /// <summary>Somebody was told, so that somebody can answer.</summary>
    public bool ReachesSomebody { get; set; }
}

/// <summary>What makes a step fire.</summary>
public enum StepCause
{
    /// <summary>Its time.</summary>
    Due,

    /// <summary>The step before it reached nobody.</summary>
    Failed,

    /// <summary>Those who were told cannot.</summary>
    Declined,

    /// <summary>The order is due before its time would come.</summary>
    OrderDue,

    /// <summary>The alert was passed on to those whom it tells.</summary>
    Passed,
}

/// <summary>A step of an alert's ladder that fired or will.</summary>
public sealed class AlertStep
{
    /// <summary>The alert.</summary>
    public Guid AlertId { get; init; }

    /// <summary>0 for the first telling.</summary>
    public int Index { get; init; }

    /// <summary>
    /// Its place in the case's ladder, 0 for the first telling. It differs from the index once the alert was passed on: the ladder begins anew then, and what
    /// fired before stays as proof.
    /// </summary>
    public int Rung { get; init; }

    /// <summary>
    /// Whom it tells instead of the case's recipients: a person or a team, where the alert was passed on to them; else <see langword="null"/>.
    /// </summary>
    public Recipient? Aim { get; init; }

    /// <summary>When it is due.</summary>
    public Instant DueAt { get; set; }

    /// <summary>When it fired, or <see langword="null"/>.</summary>
    public Instant? FiredAt { get; set; }

    /// <summary>What makes it fire when it does.</summary>
    public StepCause Cause { get; set; }

    /// <summary>It fires before its time.</summary>
    public bool PulledForward => Cause is not (StepCause.Due or StepCause.Passed);

    /// <summary>Who was told, as resolved when it fired.</summary>
    public IReadOnlyList<People.Told> Told { get; set; } = [];

    /// <summary>Who was left out and why.</summary>
    public IReadOnlyList<People.LeftOut> Left { get; set; } = [];

    /// <summary>What made a person one of those who were told, after 'because'; <see langword="null"/> where they were not.</summary>
    /// <param name="person">The person's id.</param>
    public string? BecauseOf(string person) => Told.FirstOrDefault(t => t.Person == person)?.Because;
}

/// <summary>What a person did with an alert.</summary>
public sealed class Answer
{
    /// <summary>Its number.</summary>
    public long Id { get; init; }

    /// <summary>The alert.</summary>
    public Guid AlertId { get; init; }

    /// <summary>The person's id.</summary>
    public required string Person { get; init; }

    /// <summary>What they said.</summary>
    public required AnswerKind Kind { get; init; }

    /// <summary>When.</summary>
    public Instant At { get; init; }

    /// <summary>By what: <c>screen</c>, <c>mail link</c>, <c>reply</c>.</summary>
    public required string Via { get; init; }

    /// <summary>The supervisor who entered it for them, or <see langword="null"/>.</summary>
    public string? EnteredBy { get; init; }

    /// <summary>Their words, or <see langword="null"/>.</summary>
    public string? Note { get; init; }

    /// <summary>The note begins with what completes the answer: to whom it is passed on, until when it is put off.</summary>
    public bool NoteCompletes => Kind is AnswerKind.Passed or AnswerKind.Later;

    /// <summary>It came when the alert was over, and changed nothing.</summary>
    public bool Late => Note?.StartsWith(TooLate, StringComparison.Ordinal) == true;

    /// <summary>How the note of an answer begins that came too late.</summary>
    public const string TooLate = "too late: ";
}
