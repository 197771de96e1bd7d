using NodaTime;
using Sirena.Core.Orders;

namespace Sirena.Storage.Orders;

/// <summary>An event on its way in, with the prefix of its source's order numbers.</summary>
public sealed record Arrival(IncomingEvent Event, string Prefix, Instant Received)
{
    /// <summary>It came in a crowd.</summary>
    public bool Crowd { get; init; }

    /// <summary>It lay here not understood and was taken again: it is decided later than it should have been.</summary>
    public bool Again { get; init; }

    /// <summary>The id of the source that it came by, or <see langword="null"/> for Sirena itself.</summary>
    public string? By { get; init; }

    /// <summary>It is taken in without asking the rules: nobody is told.</summary>
    public bool Silent { get; init; }
}
