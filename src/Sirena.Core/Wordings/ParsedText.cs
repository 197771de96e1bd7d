using System.Collections.Concurrent;
using System.Text;
using Stubble.Core.Exceptions;
using Stubble.Core.Parser;
using Stubble.Core.Tokens;

namespace Sirena.Core.Wordings;

/// <summary>A mistake in a text.</summary>
/// <param name="Line">Its line, from 1.</param>
/// <param name="Column">Its column, from 1.</param>
/// <param name="Length">How many characters it concerns.</param>
/// <param name="Problem">What is wrong and the way out.</param>
public sealed record TextMistake(int Line, int Column, int Length, string Problem)
{
    /// <summary>The mistake at an offset of a text, from 0; one outside of it stands at its nearer end.</summary>
    public static TextMistake At(string text, int offset, int length, string problem)
    {
        var before = text[..Math.Clamp(offset, 0, text.Length)];
        return new TextMistake(before.Count(c => c == '\n') + 1, before.Length - before.LastIndexOf('\n'), Math.Max(1, length), problem);
    }
}

/// <summary>
/// A text in Mustache (its specification's fields, sections and inverted sections), parsed once. Partials, changes of the delimiters and unescaped tags are
/// refused: nothing computes, and nothing gets around the escaping.
/// </summary>
public sealed class ParsedText
{
    /// <summary>How deep sections may nest.</summary>
    public const int MostDeep = 8;

    /// <summary>The sentence on half a character in a text.</summary>
    public const string HalfCharacter = "Here stands half a character (a lone surrogate), as a broken copy leaves it. Delete it and type the character again.";

    /// <summary>How long a text may be.</summary>
    public const int MostLength = 64 * 1024;

    private static readonly ConcurrentDictionary<string, ParsedText> Kept = new(StringComparer.Ordinal);
    private const string Unclosed = "Unclosed Tag";
    private static readonly InstanceMustacheParser Parser = new();
    private readonly MustacheTemplate? template;

    private ParsedText(string source)
    {
        Source = source;
        Mistakes = [];
        if (source.Length > MostLength)
        {
            Mistakes = [new TextMistake(1, 1, 1, $"The text is longer than {MostLength / 1024} KB.")];
            return;
        }

        if (Lone(source) is { } at)
        {
            Mistakes = [At(at, 1, HalfCharacter)];
            return;
        }

        try
        {
            template = Parser.Parse(source);
        }
        catch (StubbleException e)
        {
            Mistakes = [Explain(e.Message)];
            return;
        }
        catch (Exception e) when (e is IndexOutOfRangeException or ArgumentException)
        {
            // The package's parser looks beyond the end of a text that ends within braces.
            Mistakes = [Explain(Unclosed)];
            return;
        }

        var mistakes = new List<TextMistake>();
        Walk(template.Children, 0, mistakes);
        Mistakes = mistakes;
        Pieces = mistakes.Count == 0 ? PiecesOf(template.Children) : [];
    }

    /// <summary>The text.</summary>
    public string Source { get; }

    /// <summary>What is wrong with its form.</summary>
    public IReadOnlyList<TextMistake> Mistakes { get; }

    /// <summary>What it is made of, ready to be written; nothing when it has mistakes.</summary>
    internal IReadOnlyList<TextPiece> Pieces { get; } = [];

    /// <summary>Parses a text, or answers what was parsed before.</summary>
    public static ParsedText Of(string source)
    {
        if (Kept.TryGetValue(source, out var known))
        {
            return known;
        }

        if (Kept.Count > 2_000)
        {
            Kept.Clear();
        }

        return Kept.GetOrAdd(source, s => new ParsedText(s));
    }

    /// <summary>Every field that it names, with where and within which sections.</summary>
    public IEnumerable<(string Path, int At, int Length, IReadOnlyList<string> Within)> Fields() => Fields(Mistakes.Count == 0 ? template!.Children : [], []);

    /// <summary>A mistake at an offset.</summary>
    public TextMistake At(int offset, int length, string problem) => TextMistake.At(Source, offset, length, problem);

    private static IEnumerable<(string Path, int At, int Length, IReadOnlyList<string> Within)> Fields(
        IEnumerable<MustacheToken> tokens,
        IReadOnlyList<string> within
    )
    {
        foreach (var token in tokens)
        {
            switch (token)
            {
                case InterpolationToken field:
                    yield return (field.Content.ToString().Trim(), field.TagStartPosition, field.TagEndPosition - field.TagStartPosition, within);
                    break;
                case SectionToken section:
                    yield return (section.SectionName, section.StartPosition, section.SectionName.Length + 5, within);
                    foreach (var inner in Fields(section.Children, [.. within, section.SectionName]))
                    {
                        yield return inner;
                    }

                    break;
                case InvertedSectionToken section:
                    yield return (section.SectionName, section.StartPosition, section.SectionName.Length + 5, within);
                    foreach (var inner in Fields(section.Children, within))
                    {
                        yield return inner;
                    }

                    break;
            }
        }
    }

