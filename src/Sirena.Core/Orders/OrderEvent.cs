using System.Text.Json;
using NodaTime;

namespace Sirena.Core.Orders;

/// <summary>
/// One thing that happened to an order (or to stock, or to a payment batch), as it is stored: with the order before and after it
/// as merged in intake order, so that deciding, trace and rehearsal always see the same.
/// </summary>
public sealed class OrderEvent
{
    private JsonElement? data;
    private JsonElement? before;
    private JsonElement? after;

    /// <summary>Sirena's own number of the event, in the order of intake (with gaps).</summary>
    public long Id { get; init; }

    /// <summary>CloudEvents <c>id</c>; unique within <see cref="Source"/>.</summary>
    public required string EventId { get; init; }

    /// <summary>CloudEvents <c>source</c>.</summary>
    public required string Source { get; init; }

    /// <summary>CloudEvents <c>type</c>, one of <see cref="EventTypes"/> or any other.</summary>
    public required string Type { get; init; }

    /// <summary>The order number, or the key of the thing that the event is about.</summary>
    public string? Subject { get; init; }

    /// <summary>The order's number, where the event carries an order.</summary>
    public string? OrderNumber { get; init; }

    /// <summary>The event's place among those of its order, from 1; 0 without an order.</summary>
    public long Seq { get; init; }

    /// <summary>When it happened, as the source says; never more than five minutes after <see cref="Received"/>.</summary>
    public Instant Time { get; init; }

    /// <summary>When it was taken in.</summary>
    public Instant Received { get; init; }

    /// <summary>It happened before something that was already known of its order.</summary>
    public bool Late { get; init; }

    /// <summary>Its time lay more than five minutes ahead and was taken as the time of receipt.</summary>
    public bool FromTheFuture { get; init; }

    /// <summary>The event's data as it came, JSON.</summary>
    public required string Data { get; init; }

    /// <summary>The order before the event, JSON, or <see langword="null"/> when it was not known.</summary>
    public string? OrderBefore { get; init; }

    /// <summary>The order after the event, JSON, or <see langword="null"/> when the event carries none.</summary>
    public string? OrderAfter { get; init; }

    /// <summary>The version of the rule book in force when the event was taken in.</summary>
    public long Book { get; set; }

    /// <summary>When the rules were decided, or <see langword="null"/>.</summary>
    public Instant? DecidedAt { get; set; }

    /// <summary>It came in a crowd: a large batch, a listing. It is decided beside what comes alone, not before it.</summary>
    public bool Crowd { get; init; }

    /// <summary>When it was set aside because it could not be decided; <see langword="null"/> when it was not, or was decided since.</summary>
    public Instant? SetAsideAt { get; set; }

    /// <summary>It was decided anew, later than it should have been.</summary>
    public bool DecidedLate { get; set; }

    /// <summary>Why the event could not be decided, after the last try, or <see langword="null"/>.</summary>
    public string? Problem { get; set; }

    /// <summary>Tries to decide it that failed.</summary>
    public int Tries { get; set; }

    /// <summary>The id of the source that it came by, or <see langword="null"/> for Sirena's own.</summary>
    public string? CameBy { get; init; }

    /// <summary>The instruction that it shows to be done, or <see langword="null"/>.</summary>
    public Guid? CausedBy { get; set; }

    /// <summary>Whom it is to tell, where somebody chose; else <see langword="null"/>.</summary>
    public Instructions.TellChoice? Tell { get; set; }

    /// <summary><see cref="Data"/>, parsed.</summary>
    public JsonElement DataJson => data ??= Parse(Data);

    /// <summary><see cref="OrderBefore"/>, parsed; undefined when there is none.</summary>
    public JsonElement Before => before ??= Parse(OrderBefore);

    /// <summary><see cref="OrderAfter"/>, parsed; undefined when there is none.</summary>
    public JsonElement After => after ??= Parse(OrderAfter);

    private static JsonElement Parse(string? json)
    {
        if (json is null)
        {
            return default;
        }

        using var document = JsonDocument.Parse(json);
        return document.RootElement.Clone();
    }
}
