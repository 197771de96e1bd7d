using System.Buffers;
using System.Text;
using System.Text.Json;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Sirena.Formats.Documents;

/// <summary>Reads JSON (RFC 8259) and YAML 1.2 into the same nodes. JSON may be 32 deep; YAML 32 deep, without aliases, 1 MB.</summary>
public static class DocumentText
{
    private const int Deepest = 32;
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
            var reader = new Utf8JsonReader(bytes, new JsonReaderOptions { MaxDepth = Deepest, CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = false });
            reader.Read();
            var node = Json(ref reader, new Places(bytes));
            reader.Read();
            return (node, null);
        }
        catch (JsonException e)
        {
            var sentence = e.Message.Split(" LineNumber:")[0].TrimEnd('.');
            return (null, new DocumentError("", (int)(e.LineNumber ?? 0) + 1, (int)(e.BytePositionInLine ?? 0) + 1, $"This is not JSON: {sentence}."));
        }
    }

    private static Node Json(ref Utf8JsonReader reader, Places places)
    {
        var (line, column) = places.At((int)reader.TokenStartIndex);
        switch (reader.TokenType)
        {
            case JsonTokenType.StartObject:
                var members = new List<(string, int, int, Node)>();
                while (reader.Read() && reader.TokenType != JsonTokenType.EndObject)
                {
                    var (nameLine, nameColumn) = places.At((int)reader.TokenStartIndex);
                    var name = reader.GetString()!;
                    reader.Read();
                    members.Add((name, nameLine, nameColumn, Json(ref reader, places)));
                }

                return new MapNode(members, line, column);
            case JsonTokenType.StartArray:
                var items = new List<Node>();
                while (reader.Read() && reader.TokenType != JsonTokenType.EndArray)
                {
                    items.Add(Json(ref reader, places));
                }

                return new ListNode(items, line, column);
            default:
                var raw = reader.HasValueSequence ? reader.ValueSequence.ToArray() : reader.ValueSpan.ToArray();
                var value = reader.TokenType == JsonTokenType.String ? JsonSerializer.SerializeToElement(reader.GetString()) : JsonDocument.Parse(raw).RootElement.Clone();
                return new ScalarNode(value, line, column);
        }
    }

    private static (Node?, DocumentError?) Yaml(string text)
    {
        try
        {
            var stream = new YamlStream();
            stream.Load(new YamlDotNet.Core.Parser(new StringReader(text)));
            return stream.Documents.Count switch
            {
                0 => (null, new DocumentError("", 1, 1, "The document is empty.")),
                1 => (Yaml(stream.Documents[0].RootNode, 1), null),
                _ => (null, new DocumentError("", 1, 1, "The text holds several documents; one is expected.")),
            };
        }
        catch (YamlException e)
        {
            return (null, new DocumentError("", (int)e.Start.Line, (int)e.Start.Column, $"This is not YAML: {e.Message.TrimEnd('.')}."));
        }
    }

    private static Node Yaml(YamlNode node, int depth)
    {
        var (line, column) = ((int)node.Start.Line, (int)node.Start.Column);
        if (depth > Deepest || !node.Anchor.IsEmpty)
        {
            throw new YamlException(node.Start, node.End, depth > Deepest ? $"it is more than {Deepest} deep" : "anchors and aliases are not taken");
        }

        return node switch
        {
            YamlMappingNode map => new MapNode([.. map.Children.Select(c => (Text(c.Key), (int)c.Key.Start.Line, (int)c.Key.Start.Column, Yaml(c.Value, depth + 1)))], line, column),
            YamlSequenceNode list => new ListNode([.. list.Children.Select(c => Yaml(c, depth + 1))], line, column),
            YamlScalarNode scalar => new ScalarNode(Scalar(scalar), line, column),
            _ => throw new YamlException(node.Start, node.End, "a kind of node that is not taken"),
        };
    }

    private static string Text(YamlNode key) => key is YamlScalarNode { Value: { } name } ? Whole(key, name) : throw new YamlException(key.Start, key.End, "a name is expected before the colon");

    private static string Whole(YamlNode node, string text) => text.Contains('\0', StringComparison.Ordinal) ? throw new YamlException(node.Start, node.End, BrokenCharacters.Zero) : text;

    // The core schema of YAML 1.2 (10.3.2), for plain scalars only: what is quoted is text.
    private static JsonElement Scalar(YamlScalarNode scalar)
    {
        var text = Whole(scalar, scalar.Value ?? "");
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
        (char.IsAsciiDigit(text[^1]) || text[^1] == '.') && (char.IsAsciiDigit(text[0]) || text[0] is '-' or '+' or '.')
        && decimal.TryParse(text, System.Globalization.NumberStyles.Float, System.Globalization.CultureInfo.InvariantCulture, out var number) ? number : null;

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
