using System.Text.Json;

namespace Sirena.Core.Rules;

/// <summary>What a rule made of an event.</summary>
public enum Outcome
{
    /// <summary>It matched and raised an alert (or its case tells nobody).</summary>
    Matched,

    /// <summary>A condition did not hold.</summary>
    NotMatched,

    /// <summary>It matched, and an alert of the same rule and order was already open.</summary>
    Joined,

    /// <summary>It matched within the rule's rest period.</summary>
    Resting,

    /// <summary>It matched, and the event was too old to tell anybody.</summary>
    TooLate,

    /// <summary>The rule was off.</summary>
    Off,
}

/// <summary>One condition and what became of it.</summary>
/// <param name="Field">The field's path.</param>
/// <param name="Is">The operator.</param>
/// <param name="Wanted">What the rule wanted; undefined where the operator takes nothing.</param>
/// <param name="Found">What the event had; undefined when it was missing.</param>
/// <param name="Holds">The verdict.</param>
/// <param name="Problem">Why it could not be compared, or <see langword="null"/>.</param>
/// <param name="Case">The case that it belongs to, or <see langword="null"/> for the rule's own.</param>
public sealed record ConditionTrace(string Field, Operator Is, JsonElement Wanted, JsonElement Found, bool Holds, string? Problem, string? Case);

/// <summary>A rule that listens to the event, and its verdict.</summary>
/// <param name="Rule">The rule.</param>
/// <param name="Version">Its version.</param>
/// <param name="Outcome">Matched, not matched or off; the engine narrows a match to joined, resting or too late.</param>
/// <param name="Case">The case used, when it matched.</param>
/// <param name="Conditions">Every condition that was asked; empty where only the verdict was wanted.</param>
public sealed record Decision(Rule Rule, int Version, Outcome Outcome, RuleCase? Case, IReadOnlyList<ConditionTrace> Conditions);
