using System.Text.Json.Serialization;

namespace Sirena.Core.Sources;

/// <summary>What a listing is for.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ListingRole>))]
public enum ListingRole
{
    /// <summary>Its difference from the one before becomes events of orders.</summary>
    Orders,

    /// <summary>It makes no events; it is compared with what is known here.</summary>
    Check,

    /// <summary>Its difference becomes events of things that are no orders: stock.</summary>
    Things,
}

/// <summary>How a listing is taken.</summary>
public sealed record ListingPlan
{
    /// <summary>What it is for.</summary>
    public ListingRole Role { get; init; }

    /// <summary>The column that tells one row from another.</summary>
    public string Key { get; init; } = "";

    /// <summary>The status of an order whose row is gone; <see langword="null"/> for none: a gone row means nothing.</summary>
    public string? Gone { get; init; }

    /// <summary>The separator, or <see langword="null"/> to find it in the head row.</summary>
    public char? Separator { get; init; }

    /// <summary>The character set where no byte-order mark says another.</summary>
    public string Charset { get; init; } = "utf-8";

    /// <summary>When it is fetched, a cron expression in the business's zone; <see langword="null"/> where it is not.</summary>
    public string? Schedule { get; init; }

    /// <summary>Where it is fetched, https; <see langword="null"/> where it is handed over.</summary>
    public string? Url { get; init; }

    /// <summary>The folder that is watched for it, or <see langword="null"/>.</summary>
    public string? Folder { get; init; }

    /// <summary>From which share of gone rows on a run waits for a person.</summary>
    public decimal GoneAtMost { get; init; } = 0.3m;

    /// <summary>From which share of changed rows on.</summary>
    public decimal ChangedAtMost { get; init; } = 0.5m;

    /// <summary>The runs in which a difference must stand before it counts, in a check.</summary>
    public int Stands { get; init; } = 2;
}
