using System.Buffers;
using System.Text;
using System.Text.Json;
using Sirena.Core;
using YamlDotNet.Core;
using YamlDotNet.Core.Events;

namespace Sirena.Formats.Documents;

/// <summary>
/// Reads JSON (RFC 8259) and YAML 1.2 into the same nodes: at most 32 deep, 200,000 nodes and 1 MB, counted while reading; a member stands once; YAML without
/// anchors and aliases.
/// </summary>
public static class DocumentText
{
    private const int Deepest = 32;
    private const string NoAnchors = "This is not YAML that is taken: anchors and aliases are not taken.";
    private const int MostNodes = 200_000;
    private const int Longest = 1024 * 1024;

    /// <summary>Reads a text.</summary>
    /// <returns>The document, or the one mistake that keeps it from being read.</returns>
    public static (Node? Node, DocumentError? Error) Read(string text, bool yaml)
    {
        if (text.Length > Longest)
        {
            return (null, new DocumentError("", null, null, "The document is longer than 1 MB."));
        }

        return yaml ? Yaml(text) : Json(text);
    }

    private static (Node?, DocumentError?) Json(string text)
    {
        var bytes = Encoding.UTF8.GetBytes(text);
        if (BrokenCharacters.Find(bytes) is var (offset, problem))
        {
            var (line, column) = new Places(bytes).At(offset);
            return (null, new DocumentError("", line, column, problem));
        }

        try
        {
            var reader = new Utf8JsonReader(
                bytes,
                new JsonReaderOptions
                {
                    MaxDepth = Deepest,
                    CommentHandling = JsonCommentHandling.Skip,
                    AllowTrailingCommas = false,
                }
            );
            reader.Read();
            var node = Json(ref reader, new Places(bytes), new Count());
            reader.Read();
            return (node, null);
        }
        catch (NotTakenException e)
        {
            return (null, e.Error);
        }
        catch (JsonException e)
        {
            var sentence = e.Message.Split(" LineNumber:")[0].TrimEnd('.');
            return (null, new DocumentError("", (int)(e.LineNumber ?? 0) + 1, (int)(e.BytePositionInLine ?? 0) + 1, $"This is not JSON: {sentence}."));
        }
    }

    private static Node Json(ref Utf8JsonReader reader, Places places, Count count)
    {
        var (line, column) = places.At((int)reader.TokenStartIndex);
        count.Add(line, column);
        switch (reader.TokenType)
        {
            case JsonTokenType.StartObject:
                var members = new List<(string, int, int, Node)>();
                var names = new HashSet<string>();
                while (reader.Read() && reader.TokenType != JsonTokenType.EndObject)
                {
                    var (nameLine, nameColumn) = places.At((int)reader.TokenStartIndex);
                    var name = reader.GetString()!;
                    Once(names, name, nameLine, nameColumn);
                    reader.Read();
                    members.Add((name, nameLine, nameColumn, Json(ref reader, places, count)));
                }

                return new MapNode(members, line, column);
            case JsonTokenType.StartArray:
                var items = new List<Node>();
                while (reader.Read() && reader.TokenType != JsonTokenType.EndArray)
                {
                    items.Add(Json(ref reader, places, count));
                }

                return new ListNode(items, line, column);
            default:
                var raw = reader.HasValueSequence ? reader.ValueSequence.ToArray() : reader.ValueSpan.ToArray();
                var value =
                    reader.TokenType == JsonTokenType.String
                        ? JsonSerializer.SerializeToElement(reader.GetString())
                        : JsonDocument.Parse(raw).RootElement.Clone();
                return new ScalarNode(value, line, column);
        }
    }

    private static (Node?, DocumentError?) Yaml(string text)
    {
        var parser = new Parser(new StringReader(text));
        try
        {
            parser.Consume<StreamStart>();
            if (parser.Accept<StreamEnd>(out _))
            {
                return (null, new DocumentError("", 1, 1, "The document is empty."));
            }

            parser.Consume<DocumentStart>();
            var node = Yaml(parser, 1, new Count());
            parser.Consume<DocumentEnd>();
            return parser.Accept<StreamEnd>(out _) ? (node, null) : (null, new DocumentError("", 1, 1, "The text holds several documents; one is expected."));
        }
        catch (NotTakenException e)
        {
            return (null, e.Error);
        }
        catch (YamlException e)
        {
            return (null, new DocumentError("", (int)e.Start.Line, (int)e.Start.Column, $"This is not YAML: {e.Message.TrimEnd('.')}."));
        }
        catch (InvalidOperationException)
        {
            // The library's own slip: a value that is cut off within braces or brackets.
            var at = parser.Current?.Start ?? Mark.Empty;
            return (null, new DocumentError("", (int)at.Line, (int)at.Column, "This is not YAML: from here on something that was begun is not ended."));
        }
    }

