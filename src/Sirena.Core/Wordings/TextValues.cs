using System.Text.Json;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Wordings;

/// <summary>A value in a text: it shows itself, has other forms and parts by name, and may be a list that a section runs over.</summary>
public abstract class TextValue
{
    /// <summary>What stands for it in the text; empty for nothing.</summary>
    public abstract string Show();

    /// <summary>A part or a form of it; <see langword="null"/> where it has none of that name.</summary>
    public virtual TextValue? Part(string name) => null;

    /// <summary>The items of a list, or <see langword="null"/> for what is none.</summary>
    public virtual IReadOnlyList<TextValue>? Items => null;

    /// <summary>A section over it is shown.</summary>
    public virtual bool Holds => Items is { } items ? items.Count > 0 : Show().Length > 0;
}

/// <summary>A text with nothing to it.</summary>
public sealed class PlainValue(string text) : TextValue
{
    /// <inheritdoc/>
    public override string Show() => text;
}

/// <summary>A number of things; a section over none is not shown.</summary>
public sealed class CountValue(int count) : TextValue
{
    /// <inheritdoc/>
    public override string Show() => count.ToString(System.Globalization.CultureInfo.InvariantCulture);

    /// <inheritdoc/>
    public override bool Holds => count > 0;
}

/// <summary>Texts that a section runs over; joined by commas where they stand alone.</summary>
public sealed class TextList(IReadOnlyList<TextValue> items, Func<string>? table = null) : TextValue
{
    /// <inheritdoc/>
    public override IReadOnlyList<TextValue> Items => items;

    /// <inheritdoc/>
    public override string Show() => string.Join(", ", items.Select(i => i.Show()).Where(t => t.Length > 0));

    /// <inheritdoc/>
    public override TextValue? Part(string name) =>
        name switch
        {
            "table" when table is not null => new PlainValue(table()),
            "count" => new CountValue(items.Count),
            _ => null,
        };
}

/// <summary>Parts by name.</summary>
/// <param name="part">Finds a part.</param>
/// <param name="show">What it shows of itself.</param>
/// <param name="kept">Each part is found once: for what several texts ask the same of.</param>
public sealed class TextMap(Func<string, TextValue?> part, Func<string>? show = null, bool kept = false) : TextValue
{
    private readonly Dictionary<string, TextValue?>? parts = kept ? [] : null;

    /// <inheritdoc/>
    public override string Show() => show?.Invoke() ?? "";

    /// <inheritdoc/>
    public override TextValue? Part(string name) =>
        parts is null ? part(name)
        : parts.TryGetValue(name, out var known) ? known
        : parts[name] = part(name);

    /// <inheritdoc/>
    public override bool Holds => true;
}

/// <summary>A value as JSON carries it, shown by its type in a language and time zone.</summary>
/// <param name="value">The value.</param>
/// <param name="type">Its type.</param>
/// <param name="language">The language.</param>
/// <param name="zone">The time zone.</param>
/// <param name="now">The moment from which 'until' counts.</param>
/// <param name="currency">For amounts.</param>
/// <param name="lines">It may be a text of several lines; of any other a line break becomes a space, so that no name can pose as a line of the message.</param>
public sealed class FieldValue(JsonElement value, FieldType type, TextLanguage language, DateTimeZone zone, Instant now, string currency, bool lines = false)
    : TextValue
{
    private string? shown;

    /// <inheritdoc/>
    public override string Show() =>
        shown ??= type switch
        {
            FieldType.Money when Amount is { } d => language.Money(d, currency),
            FieldType.Number when Amount is { } d => language.Number(d),
            FieldType.Time when At is { } at => language.Moment(at.InZone(zone)),
            FieldType.Duration when Span is { } span => language.Span(span),
            FieldType.Choice => language.Word(Clean(Raw(value))),
            FieldType.YesNo when value.ValueKind is JsonValueKind.True or JsonValueKind.False => language.Word(
                value.ValueKind == JsonValueKind.True ? "yes" : "no"
            ),
            FieldType.Any or FieldType.Text when value.ValueKind == JsonValueKind.Number && Amount is { } d => language.Number(d),
            FieldType.Any when value.ValueKind is JsonValueKind.True or JsonValueKind.False => language.Word(
                value.ValueKind == JsonValueKind.True ? "yes" : "no"
            ),
            FieldType.Any when value.ValueKind == JsonValueKind.String && At is { } at => language.Moment(at.InZone(zone)),
            _ => lines ? Clean(Raw(value)) : CleanLine(Raw(value)),
        };

    /// <inheritdoc/>
    public override TextValue? Part(string name) =>
        name switch
        {
            "plain" => new PlainValue(lines ? Clean(Raw(value)) : CleanLine(Raw(value))),
            "date" when At is { } at => new PlainValue(language.Date(at.InZone(zone).Date)),
            "time" when At is { } at => new PlainValue(TextLanguage.Time(at.InZone(zone).TimeOfDay)),
            "until" when At is { } at => new PlainValue(language.Until(at - now)),
            _ => null,
        };

    private decimal? Amount => Facts.Decimal(value);

    private Instant? At => value.ValueKind == JsonValueKind.String && value.GetString() is { Length: >= 17 } text ? Facts.Time(text) : null;

    private Duration? Span => value.ValueKind == JsonValueKind.String ? Durations.Parse(value.GetString()!) : null;

    /// <inheritdoc/>
    public override bool Holds => value.ValueKind != JsonValueKind.False && Show().Length > 0;

    private static string Raw(JsonElement value) =>
        value.ValueKind is JsonValueKind.Undefined or JsonValueKind.Null ? ""
        : value.ValueKind is JsonValueKind.True or JsonValueKind.False ? value.GetRawText()
        : Facts.InWords(value);

    /// <summary>
    /// Without control characters: printers obey them and headers break on them. A half of a surrogate pair becomes the replacement character.
    /// </summary>
    public static string Clean(string text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            if (
                (char.IsControl(c) && c is not '\n')
                || c is MessageWriter.RawBegin or MessageWriter.RawEnd or MessageWriter.FactsMark
                || (char.IsSurrogate(c) && !(i + 1 < text.Length && char.IsSurrogatePair(c, text[i + 1])))
            )
            {
                return Cleaned(text);
            }

            i += char.IsSurrogate(c) ? 1 : 0;
        }

        return text;
    }

    /// <summary>Clean, and on one line.</summary>
    public static string CleanLine(string text) => MessageWriter.OneLine(Clean(text));

    private static string Cleaned(string text)
    {
        var clean = new System.Text.StringBuilder(text.Length);
        foreach (var rune in text.EnumerateRunes())
        {
            clean.Append(
                (System.Text.Rune.IsControl(rune) && rune.Value != '\n')
                || rune.Value is MessageWriter.RawBegin or MessageWriter.RawEnd or MessageWriter.FactsMark
                    ? " "
                    : rune.ToString()
            );
        }

        return clean.ToString();
    }
}
