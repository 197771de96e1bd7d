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
public sealed record LadderStep(StepClock Clock, Duration Delay, ImmutableArray<Recipient> Tell, Ways? By, string? Wording);
