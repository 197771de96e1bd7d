using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Instructions;

/// <summary>The kinds that Sirena knows.</summary>
public static class InstructionKinds
{
    private static readonly InstructionMember Reason = new("reason", MemberType.Text, "Why");

    /// <summary>All of them, in the order in which they are offered.</summary>
    public static IReadOnlyList<InstructionKind> All { get; } =
    [
        new()
        {
            Name = "release",
            Button = "Release",
            Members = [Reason],
            Main = "reason",
            Clause = (_, _) => "release the order",
            Shown = (sight, _) => !Held(sight.Order),
            Imagine = (_, _) => ("order.released", new JsonObject { ["hold"] = null }, []),
            NotNow = sight => Held(sight.Order) ? null : "it is not held",
        },
        new()
        {
            Name = "hold",
            Button = "Hold",
            Members = [Reason],
            Main = "reason",
            Clause = (with, _) => "hold the order" + Because(with),
            Shown = (sight, _) => Held(sight.Order),
            Imagine = (_, with) => ("order.held", new JsonObject { ["hold"] = new JsonObject { ["reason"] = Text(with, "reason") ?? "held by the desk" } }, []),
            NotNow = sight => Held(sight.Order) ? "it is held already" : Over(sight),
        },
        new()
        {
            Name = "status",
            Button = "Move to",
            Members = [new("to", MemberType.Status, "To", Needed: true)],
            Main = "to",
            Tells = ["to"],
            Clause = (with, name) => $"move the order to {name(Text(with, "to") ?? "")}",
            Shown = (sight, with) => Facts.Text(sight.Order, "status") == Text(with, "to"),
            Imagine = (sight, with) =>
                (
                    EventTypes.StatusChanged,
                    new JsonObject { ["status"] = Text(with, "to") },
                    new JsonObject
                    {
                        ["change"] = new JsonObject
                        {
                            ["field"] = "status",
                            ["before"] = Facts.Text(sight.Order, "status"),
                            ["after"] = Text(with, "to"),
                        },
                    }
                ),
        },
        new()
        {
            Name = "capture",
            Button = "Capture the payment",
            Final = true,
            Clause = (_, _) => "capture the payment",
            Shown = (sight, _) => Facts.Text(sight.Order, "payment", "state") == "captured",
            Imagine = (_, _) => ("order.paid", new JsonObject { ["payment"] = new JsonObject { ["state"] = "captured" } }, []),
            NotNow = sight =>
                Facts.Text(sight.Order, "payment", "state") is "captured" or "refunded"
                    ? $"the payment is {Facts.Text(sight.Order, "payment", "state")}"
                    : null,
        },
        new()
        {
            Name = "refund",
            Button = "Refund",
            Members = [new("amount", MemberType.Amount, "Amount; empty for all"), Reason],
            Main = "amount",
            Final = true,
            Again = true,
            Clause = (with, _) => (Text(with, "amount") is { } amount ? $"refund {amount}" : "refund all of it") + Because(with),
            Shown = (sight, _) => sight.Facts.Event.Type == "order.refunded" || Facts.Text(sight.Order, "payment", "state") == "refunded",
            Imagine = (_, with) =>
                ("order.refunded", with["amount"] is null ? new JsonObject { ["payment"] = new JsonObject { ["state"] = "refunded" } } : [], []),
            NotNow = sight => Facts.Text(sight.Order, "payment", "state") == "refunded" ? "it is refunded already" : null,
        },
        new()
        {
            Name = "tag",
            Button = "Tag",
            Members =
            [
                new("add", MemberType.Texts, "Add"),
                new("remove", MemberType.Texts, "Take off"),
                new("of", MemberType.Text, "Of", Among: ["order", "customer"]),
            ],
            Main = "add",
            Tells = ["add", "remove", "of"],
            Clause = (with, _) =>
                string.Join(
                    " and ",
                    new[]
                    {
                        List(with, "add") is { Length: > 0 } on ? $"tag {Whose(with)} {Quoted(on)}" : null,
                        List(with, "remove") is { Length: > 0 } off ? $"take the tag{(off.Length == 1 ? "" : "s")} {Quoted(off)} off {Whose(with)}" : null,
                    }.OfType<string>()
                ),
            Shown = (sight, with) =>
                Tags(sight.Order, with) is var tags && Array.TrueForAll(List(with, "add"), tags.Contains) && !Array.Exists(List(with, "remove"), tags.Contains),
            Imagine = (sight, with) => ("order.changed", Tagged(sight.Order, with), []),
        },
        new()
        {
            Name = "note",
            Button = "Note",
            Members = [new("text", MemberType.Text, "What it says", Needed: true), new("visibleToCustomer", MemberType.YesNo, "The customer may read it")],
            Main = "text",
            Again = true,
            Tells = ["text"],
            Clause = (with, _) => $"write the note '{Text(with, "text")}'{(Yes(with, "visibleToCustomer") ? " for the customer" : "")}",
            Shown = (sight, with) =>
                sight.Facts.Event.Type == "order.note-added" && Facts.Text(sight.Facts.Event.DataJson, "note", "text")?.Trim() == Text(with, "text")?.Trim(),
            Imagine = (_, with) =>
                (
                    "order.note-added",
                    [],
                    new JsonObject
                    {
                        ["note"] = new JsonObject { ["text"] = Text(with, "text"), ["visibleToCustomer"] = Yes(with, "visibleToCustomer") },
                    }
                ),
        },
        new()
        {
            Name = "assign",
            Button = "Assign",
            Members = [new("salesperson", MemberType.Text, "To whom", Needed: true)],
            Main = "salesperson",
            Tells = ["salesperson"],
            Clause = (with, name) => $"give the order to {name(Text(with, "salesperson") ?? "")}",
            Shown = (sight, with) => Facts.Text(sight.Order, "salesperson") == Text(with, "salesperson"),
            Imagine = (_, with) => ("order.changed", new JsonObject { ["salesperson"] = Text(with, "salesperson") }, []),
        },
        new()
        {
            Name = "cancel",
            Button = "Cancel the order",
            Members = [Reason, new("putBack", MemberType.YesNo, "The goods go back to stock")],
            Main = "reason",
            Final = true,
            Clause = (with, _) => $"cancel the order{(Yes(with, "putBack") ? " and put the goods back" : "")}{Because(with)}",
            Shown = (sight, _) => sight.Status is { Void: true },
            Imagine = (sight, _) =>
                ("order.cancelled", sight.Statuses.FirstOrDefault(s => s.Void) is { } end ? new JsonObject { ["status"] = end.Id } : [], []),
            NotNow = Over,
        },
        new()
        {
            Name = "intake",
            Button = "Close or open the intake",
            Members =
            [
                new("state", MemberType.Text, "Closed or open", Needed: true, Among: ["closed", "open"]),
                new("until", MemberType.Time, "Until"),
                Reason,
            ],
            Main = "state",
            OfSource = true,
            Again = true,
            Clause = (with, _) =>
                Text(with, "state") == "open"
                    ? "open the intake"
                    : $"close the intake{(Text(with, "until") is { } until ? $" until {until}" : "")}{Because(with)}",
            Shown = (sight, with) => sight.Facts.Event.Type == (Text(with, "state") == "open" ? EventTypes.IntakeOpened : EventTypes.IntakeClosed),
            Imagine = (_, with) => (Text(with, "state") == "open" ? EventTypes.IntakeOpened : EventTypes.IntakeClosed, [], []),
        },
    ];

