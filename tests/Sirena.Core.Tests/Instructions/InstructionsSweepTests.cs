using System.Text.Json.Nodes;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Instructions;

/// <summary>Every instruction on orders that stand every way: why it cannot be asked, whether the event shows it, what it would make; as it was found good.</summary>
public sealed class InstructionsSweepTests
{
    private static readonly Status[] Statuses =
    [
        Of("picking", StatusKind.Open),
        Of("loaded", StatusKind.Closed),
        Of("cancelled", StatusKind.Void),
        Of("refused", StatusKind.Void),
    ];

    private static readonly (string Kind, string With)[] Asks =
    [
        ("release", "{}"),
        ("hold", "{}"),
        ("hold", """{"reason":"limit"}"""),
        ("status", """{"to":"loaded"}"""),
        ("capture", "{}"),
        ("refund", "{}"),
        ("refund", """{"amount":5}"""),
        ("tag", """{"add":["ice"]}"""),
        ("tag", """{"add":["ice","sealed"],"remove":["old"]}"""),
        ("tag", """{"remove":["old"],"of":"customer"}"""),
        ("note", """{"text":"mind the step"}"""),
        ("note", """{"text":" ice ","visibleToCustomer":true}"""),
        ("assign", """{"salesperson":"ines.calder"}"""),
        ("cancel", "{}"),
        ("cancel", """{"putBack":true}"""),
        ("intake", """{"state":"closed"}"""),
        ("intake", """{"state":"open"}"""),
    ];

    private static readonly string[] Orders =
    [
        "{}",
        """{"status":"picking","hold":{"reason":"limit"},"tags":["old","ice"],"customer":{"tags":["old"]}}""",
        """{"status":"loaded","hold":null,"tags":["ice","sealed"],"payment":{"state":"captured"},"salesperson":"ines.calder"}""",
        """{"status":"cancelled","tags":"old","customer":{"tags":["new"]},"payment":{"state":"refunded"},"salesperson":"odile.varga"}""",
        """{"status":"elsewhere","payment":{"state":"authorised"}}""",
    ];

    private static readonly (string Type, string Beside)[] Happened =
    [
        ("order.changed", "{}"),
        ("order.refunded", "{}"),
        ("order.note-added", """{"note":{"text":"mind the step"}}"""),
        ("order.note-added", """{"note":{"text":"ice"}}"""),
        ("order.changed", """{"note":{"text":"mind the step"}}"""),
        (EventTypes.IntakeClosed, "{}"),
        (EventTypes.IntakeOpened, "{}"),
    ];

    private static Status Of(string id, StatusKind kind) =>
        new()
        {
            Id = id,
            Name = id,
            Mark = "a",
            Kind = kind,
        };

    [Fact]
    public void What_can_be_asked_of_an_order_and_what_shows_it()
    {
        var told = new List<string>();
        foreach (var (name, with) in Asks)
        {
            var kind = InstructionKinds.Find(name)!;
            foreach (var order in Orders)
            {
                var (sight, members) = (new InstructionSight(Facts(order), Statuses), Json(with));
                var (type, change, beside) = kind.Imagine(sight, members);
                told.Add(
                    $"{name} {with} of {order}: {kind.WhyNot(sight, members) ?? "can be asked"}; would be {type} {change.ToJsonString()} {beside.ToJsonString()}; shown by "
                        + string.Join(
                            ", ",
                            Happened
                                .Where(h => kind.Shown(new InstructionSight(Facts(order, data: h.Beside, type: h.Type), Statuses), members))
                                .Select(h => $"{h.Type}{(h.Beside == "{}" ? "" : " " + h.Beside)}")
                        )
                );
            }
        }

        Kept.Same("instructions", told);
    }

    [Fact]
    public void What_asks_for_the_opposite_of_what()
    {
        (string Kind, JsonObject With)[] all =
        [
            .. Asks.Select(a => (a.Kind, Json(a.With))),
            ("status", Json("""{"to":"picking"}""")),
            ("tag", Json("""{"add":["old"]}""")),
            ("tag", Json("""{"remove":["ice"]}""")),
            ("tag", Json("""{"add":["old"],"of":"customer"}""")),
            ("assign", Json("""{"salesperson":"odile.varga"}""")),
        ];
        Kept.Same(
            "opposites",
            all.Select(a =>
                $"{a.Kind} {a.With.ToJsonString()}: "
                + string.Join(", ", all.Where(b => InstructionKinds.Opposite(a, b)).Select(b => $"{b.Kind} {b.With.ToJsonString()}"))
            )
        );
    }
}
