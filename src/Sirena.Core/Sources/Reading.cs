using System.Collections.Frozen;
using System.Text.Json;
using NodaTime;

namespace Sirena.Core.Sources;

/// <summary>Where one value comes from and how it is read.</summary>
public sealed record ValueReading
{
    /// <summary>Where it stands; <see langword="null"/> where it comes from elsewhere.</summary>
    public BodyPath? Path { get; init; }

    /// <summary>The column or the form's field as it was named; <see cref="Path"/> then is that one member.</summary>
    public string? Column { get; init; }

    /// <summary>The header that holds it.</summary>
    public string? Header { get; init; }

    /// <summary>A fixed value; undefined where it is none.</summary>
    public JsonElement Always { get; init; }

    /// <summary>Several values that are written one behind the other; absent ones are left out.</summary>
    public IReadOnlyList<ValueReading> Join { get; init; } = [];

    /// <summary>What stands between those.</summary>
    public string Between { get; init; } = " ";

    /// <summary>The forms of a time, tried in order; none takes RFC 3339, and ISO 8601 without an offset where there is a zone.</summary>
    public IReadOnlyList<TimeForm> Forms { get; init; } = [];

    /// <summary>The zone of wall times; the business's where it is <see langword="null"/>.</summary>
    public DateTimeZone? Zone { get; init; }

    /// <summary>The sign before decimals, or <see langword="null"/> for plain numbers.</summary>
    public char? Decimal { get; init; }

    /// <summary>How many digits of a whole number are decimals: 2 for cents; 0 for none.</summary>
    public int Minor { get; init; }

    /// <summary>Their words and what each means here; <see langword="null"/> where there are none.</summary>
    public FrozenDictionary<string, string>? Words { get; init; }

    /// <summary>What any other word means; <see langword="null"/> where other words are a problem.</summary>
    public string? Else { get; init; }

    /// <summary>The words that mean yes; any other means no.</summary>
    public IReadOnlyList<string> Yes { get; init; } = [];

    /// <summary>Space around it goes.</summary>
    public bool Trim { get; init; }

    /// <summary>Where it comes from, as a person reads it.</summary>
    public string From =>
        this switch
        {
            { Column: { } column } => $"column '{column}'",
            { Path: { } path } => path.Text,
            { Header: { } header } => $"header {header}",
            { Join.Count: > 0 } => string.Join(" + ", Join.Select(j => j.From)),
            _ => "always",
        };
}

/// <summary>One member of the event and the value that fills it.</summary>
public sealed record FieldReading(ReadingField Field, ValueReading Value);

/// <summary>The lines of an order: which list they are, and what of each item is read.</summary>
/// <param name="Each">The list, with its wildcard.</param>
/// <param name="Fields">What is read, by paths from the item.</param>
public sealed record LinesReading(BodyPath Each, IReadOnlyList<FieldReading> Fields);

/// <summary>
/// How the bodies of a source become events: a document like a rule. Within <see cref="Each"/> a path begins at the item; the event, its id and its time are
/// looked for there first and then in the whole body.
/// </summary>
public sealed record Reading
{
    /// <summary>What <see cref="Otherwise"/> says when the body is not understood.</summary>
    public const string NotUnderstood = "not-understood";

    /// <summary>What a word means that makes no event.</summary>
    public const string Ignore = "ignore";

    /// <summary>The source that it was written for, or <see langword="null"/>.</summary>
    public string? Source { get; init; }

    /// <summary>What tells one event from another; <see langword="null"/> for the body itself.</summary>
    public ValueReading? Id { get; init; }

    /// <summary>Which event it is: a type, by words; <see langword="null"/> in a listing, where the difference says it.</summary>
    public ValueReading? Event { get; init; }

    /// <summary>What any other word, or none, means: <see cref="NotUnderstood"/>, <see cref="Ignore"/>, or a type.</summary>
    public string Otherwise { get; init; } = NotUnderstood;

    /// <summary>When it happened; <see langword="null"/> for when it came.</summary>
    public ValueReading? Time { get; init; }

    /// <summary>The list whose items are an event each; <see langword="null"/> for one event a body.</summary>
    public BodyPath? Each { get; init; }

    /// <summary>What fills the event's data.</summary>
    public IReadOnlyList<FieldReading> Fields { get; init; } = [];

    /// <summary>The order's lines, or <see langword="null"/>.</summary>
    public LinesReading? Lines { get; init; }

    /// <summary>What nothing reads goes to <c>order.extra</c> by its own names.</summary>
    public bool KeepRest { get; init; } = true;

    /// <summary>The value that fills a member, or <see langword="null"/>.</summary>
    public ValueReading? Of(string path) => Fields.FirstOrDefault(f => f.Field.Path == path)?.Value;
}

/// <summary>What could not be read.</summary>
/// <param name="Path">Where: a path in the body, a column, a header; <c>$</c> for the whole.</param>
/// <param name="Found">What stood there, cut; <see langword="null"/> for nothing.</param>
/// <param name="Wanted">What was wanted, to be read after 'wanted'.</param>
public sealed record BodyProblem(string Path, string? Found, string Wanted)
{
    /// <summary>In one sentence.</summary>
    public string Sentence =>
        Path is "$" or "/"
            ? $"Wanted is {Wanted}{(Found is null ? "" : $"; it begins with '{Found}'")}."
            : $"{Path}: {(Found is null ? "nothing stands there" : $"'{Found}' stands there")}, wanted is {Wanted}.";
}

/// <summary>An event that a body makes.</summary>
/// <param name="Id">What the reading gives as its id, or <see langword="null"/>.</param>
/// <param name="Type">Its type.</param>
/// <param name="Time">When it happened, or <see langword="null"/>.</param>
/// <param name="Data">Its data.</param>
public sealed record BodyEvent(string? Id, string Type, Instant? Time, System.Text.Json.Nodes.JsonObject Data);

/// <summary>What a body becomes. With a problem it makes no event at all; without one and without an event it was ignored.</summary>
public sealed record BodyResult(IReadOnlyList<BodyEvent> Events, IReadOnlyList<BodyProblem> Problems)
{
    /// <summary>The reading says that it is nothing to us.</summary>
    public bool Ignored => Events.Count == 0 && Problems.Count == 0;
}