    private static IReadOnlyList<TextPiece> PiecesOf(IEnumerable<MustacheToken> tokens) =>
        [
            .. tokens
                .Select(token =>
                    token switch
                    {
                        LiteralToken literal => new TextPiece(PieceKind.Words, string.Concat(literal.Content.Select(c => c.ToString())), []),
                        InterpolationToken field => new TextPiece(PieceKind.Field, field.Content.ToString().Trim(), []),
                        SectionToken section => new TextPiece(PieceKind.Section, section.SectionName, PiecesOf(section.Children)),
                        InvertedSectionToken section => new TextPiece(PieceKind.Inverted, section.SectionName, PiecesOf(section.Children)),
                        _ => null,
                    }
                )
                .OfType<TextPiece>(),
        ];

    private void Walk(IEnumerable<MustacheToken> tokens, int depth, List<TextMistake> mistakes)
    {
        foreach (var token in tokens)
        {
            switch (token)
            {
                case InterpolationToken { EscapeResult: false } raw:
                    mistakes.Add(
                        At(
                            raw.TagStartPosition,
                            raw.TagEndPosition - raw.TagStartPosition,
                            $"'{raw.Content.ToString().Trim()}' is to be put in unescaped, which is not done: what a customer typed could become part "
                                + "of the page. Use two braces."
                        )
                    );
                    break;
                case InterpolationToken { IsClosed: true } empty when empty.Content.ToString().Trim().Length == 0:
                    mistakes.Add(
                        At(
                            empty.TagStartPosition,
                            empty.TagEndPosition - empty.TagStartPosition,
                            "These braces name no field. Write a field's name between them, or take them out."
                        )
                    );
                    break;
                case PartialToken partial:
                    mistakes.Add(
                        At(
                            partial.TagStartPosition,
                            partial.TagEndPosition - partial.TagStartPosition,
                            $"'{partial.Content.ToString().Trim()}' would take in another text, which wordings cannot. Write it out here."
                        )
                    );
                    break;
                case DelimiterToken delimiter:
                    mistakes.Add(
                        At(
                            delimiter.TagStartPosition,
                            delimiter.TagEndPosition - delimiter.TagStartPosition,
                            "The braces cannot be changed for other marks. Use {{ and }}."
                        )
                    );
                    break;
                case SectionToken or InvertedSectionToken:
                    var (start, name) = token is SectionToken s
                        ? (s.StartPosition, s.SectionName)
                        : (((InvertedSectionToken)token).StartPosition, ((InvertedSectionToken)token).SectionName);
                    if (depth + 1 > MostDeep)
                    {
                        mistakes.Add(At(start, name.Length + 5, $"Sections are nested more than {MostDeep} deep here. Take some of them apart."));
                        break;
                    }

                    Walk(((BlockToken)token).Children, depth + 1, mistakes);
                    break;
            }
        }
    }

    private TextMistake Explain(string message)
    {
        var digits = message.LastIndexOf(" at ", StringComparison.Ordinal);
        var at =
            digits >= 0 && int.TryParse(new string([.. message[(digits + 4)..].TakeWhile(char.IsAsciiDigit)]), out var p) ? Math.Clamp(p, 0, Source.Length) : 0;
        string Name() => message.Split('\'') is { Length: > 1 } parts ? parts[1] : "";
        if (message.StartsWith(Unclosed, StringComparison.Ordinal))
        {
            var open = Source.LastIndexOf("{{", StringComparison.Ordinal);
            return At(Math.Max(0, open), 2, "These braces are not closed. Write }} after the field's name.");
        }

        if (message.StartsWith("Unclosed Block", StringComparison.Ordinal))
        {
            var open = Source.IndexOf("{{#" + Name(), StringComparison.Ordinal) is >= 0 and var i
                ? i
                : Source.IndexOf("{{^" + Name(), StringComparison.Ordinal);
            return At(Math.Max(0, open), Name().Length + 5, $"The section '{Name()}' is not closed. Write {{{{/{Name()}}}}} where it ends.");
        }

        if (message.StartsWith("Unopened Block", StringComparison.Ordinal))
        {
            return At(
                Source.IndexOf("{{/" + Name(), StringComparison.Ordinal) is >= 0 and var i ? i : at,
                Name().Length + 5,
                $"{{{{/{Name()}}}}} ends a section that does not begin. Write {{{{#{Name()}}}}} before it, or take it out."
            );
        }

        return message.StartsWith("Cannot close Block", StringComparison.Ordinal)
            ? At(at, Name().Length + 5, $"{{{{/{Name()}}}}} ends another section than the one that is open, '{message.Split('\'')[^2]}'. Close that one first.")
            : At(at, 1, $"The text cannot be read here: {message}.");
    }

    private static int? Lone(string text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            if (char.IsSurrogate(text[i]))
            {
                if (!(i + 1 < text.Length && char.IsSurrogatePair(text[i], text[i + 1])))
                {
                    return i;
                }

                i++;
            }
        }

        return null;
    }
}

/// <summary>What a piece of a text is.</summary>
internal enum PieceKind
{
    /// <summary>Words as they stand.</summary>
    Words,

    /// <summary>A field's value.</summary>
    Field,

    /// <summary>What is written where, or as often as, a field holds.</summary>
    Section,

    /// <summary>What is written where it does not.</summary>
    Inverted,
}

/// <summary>A piece of a text, ready to be written.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Text">The words, or the field's path.</param>
/// <param name="Inside">What stands in a section.</param>
internal sealed record TextPiece(PieceKind Kind, string Text, IReadOnlyList<TextPiece> Inside);
