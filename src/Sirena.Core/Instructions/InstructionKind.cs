using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Instructions;

/// <summary>What a member of an instruction holds.</summary>
public enum MemberType
{
    /// <summary>Text; in a rule with fields in double braces.</summary>
    Text,

    /// <summary>True or false.</summary>
    YesNo,

    /// <summary>A list of texts.</summary>
    Texts,

    /// <summary>A decimal amount in the order's currency.</summary>
    Amount,

    /// <summary>The id of a status.</summary>
    Status,

    /// <summary>A time, RFC 3339.</summary>
    Time,
}

/// <summary>A member of an instruction.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Type">What it holds.</param>
/// <param name="Label">What it is called on a form.</param>
/// <param name="Needed">It cannot be left out.</param>
/// <param name="Among">The only values that it can have, or <see langword="null"/>.</param>
public sealed record InstructionMember(string Name, MemberType Type, string Label, bool Needed = false, string[]? Among = null);

/// <summary>An order as an instruction looks at it.</summary>
/// <param name="Facts">The newest event and the order after it.</param>
/// <param name="Statuses">The business's statuses.</param>
public sealed record InstructionSight(Facts Facts, IReadOnlyList<Status> Statuses)
{
    /// <summary>The order.</summary>
    public JsonElement Order => Facts.Event.After;

    /// <summary>Its status, or <see langword="null"/>.</summary>
    public Status? Status => Facts.Text(Order, "status") is { } id ? Statuses.FirstOrDefault(s => s.Id == id) : null;
}

/// <summary>A kind of instruction: all that is known of it stands here and nowhere else.</summary>
public sealed record InstructionKind
{
    /// <summary>Its name: <c>hold</c>.</summary>
    public required string Name { get; init; }

    /// <summary>The words on a button: <c>Hold</c>.</summary>
    public required string Button { get; init; }

    /// <summary>Its members.</summary>
    public IReadOnlyList<InstructionMember> Members { get; init; } = [];

    /// <summary>The member that a short form gives: <c>{ status: picking }</c>; <see langword="null"/> where there is none.</summary>
    public string? Main { get; init; }

    /// <summary>It cannot be undone: it is asked for twice, and never made by a rule's moment alone where a person has to mean it.</summary>
    public bool Final { get; init; }

    /// <summary>It goes to the source itself, not to an order.</summary>
    public bool OfSource { get; init; }

    /// <summary>The members of which two instructions may differ and both be under way; others of one kind are the same instruction.</summary>
    public string[] Tells { get; init; } = [];

    /// <summary>What it does, as a clause: <c>hold the order</c>.</summary>
    public required Func<JsonObject, Func<string, string>, string> Clause { get; init; }

    /// <summary>Whether an event shows that it was done.</summary>
    public required Func<InstructionSight, JsonObject, bool> Shown { get; init; }

    /// <summary>The event that would show it: its type, and what its data says of the order beside the number.</summary>
    public required Func<InstructionSight, JsonObject, (string Type, JsonObject Order, JsonObject Beside)> Imagine { get; init; }

    /// <summary>Why it makes no sense now, or <see langword="null"/>.</summary>
    public Func<InstructionSight, string?> NotNow { get; init; } = _ => null;

    /// <summary>It may be asked for though the order shows it already: a second refund, the same note again.</summary>
    public bool Again { get; init; }

    /// <summary>Why it makes no sense for an order now, or <see langword="null"/>: it cannot be, or the order shows it already.</summary>
    public string? WhyNot(InstructionSight sight, JsonObject with) => NotNow(sight) ?? (!Again && Shown(sight, with) ? "the order shows it already" : null);

    /// <summary>It is one of the business's own.</summary>
    public bool Own { get; init; }

    /// <summary>The member of a name, or <see langword="null"/>.</summary>
    public InstructionMember? Member(string name) => Members.FirstOrDefault(m => m.Name == name);
}
