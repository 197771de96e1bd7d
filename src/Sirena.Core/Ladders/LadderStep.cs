using System.Collections.Immutable;
using NodaTime;
using Sirena.Core.Rules;

namespace Sirena.Core.Ladders;

/// <summary>What a step's delay counts.</summary>
public enum StepClock
{
    /// <summary>Clock time since the alert was raised.</summary>
    After,

    /// <summary>Working time since the alert was raised.</summary>
    AfterWorking,

    /// <summary>Clock time before the order is due.</summary>
    BeforeDue,
}

/// <summary>A further step while nobody answers.</summary>
/// <param name="Clock">What its delay counts.</param>
/// <param name="Delay">Its delay.</param>
/// <param name="Tell">Who is told.</param>
/// <param name="By">By what; what the case uses where it is <see langword="null"/>.</param>
/// <param name="Wording">The wording's id; the case's where it is <see langword="null"/>.</param>
public sealed record LadderStep(StepClock Clock, Duration Delay, ImmutableArray<Recipient> Tell, Ways? By, string? Wording)
{
    /// <summary>How it comes again while still nobody answers, or <see langword="null"/> for once only.</summary>
    public StepRepeat? Repeat { get; init; }

    /// <summary>What the order system is asked when it fires.</summary>
    public ImmutableArray<Instructions.InstructionAsk> Do { get; init; } = [];
}

/// <summary>How a step comes again.</summary>
/// <param name="Times">How many times more, 1 to 20.</param>
/// <param name="Every">How long after the time before; clock time.</param>
public sealed record StepRepeat(int Times, Duration Every);
