using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Engine.Decide;

/// <summary>An order's due time, as an event tells of it.</summary>
public static class DueTime
{
    /// <summary>When the event's order is due, after the event or before it; <see langword="null"/> for no due time.</summary>
    public static Instant? Of(OrderEvent happened, bool before = false) =>
        Facts.Member(before ? happened.Before : happened.After, "dueAt") is { ValueKind: System.Text.Json.JsonValueKind.String } at
            ? Facts.Time(at.GetString())
            : null;
}
