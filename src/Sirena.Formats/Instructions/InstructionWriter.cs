using System.Text.Json.Nodes;
using Sirena.Core.Instructions;

namespace Sirena.Formats.Instructions;

/// <summary>Writes what is asked for as <see cref="InstructionReader"/> reads it.</summary>
public static class InstructionWriter
{
    /// <summary>A list of them.</summary>
    public static JsonArray Write(IEnumerable<InstructionAsk> asks) => [.. asks.Select(Write)];

    private static JsonNode Write(InstructionAsk ask) => ask.Members is { Count: > 0 } with ? new JsonObject { [ask.Kind] = with } : JsonValue.Create(ask.Kind);
}
