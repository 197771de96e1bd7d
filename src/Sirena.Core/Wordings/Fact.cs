using System.Text;
using System.Text.RegularExpressions;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

/// <summary>A label and the value beside it. It is left out, label and all, where the event has no such value.</summary>
/// <param name="Label">What stands before the value, 60 characters at most: <c>Due</c>.</param>
/// <param name="Value">The field, with its form: <c>order.dueAt.time</c>.</param>
/// <param name="Labelled">Short messages, which join values by commas, say the label too.</param>
public sealed record Fact(string Label, string Value, bool Labelled = false)
{
    /// <summary>How many facts a text may have.</summary>
    public const int Most = 40;

    /// <summary>How long a label may be, in characters.</summary>
    public const int LongestLabel = 60;

    /// <summary>The name under which a text says where its facts stand.</summary>
    public const string Field = "facts";

    /// <summary>The sentence on a text with more than <see cref="Most"/>.</summary>
    /// <param name="count">How many it has.</param>
    public static string TooMany(int count) => $"A text has {Most} facts at most; here are {count}.";

    /// <summary>The member that is wrong and the sentence on it; nothing when it can be saved.</summary>
    /// <param name="audience">Who reads it.</param>
    /// <param name="seen">Further paths that events were seen to carry.</param>
    public IEnumerable<(string Member, string Problem)> Mistakes(Audience audience, IReadOnlySet<string>? seen)
    {
        if (Label.Trim().Length is 0 or > LongestLabel || Label.Any(char.IsControl))
        {
            yield return ("label", $"A fact's label is one line of 1 to {LongestLabel} characters, such as Due.");
        }
        else if (Label.Contains("{{", StringComparison.Ordinal))
        {
            yield return ("label", "A label is plain words: a field in braces would not be filled in. Make the field the fact's value.");
        }

        if (Value.Length == 0)
        {
            yield return ("value", "A fact needs a field as its value, such as order.dueAt.");
        }
        else if (Value.Contains('{', StringComparison.Ordinal) || Value.Contains('}', StringComparison.Ordinal))
        {
            yield return ("value", $"Write the field's name alone, without braces: {Value.Trim('{', '}', '#', '^', '/', ' ')}.");
        }
        else if (Value is Field or "." || "#^/!>&=".Contains(Value[0], StringComparison.Ordinal))
        {
            yield return ("value", $"'{Value}' is no field that a fact can show. Take one such as order.dueAt or order.total.");
        }
        else
        {
            foreach (var mistake in WordingCheck.Of(Braced, audience, html: false, seen))
            {
                yield return ("value", mistake.Problem);
            }
        }
    }

    /// <summary>The text that shows its value alone.</summary>
    internal string Braced => $"{{{{{Value}}}}}";
}

/// <summary>A fact that has a value, as a text carries it.</summary>
/// <param name="Fact">The fact.</param>
/// <param name="Label">Its label.</param>
/// <param name="Value">Its value.</param>
internal readonly record struct WrittenFact(Fact Fact, string Label, string Value);

/// <summary>
/// Puts facts where <c>{{facts}}</c> stands: in mail's HTML two columns, in short messages values joined by commas, elsewhere a line each. A text is first
/// written with a mark there, since what is around it depends on whether any fact is left.
/// </summary>
internal static partial class FactList
{
    private static readonly string Marked = MessageWriter.FactsMark.ToString();

    /// <summary>What stands for the facts until they are placed.</summary>
    /// <param name="any">Whether one of them has a value: a section over them asks.</param>
    public static TextValue Value(Func<bool> any) => new MarkValue(any);

    /// <summary>The facts that have a value, label and value, both as the form carries them.</summary>
    public static IReadOnlyList<WrittenFact> Written(IEnumerable<Fact> facts, Func<string, TextValue?> root, ValueForm form) =>
        [
            .. facts
                .Select(f => new WrittenFact(f, MessageWriter.Fit(f.Label.Trim(), form), MessageWriter.Write(ParsedText.Of(f.Braced), root, form).Trim()))
                .Where(f => f.Value.Length > 0),
        ];

