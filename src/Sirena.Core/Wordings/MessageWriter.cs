using System.Text;
using System.Text.RegularExpressions;

namespace Sirena.Core.Wordings;

/// <summary>What values must not do to the text that carries them.</summary>
public enum ValueForm
{
    /// <summary>Plain text: nothing.</summary>
    Text,

    /// <summary>A short text: a value brings no line break.</summary>
    Line,

    /// <summary>Team chat: what CommonMark takes for markup is escaped, and nobody's name calls the whole room.</summary>
    Chat,

    /// <summary>HTML: what HTML takes for more than text is escaped.</summary>
    Html,
}

/// <summary>
/// Fills a parsed text with values. A name is looked for in the section that it stands in, then further out, as Mustache says; a missing value leaves nothing.
/// </summary>
public static partial class MessageWriter
{
    /// <summary>How long a finished text may be; what is beyond is cut off, with a mark.</summary>
    public const int MostOutput = 256 * 1024;

    /// <summary>How many pieces and sections may be written for one text; what repeats more often is cut off, with a sentence.</summary>
    public const int MostWork = 100_000;

    /// <summary>What stands at the end of a text that repeats too much.</summary>
    public const string TooMuch = "… (cut off: this text repeats too much)";

    internal const char RawBegin = '\uE000';
    internal const char RawEnd = '\uE001';
    internal const char FactsMark = '\uE002';

    /// <summary>Writes it.</summary>
    /// <param name="text">The text.</param>
    /// <param name="root">The value at the first name of a path.</param>
    /// <param name="form">How values are put into it.</param>
    public static string Write(ParsedText text, Func<string, TextValue?> root, ValueForm form)
    {
        var written = new StringBuilder(text.Source.Length + 200);
        var work = MostWork;
        Write(text.Pieces, [new TextMap(root)], form, written, ref work);
        return work < 0 ? written.Append(TooMuch).ToString()
            : written.Length > MostOutput ? written.ToString(0, MostOutput) + "…"
            : written.ToString();
    }

    /// <summary>The value at a path, from the innermost of the values in hand outwards; <see langword="null"/> where there is none.</summary>
    public static TextValue? Find(IReadOnlyList<TextValue> stack, string path)
    {
        if (path == ".")
        {
            return stack[^1];
        }

        var dot = path.IndexOf('.', StringComparison.Ordinal);
        var first = dot < 0 ? path : path[..dot];
        for (var i = stack.Count - 1; i >= 0; i--)
        {
            if (stack[i].Part(first) is { } found)
            {
                return dot < 0 ? found : Walk(found, path.AsSpan(dot + 1));
            }
        }

        return null;
    }

    private static TextValue? Walk(TextValue value, ReadOnlySpan<char> path)
    {
        TextValue? at = value;
        while (at is not null && path.Length > 0)
        {
            var dot = path.IndexOf('.');
            at = at.Part((dot < 0 ? path : path[..dot]).ToString());
            path = dot < 0 ? [] : path[(dot + 1)..];
        }

        return at;
    }

    private static void Write(IReadOnlyList<TextPiece> pieces, List<TextValue> stack, ValueForm form, StringBuilder written, ref int work)
    {
        foreach (var piece in pieces)
        {
            if (--work < 0 || written.Length > MostOutput)
            {
                return;
            }

            switch (piece.Kind)
            {
                case PieceKind.Words:
                    written.Append(piece.Text);
                    break;
                case PieceKind.Field:
                    Put(Find(stack, piece.Text)?.Show() ?? "", form, written);
                    break;
                case PieceKind.Section:
                    Section(piece.Inside, Find(stack, piece.Text), stack, form, written, ref work);
                    break;
                case PieceKind.Inverted when Find(stack, piece.Text) is not { Holds: true }:
                    Write(piece.Inside, stack, form, written, ref work);
                    break;
            }
        }
    }

    private static void Section(IReadOnlyList<TextPiece> inside, TextValue? value, List<TextValue> stack, ValueForm form, StringBuilder written, ref int work)
    {
        if (value is not { Holds: true })
        {
            return;
        }

        foreach (var item in value.Items ?? [value])
        {
            if (--work < 0)
            {
                return;
            }

            stack.Add(item);
            Write(inside, stack, form, written, ref work);
            stack.RemoveAt(stack.Count - 1);
        }
    }

    private static void Put(string value, ValueForm form, StringBuilder written)
    {
        if (value.Length > 1 && value[0] == RawBegin && value[^1] == RawEnd)
        {
            written.Append(value, 1, value.Length - 2);
        }
        else if (form == ValueForm.Html)
        {
            Escape(value, written);
        }
        else
        {
            written.Append(Fit(value, form));
        }
    }

    /// <summary>A value as a text of this form carries it.</summary>
    public static string Fit(string value, ValueForm form) =>
        form switch
        {
            ValueForm.Html => Escape(value),
            ValueForm.Line => OneLine(value),
            ValueForm.Chat when !Link().IsMatch(value) => Crier().Replace(Markup().Replace(value, @"\$0"), "@\u2060"),
            _ => value,
        };

    /// <summary>Without line breaks; a space stands for each run of them.</summary>
    public static string OneLine(string value) => LineBreaks().Replace(value, " ");

    [GeneratedRegex(@"[\r\n\u2028\u2029]+")]
    private static partial Regex LineBreaks();

    // An underscore inside a word is no markup (CommonMark 6.2).
    [GeneratedRegex(@"[\\`*~\[\]<>|]|(?<![\p{L}\p{Nd}])_|_(?![\p{L}\p{Nd}])")]
    private static partial Regex Markup();

    [GeneratedRegex("@(?=(all|everyone|here|channel|room)\\b)", RegexOptions.IgnoreCase)]
    private static partial Regex Crier();

    [GeneratedRegex(@"^https?://[^\s<>\[\]|`*\\]+$")]
    private static partial Regex Link();

    /// <summary>
    /// HTML of Sirena's own making, which is not escaped again. A value that a source sent can never look like it: private characters are taken out of values.
    /// </summary>
    internal static string Raw(string html) => RawBegin + html + RawEnd;

    /// <summary>Escapes what HTML would take for more than text.</summary>
    public static string Escape(string value)
    {
        var written = new StringBuilder(value.Length);
        Escape(value, written);
        return written.ToString();
    }

    private static void Escape(string value, StringBuilder written)
    {
        foreach (var c in value)
        {
            _ = c switch
            {
                '<' => written.Append("&lt;"),
                '>' => written.Append("&gt;"),
                '&' => written.Append("&amp;"),
                '"' => written.Append("&quot;"),
                '\'' => written.Append("&#39;"),
                RawBegin or RawEnd or FactsMark => written,
                _ => written.Append(c),
            };
        }
    }
}
