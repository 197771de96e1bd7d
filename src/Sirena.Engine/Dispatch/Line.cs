using Sirena.Channels;
using Sirena.Core.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>A gateway that can be used, with what this node knows of its health.</summary>
/// <param name="Id">Its id, or <see langword="null"/> for what is no one connection: printers, browsers.</param>
/// <param name="Gateway">The connection.</param>
/// <param name="Trial">It rested because it failed: a few messages try whether it works again.</param>
public sealed record Line(string? Id, IGateway Gateway, bool Trial = false)
{
    /// <summary>Its settings, where it has any.</summary>
    public Gateway? Settings { get; init; }

    /// <summary>Keeps to its rate; <see langword="null"/> when it has none.</summary>
    public System.Threading.RateLimiting.RateLimiter? Pace { get; init; }
}
