using System.Text.Json.Nodes;

namespace Sirena.Core.Instructions;

/// <summary>What is asked for: a kind with its members.</summary>
/// <param name="Kind">The kind's name.</param>
/// <param name="With">Its members, JSON.</param>
public sealed record InstructionAsk(string Kind, string With)
{
    /// <summary>Its members, parsed.</summary>
    public JsonObject Members => JsonNode.Parse(With) as JsonObject ?? [];
}