    /// <summary>A text without its mark.</summary>
    /// <param name="text">What was written, with the mark.</param>
    /// <param name="facts">The facts.</param>
    /// <param name="form">How the text carries values; in one line they are joined by commas.</param>
    public static string Place(string text, Func<IReadOnlyList<WrittenFact>> facts, ValueForm form) =>
        form switch
        {
            _ when !text.Contains(MessageWriter.FactsMark, StringComparison.Ordinal) => text,
            ValueForm.Html => Columns(text, facts()),
            ValueForm.Line => text.Replace(
                Marked,
                string.Join(", ", facts().Select(f => f.Fact.Labelled ? $"{f.Label}: {f.Value}" : f.Value)),
                StringComparison.Ordinal
            ),
            _ => Lines(text, string.Join('\n', facts().Select(f => $"{f.Label}:{(f.Value.Contains('\n', StringComparison.Ordinal) ? '\n' : ' ')}{f.Value}"))),
        };

    /// <summary>A text made into HTML paragraphs, with the facts between them.</summary>
    /// <param name="text">The plain text, with the mark.</param>
    /// <param name="facts">The facts as HTML carries them.</param>
    /// <param name="paragraphs">Makes paragraphs of a text.</param>
    public static string Between(string text, Func<IReadOnlyList<WrittenFact>> facts, Func<string, string> paragraphs)
    {
        if (!text.Contains(MessageWriter.FactsMark, StringComparison.Ordinal))
        {
            return paragraphs(text);
        }

        var written = facts();
        return string.Join(
            Table(written),
            Lines(text, written.Count == 0 ? "" : Marked).Split(MessageWriter.FactsMark).Select(part => paragraphs(part.Trim('\n')))
        );
    }

    // A mark alone on its line takes the line with it when there is nothing to say; what was around it keeps its distance.
    private static string Lines(string text, string lines) =>
        lines.Length > 0
            ? text.Replace(Marked, lines, StringComparison.Ordinal)
            : Alone()
                .Replace(text, m => m.Groups[1].Length == 0 || m.Groups[2].Length == 0 ? ""
                    : m.Groups[1].Length > m.Groups[2].Length ? m.Groups[1].Value
                    : m.Groups[2].Value)
                .Replace(Marked, "", StringComparison.Ordinal);

    private static string Columns(string html, IReadOnlyList<WrittenFact> facts) =>
        Paragraph().Replace(html, Marked).Replace(Marked, Table(facts), StringComparison.Ordinal);

    private static string Table(IReadOnlyList<WrittenFact> facts)
    {
        if (facts.Count == 0)
        {
            return "";
        }

        var table = new StringBuilder("<table style=\"border-collapse:collapse;margin:0 0 14px\">");
        foreach (var (_, label, value) in facts)
        {
            table
                .Append("<tr><th scope=\"row\" style=\"font-weight:normal;text-align:left;vertical-align:top;padding:1px 18px 1px 0;opacity:.75\">")
                .Append(label)
                .Append("</th><td style=\"vertical-align:top;padding:1px 0\">")
                .Append(value.Replace("\n", "<br>", StringComparison.Ordinal))
                .Append("</td></tr>");
        }

        return table.Append("</table>").ToString();
    }

    [GeneratedRegex(@"(^|\n+)[ \t]*\uE002[ \t]*(\n+|$)")]
    private static partial Regex Alone();

    [GeneratedRegex(@"<p(?:\s[^>]*)?>\s*\uE002\s*</p>", RegexOptions.IgnoreCase)]
    private static partial Regex Paragraph();

    private sealed class MarkValue(Func<bool> any) : TextValue
    {
        public override string Show() => MessageWriter.Raw(Marked);

        public override bool Holds => any();
    }
}
