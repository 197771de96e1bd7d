using System.Collections.Immutable;
using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Core.Rules;

/// <summary>By which channels somebody is told.</summary>
/// <param name="Channels">In order; at least one.</param>
/// <param name="FirstThatLands">One after the other until one lands, else all at once.</param>
/// <param name="Wait">How long each has to land before the next is tried.</param>
public sealed record Ways(ImmutableArray<Channel> Channels, bool FirstThatLands, Duration Wait)
{
    /// <summary>The wait of a <c>firstThatLands</c> that names none: two minutes.</summary>
    public static Duration UsualWait { get; } = Duration.FromMinutes(2);

    /// <summary>All at once.</summary>
    public static Ways AllAtOnce(params Channel[] channels) => new([.. channels], false, Duration.Zero);
}
