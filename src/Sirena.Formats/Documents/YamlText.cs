using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Sirena.Formats.Documents;

/// <summary>
/// Writes JSON nodes as YAML 1.2 that <see cref="DocumentText"/> reads back to the same: text that could be taken for something else is quoted.
/// </summary>
public static class YamlText
{
    /// <summary>The text.</summary>
    public static string Write(JsonNode node)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        new YamlStream(new YamlDocument(Node(node))).Save(text, assignAnchors: false);
        return text.ToString().Replace("\r\n", "\n", StringComparison.Ordinal).TrimEnd('\n', '.') + "\n";
    }

    private static YamlNode Node(JsonNode? node) =>
        node switch
        {
            JsonObject map => new YamlMappingNode(map.SelectMany(m => new[] { Plain(m.Key), Node(m.Value) }))
            {
                Style = map.Count == 0 ? YamlDotNet.Core.Events.MappingStyle.Flow : YamlDotNet.Core.Events.MappingStyle.Any,
            },
            JsonArray list => new YamlSequenceNode(list.Select(Node))
            {
                Style = list.Count == 0 ? YamlDotNet.Core.Events.SequenceStyle.Flow : YamlDotNet.Core.Events.SequenceStyle.Any,
            },
            JsonValue value when value.GetValueKind() == JsonValueKind.String => new YamlScalarNode(value.GetValue<string>())
            {
                Style = ScalarStyle.DoubleQuoted,
            },
            null => Plain("null"),
            _ => Plain(node.ToJsonString()),
        };

    private static YamlScalarNode Plain(string text) => new(text) { Style = ScalarStyle.Plain };
}
