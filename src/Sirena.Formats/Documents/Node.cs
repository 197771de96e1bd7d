using System.Text.Json;
using Sirena.Core.Orders.Fields;

namespace Sirena.Formats.Documents;

/// <summary>A part of a document with the place where it stands, whether the text was JSON or YAML.</summary>
/// <param name="Line">From 1.</param>
/// <param name="Column">From 1.</param>
public abstract record Node(int Line, int Column)
{
    /// <summary>The value without its places; of a member that stands twice the first.</summary>
    public JsonElement ToJson() =>
        this switch
        {
            ScalarNode s => s.Value,
            ListNode l => JsonSerializer.SerializeToElement(l.Items.Select(i => i.ToJson())),
            MapNode m => JsonSerializer.SerializeToElement(m.Members.DistinctBy(x => x.Name).ToDictionary(x => x.Name, x => x.Value.ToJson())),
            _ => default,
        };
}

/// <summary>Members by name, in order.</summary>
public sealed record MapNode(IReadOnlyList<(string Name, int Line, int Column, Node Value)> Members, int Line, int Column) : Node(Line, Column)
{
    /// <summary>The member of that name, or <see langword="null"/>.</summary>
    public Node? this[string name] => Members.FirstOrDefault(m => m.Name == name).Value;
}

/// <summary>Several in a row.</summary>
public sealed record ListNode(IReadOnlyList<Node> Items, int Line, int Column) : Node(Line, Column);

/// <summary>A text, a number, true, false or null.</summary>
public sealed record ScalarNode(JsonElement Value, int Line, int Column) : Node(Line, Column)
{
    /// <summary>The text, or <see langword="null"/> when it is none.</summary>
    public string? Text => Value.ValueKind == JsonValueKind.String ? Value.GetString() : null;

    /// <summary>The number, or <see langword="null"/> when it is none.</summary>
    public decimal? Decimal => Facts.Decimal(Value);

    /// <summary>It says nothing.</summary>
    public bool IsNull => Value.ValueKind is JsonValueKind.Null or JsonValueKind.Undefined;
}

/// <summary>A mistake in a document.</summary>
/// <param name="Path">Where, in the document's own terms: <c>cases[0].onlyIf.is</c>; empty for the whole.</param>
/// <param name="Line">From 1, or <see langword="null"/> when the document was no text.</param>
/// <param name="Column">From 1.</param>
/// <param name="Problem">One sentence: what is wrong and the way out.</param>
public sealed record DocumentError(string Path, int? Line, int? Column, string Problem);
