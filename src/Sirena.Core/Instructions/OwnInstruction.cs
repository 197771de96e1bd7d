using System.Text.Json.Nodes;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Instructions;

/// <summary>A kind of instruction of the business's own, as a source takes it.</summary>
public sealed record OwnInstruction
{
    /// <summary>Its name: <c>gift-wrap</c>.</summary>
    public required string Name { get; init; }

    /// <summary>The words on its button.</summary>
    public required string Button { get; init; }

    /// <summary>Its members, each a text.</summary>
    public string[] Members { get; init; } = [];

    /// <summary>What shows that it was done: a condition as it stands in a rule, JSON.</summary>
    public required string Shows { get; init; }

    /// <summary>It cannot be undone.</summary>
    public bool Final { get; init; }

    /// <summary>Its kind.</summary>
    /// <param name="shows">Asks its condition of an event.</param>
    public InstructionKind Kind(Func<Facts, bool> shows) =>
        new()
        {
            Name = Name,
            Button = Button,
            Members = [.. Members.Select(m => new InstructionMember(m, MemberType.Text, Sentences.Capital(m)))],
            Main = Members is [var only] ? only : null,
            Final = Final,
            Own = true,
            Tells = Members,
            Clause = (with, _) => Button.ToLowerInvariant() + (with.Count == 0 ? "" : $" ({string.Join(", ", with.Select(m => $"{m.Key} {m.Value}"))})"),
            Shown = (sight, _) => shows(sight.Facts),
            Imagine = (_, _) => ("order.changed", new JsonObject(), new JsonObject()),
        };
}
