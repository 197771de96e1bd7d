using NodaTime;

namespace Sirena.Core.Orders;

/// <summary>What is known of one order as of its last event, with the columns by which orders are found.</summary>
public sealed class Order
{
    /// <summary>Its number.</summary>
    public required string Number { get; init; }

    /// <summary>The order, JSON as in the contract.</summary>
    public string Document { get; init; } = "{}";

    /// <summary>Since when each member holds; <see cref="OrderState.TimesJson"/>.</summary>
    public string Times { get; init; } = "{}";

    /// <summary>The number of its events.</summary>
    public long Seq { get; init; }

    /// <summary>The status's id, or <see langword="null"/>.</summary>
    public string? Status { get; init; }

    /// <summary>Its status is not a closed one.</summary>
    public bool Open { get; init; }

    /// <summary>The customer's name.</summary>
    public string? Customer { get; init; }

    /// <summary>When it is due.</summary>
    public Instant? DueAt { get; init; }

    /// <summary>Its total in <see cref="Currency"/>.</summary>
    public decimal? Total { get; init; }

    /// <summary>ISO 4217.</summary>
    public string? Currency { get; init; }

    /// <summary>How risky it is.</summary>
    public RiskLevel Risk { get; init; }

    /// <summary>0 to 100, or <see langword="null"/>.</summary>
    public decimal? RiskScore { get; init; }

    /// <summary>Why it is held, or <see langword="null"/> when it is not.</summary>
    public string? HoldReason { get; init; }

    /// <summary>The sites of the order and its lines.</summary>
    public string[] Sites { get; init; } = [];

    /// <summary>The salesperson's id.</summary>
    public string? Salesperson { get; init; }

    /// <summary>The sources that have told of it, the first first.</summary>
    public string[] ToldBy { get; init; } = [];

    /// <summary>The time of its last event.</summary>
    public Instant ChangedAt { get; init; }

    /// <summary>Number, customer with code, and fields of the business's own, folded, for the search field.</summary>
    public string Search { get; init; } = "";
}

/// <summary>How risky an order is, as its system says.</summary>
public enum RiskLevel
{
    /// <summary>Not said.</summary>
    None,

    /// <summary>Low.</summary>
    Low,

    /// <summary>Medium.</summary>
    Medium,

    /// <summary>High.</summary>
    High,
}

/// <summary>What a status means for the orders that stand in it.</summary>
public enum StatusKind
{
    /// <summary>Somebody works on them.</summary>
    Open,

    /// <summary>They are done with.</summary>
    Closed,

    /// <summary>They are done with, and it cannot be left again.</summary>
    Final,

    /// <summary>As final; they came to nothing.</summary>
    Void,
}

/// <summary>Where an order can stand, as the supervisor defines it.</summary>
public sealed class Status
{
    /// <summary>The id: <c>credit-check</c>.</summary>
    public required string Id { get; init; }

    /// <summary>The name: Credit check.</summary>
    public required string Name { get; set; }

    /// <summary>The mark's id in the design's own set.</summary>
    public required string Mark { get; set; }

    /// <summary>The tone of its mark, one of <see cref="StatusTones"/>; <see langword="null"/> for the one of its kind.</summary>
    public string? Tone { get; set; }

    /// <summary>Its place in the usual way of an order, from 1.</summary>
    public int Position { get; set; }

    /// <summary>What it means for an order to stand in it.</summary>
    public StatusKind Kind { get; set; }

    /// <summary>An order in it is done with.</summary>
    public bool Closed => Kind != StatusKind.Open;

    /// <summary>It cannot be left again.</summary>
    public bool Final => Kind is StatusKind.Final or StatusKind.Void;

    /// <summary>It is closed and the order came to nothing: cancelled.</summary>
    public bool Void => Kind == StatusKind.Void;

    /// <summary>The statuses that may follow it, by id; empty for any.</summary>
    public string[] Follows { get; set; } = [];

    /// <summary>Why an order that stands in it should not go to another, or <see langword="null"/> where it may.</summary>
    /// <param name="to">The other.</param>
    public string? WhyNot(Status to) =>
        to.Id == Id ? null
        : Final ? $"{Name} cannot be left"
        : Follows.Length > 0 && !Follows.Contains(to.Id) ? $"{to.Name} does not follow {Name}"
        : null;

    /// <summary>The words that the order system uses for it, beside its id.</summary>
    public string[] Words { get; set; } = [];

    /// <summary>What the customer reads for it, or <see langword="null"/> when it is internal.</summary>
    public string? CustomerSees { get; set; }

    /// <summary>How many minutes an order may stand in it, or <see langword="null"/> for no limit.</summary>
    public int? AllowedMinutes { get; set; }

    /// <summary>How many orders may stand in it that nobody has accepted, or <see langword="null"/> for no limit.</summary>
    public int? BacklogLimit { get; set; }

    /// <summary>Since when more stand in it; <see langword="null"/> while they do not.</summary>
    public Instant? BacklogSince { get; set; }
}