    /// <summary>Their names.</summary>
    public static IReadOnlyList<string> Names { get; } = [.. All.Select(k => k.Name)];

    /// <summary>The kind of a name, or <see langword="null"/>.</summary>
    public static InstructionKind? Find(string name) => All.FirstOrDefault(k => k.Name == name);

    /// <summary>
    /// Whether two instructions for one order ask for opposite things: hold and release, two statuses, cancelling and anything that goes on with the order.
    /// </summary>
    public static bool Opposite((string Kind, JsonObject With) a, (string Kind, JsonObject With) b) =>
        (a.Kind, b.Kind) switch
        {
            ("hold", "release") or ("release", "hold") => true,
            ("status", "status") => Text(a.With, "to") != Text(b.With, "to"),
            ("cancel", "release" or "status" or "capture") or ("release" or "status" or "capture", "cancel") => true,
            ("capture", "refund") or ("refund", "capture") => true,
            ("assign", "assign") => Text(a.With, "salesperson") != Text(b.With, "salesperson"),
            ("tag", "tag") => Whose(a.With) == Whose(b.With)
                && (List(a.With, "add").Intersect(List(b.With, "remove")).Any() || List(b.With, "add").Intersect(List(a.With, "remove")).Any()),
            ("intake", "intake") => Text(a.With, "state") != Text(b.With, "state"),
            _ => false,
        };

    /// <summary>A member's text; <see langword="null"/> where it has none.</summary>
    public static string? Text(JsonObject with, string name) =>
        with[name] is JsonValue value
            ? value.GetValueKind() == JsonValueKind.String
                ? value.GetValue<string>()
                : value.ToJsonString()
            : null;

    /// <summary>Whether a member says yes.</summary>
    public static bool Yes(JsonObject with, string name) => with[name] is JsonValue value && value.GetValueKind() == JsonValueKind.True;

    /// <summary>A member's texts.</summary>
    public static string[] List(JsonObject with, string name) => with[name] is JsonArray all ? [.. all.OfType<JsonValue>().Select(v => v.ToString())] : [];

    private static string Quoted(string[] texts) => string.Join(", ", texts.Select(t => $"'{t}'"));

    private static string Because(JsonObject with) => Text(with, "reason") is { Length: > 0 } reason ? $" because '{reason}'" : "";

    private static string Whose(JsonObject with) => Text(with, "of") == "customer" ? "the customer" : "the order";

    private static bool Held(JsonElement order) => Facts.Member(order, "hold").ValueKind == JsonValueKind.Object;

    private static string? Over(InstructionSight sight) => sight.Status is { Closed: true } over ? $"it is {over.Name} already" : null;

    private static string[] Tags(JsonElement order, JsonObject with) =>
        Facts.Member(Text(with, "of") == "customer" ? Facts.Member(order, "customer") : order, "tags") is { ValueKind: JsonValueKind.Array } tags
            ? [.. tags.EnumerateArray().Select(t => t.ToString())]
            : [];

    private static JsonObject Tagged(JsonElement order, JsonObject with)
    {
        var tags = new JsonArray([.. Tags(order, with).Except(List(with, "remove")).Union(List(with, "add")).Select(t => JsonValue.Create(t))]);
        return Text(with, "of") == "customer" ? new JsonObject { ["customer"] = new JsonObject { ["tags"] = tags } } : new JsonObject { ["tags"] = tags };
    }
}
