using NodaTime;

namespace Sirena.Core.Sources;

/// <summary>How the order system's list and what is known here differ.</summary>
public enum MissedKind
{
    /// <summary>Never heard of.</summary>
    Unknown,

    /// <summary>Another status there.</summary>
    Status,

    /// <summary>Open here, gone there.</summary>
    Gone,
}

/// <summary>An order of which the order system knows what has not been heard.</summary>
public sealed class MissedOrder
{
    /// <summary>The check by which it was found.</summary>
    public required string Source { get; init; }

    /// <summary>The order.</summary>
    public required string Order { get; init; }

    /// <summary>How they differ.</summary>
    public MissedKind Kind { get; set; }

    /// <summary>The status there, or <see langword="null"/> where it is not in the list.</summary>
    public string? There { get; set; }

    /// <summary>The status here, or <see langword="null"/> where it is not known.</summary>
    public string? Here { get; set; }

    /// <summary>When it was first found so.</summary>
    public Instant Since { get; set; }

    /// <summary>When it became so by the order system's own clock, where its list says it.</summary>
    public Instant? ThereAt { get; set; }

    /// <summary>In how many runs it stood so, one after the other.</summary>
    public int Runs { get; set; }

    /// <summary>It stands in as many runs as are asked for.</summary>
    public bool Counts { get; set; }

    /// <summary>The order as its row reads, JSON; <see langword="null"/> where it is not in the list.</summary>
    public string? Row { get; set; }

    /// <summary>Why somebody set it aside; it comes back when the order changes there again.</summary>
    public string? Aside { get; set; }

    /// <summary>Who set it aside.</summary>
    public string? AsideBy { get; set; }

    /// <summary>The event that was probably missed.</summary>
    public string Event => Kind == MissedKind.Unknown ? "order.placed" : "order.status-changed";
}

/// <summary>An order as a list has it.</summary>
/// <param name="Number">Its number.</param>
/// <param name="Status">Its status's id, or <see langword="null"/>.</param>
/// <param name="PlacedAt">When it was placed, where the list says it.</param>
/// <param name="ChangedAt">When it last changed there, where the list says it.</param>
/// <param name="Document">As its row reads, JSON.</param>
public sealed record ListedOrder(string Number, string? Status, Instant? PlacedAt, Instant? ChangedAt, string Document);

/// <summary>An order as it is known here.</summary>
public sealed record KnownOrder(string Number, string? Status, bool Open, Instant ChangedAt);

/// <summary>A difference between the order system's list and what is known here.</summary>
/// <param name="Order">The order.</param>
/// <param name="Kind">How they differ.</param>
/// <param name="There">The status there.</param>
/// <param name="Here">The status here.</param>
/// <param name="ThereAt">When it became so there, where the list says it.</param>
/// <param name="Row">The order as its row reads, JSON.</param>
public sealed record MissedFound(string Order, MissedKind Kind, string? There, string? Here, Instant? ThereAt, string? Row);

/// <summary>Compares the order system's list with what is known here.</summary>
public static class CheckDifference
{
    /// <summary>A difference younger than this may be an event that is still on its way.</summary>
    public static Duration Grace { get; } = Duration.FromMinutes(10);

    /// <summary>The differences, by the order's number.</summary>
    /// <param name="listed">The list.</param>
    /// <param name="known">What is known: every open order, and each of the list's that is known.</param>
    /// <param name="now">The moment of the list.</param>
    public static IReadOnlyList<MissedFound> Of(IReadOnlyCollection<ListedOrder> listed, IReadOnlyDictionary<string, KnownOrder> known, Instant now)
    {
        var found = new List<MissedFound>();
        var names = new HashSet<string>();
        foreach (var there in listed)
        {
            names.Add(there.Number);
            if (!known.TryGetValue(there.Number, out var here))
            {
                if (!(there.PlacedAt > now - Grace))
                {
                    found.Add(new MissedFound(there.Number, MissedKind.Unknown, there.Status, null, there.ChangedAt ?? there.PlacedAt, there.Document));
                }
            }
            else if (there.Status is not null && there.Status != here.Status && here.ChangedAt <= now - Grace && !(there.ChangedAt > now - Grace))
            {
                found.Add(new MissedFound(there.Number, MissedKind.Status, there.Status, here.Status, there.ChangedAt, there.Document));
            }
        }

        found.AddRange(
            known
                .Values.Where(k => k.Open && !names.Contains(k.Number) && k.ChangedAt <= now - Grace)
                .Select(k => new MissedFound(k.Number, MissedKind.Gone, null, k.Status, null, null))
        );
        return [.. found.OrderBy(f => f.Kind).ThenBy(f => f.Order, StringComparer.Ordinal)];
    }
}