    // Events are taken one by one: what is too deep or too much is left before it is read.
    private static Node Yaml(Parser parser, int depth, Count count)
    {
        if (parser.Accept<AnchorAlias>(out var alias))
        {
            throw new NotTakenException((int)alias.Start.Line, (int)alias.Start.Column, NoAnchors);
        }

        var next = parser.Consume<NodeEvent>();
        var (line, column) = ((int)next.Start.Line, (int)next.Start.Column);
        count.Add(line, column);
        if (depth > Deepest || !next.Anchor.IsEmpty)
        {
            throw new NotTakenException(line, column, depth > Deepest ? $"This is not YAML that is taken: it is more than {Deepest} deep." : NoAnchors);
        }

        switch (next)
        {
            case MappingStart:
                var members = new List<(string, int, int, Node)>();
                var names = new HashSet<string>();
                while (!parser.TryConsume<MappingEnd>(out _))
                {
                    if (!parser.TryConsume<Scalar>(out var key))
                    {
                        throw new NotTakenException(
                            (int)parser.Current!.Start.Line,
                            (int)parser.Current.Start.Column,
                            "This is not YAML that is taken: a name is expected before the colon."
                        );
                    }

                    var (nameLine, nameColumn) = ((int)key.Start.Line, (int)key.Start.Column);
                    Once(names, Whole(key), nameLine, nameColumn);
                    members.Add((key.Value, nameLine, nameColumn, Yaml(parser, depth + 1, count)));
                }

                return new MapNode(members, line, column);
            case SequenceStart:
                var items = new List<Node>();
                while (!parser.TryConsume<SequenceEnd>(out _))
                {
                    items.Add(Yaml(parser, depth + 1, count));
                }

                return new ListNode(items, line, column);
            default:
                return new ScalarNode(ScalarOf((Scalar)next), line, column);
        }
    }

    private static void Once(HashSet<string> names, string name, int line, int column)
    {
        if (!names.Add(name))
        {
            throw new NotTakenException(line, column, $"'{Quoting.Cut(name, 60)}' stands twice.", name);
        }
    }

    private static string Whole(Scalar scalar) =>
        scalar.Value.Contains('\0', StringComparison.Ordinal)
            ? throw new NotTakenException((int)scalar.Start.Line, (int)scalar.Start.Column, BrokenCharacters.Zero)
            : scalar.Value;

    // The core schema of YAML 1.2 (10.3.2), for plain scalars only: what is quoted is text.
    private static JsonElement ScalarOf(Scalar scalar)
    {
        var text = Whole(scalar);
        if (scalar.Style != ScalarStyle.Plain)
        {
            return JsonSerializer.SerializeToElement(text);
        }

        return text switch
        {
            "" or "~" or "null" or "Null" or "NULL" => JsonSerializer.SerializeToElement<object?>(null),
            "true" or "True" or "TRUE" => JsonSerializer.SerializeToElement(true),
            "false" or "False" or "FALSE" => JsonSerializer.SerializeToElement(false),
            _ when Number(text) is { } number => JsonSerializer.SerializeToElement(number),
            _ => JsonSerializer.SerializeToElement(text),
        };
    }

    private static decimal? Number(string text) =>
        (char.IsAsciiDigit(text[^1]) || text[^1] == '.')
        && (char.IsAsciiDigit(text[0]) || text[0] is '-' or '+' or '.')
        && decimal.TryParse(text, System.Globalization.NumberStyles.Float, System.Globalization.CultureInfo.InvariantCulture, out var number)
            ? number
            : null;

    /// <summary>Counts nodes while they are read.</summary>
    private sealed class Count
    {
        private int nodes;

        public void Add(int line, int column)
        {
            if (++nodes > MostNodes)
            {
                throw new NotTakenException(line, column, $"The document holds more than {MostNodes:N0} values. Send it in parts.");
            }
        }
    }

    /// <summary>A document that could be read but is not taken.</summary>
    private sealed class NotTakenException(int line, int column, string problem, string path = "") : Exception
    {
        public DocumentError Error { get; } = new(path, line, column, problem);
    }

    /// <summary>Finds line and column of a byte.</summary>
    private sealed class Places(byte[] bytes)
    {
        private int at;
        private int line = 1;
        private int lineStart;

        public (int Line, int Column) At(int index)
        {
            for (; at < index; at++)
            {
                if (bytes[at] == '\n')
                {
                    (line, lineStart) = (line + 1, at + 1);
                }
            }

            return (line, Encoding.UTF8.GetCharCount(bytes, lineStart, index - lineStart) + 1);
        }
    }
}
