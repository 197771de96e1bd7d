using Sirena.Core.Sources;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Sources;

/// <summary>
/// Bodies as order systems write them, each of some of the members that such have, called in one of the ways that they are called: what is proposed for
/// each, as it was found good.
/// </summary>
public sealed class ProposalSweepTests
{
    private static readonly (string[] Names, Func<Random, int, string> Value)[] Members =
    [
        (["number", "orderNo", "order_id", "nr", "id", "reference"], (_, n) => $"\"AQ-{204 + n}\""),
        (["id", "key", "uuid", "row"], (_, n) => $"{17 + n}"),
        (["status", "state", "orderState", "phase"], (r, _) => Any(r, "\"Received\"", "\"Picking\"", "\"On hold\"")),
        (["status", "stage"], (r, _) => Any(r, "\"10\"", "\"20\"", "\"30\"")),
        (["event", "kind", "action", "type", "topic"], (r, _) => Any(r, "\"order.created\"", "\"order.cancelled\"", "\"order.updated\"")),
        (["what", "message", "msg"], (r, _) => Any(r, "\"HOLD\"", "\"NEW\"", "\"nothing\"")),
        (["due", "dueAt", "deliverBy", "shipDate", "wanted"], (r, _) => $"\"2026-12-{r.Next(10, 28)}T{r.Next(10, 20)}:30:00Z\""),
        (["due", "delivery_date", "date"], (r, _) => $"\"{r.Next(1, 29):00}/{r.Next(1, 13):00}/2026\""),
        (["created", "placedAt", "orderedOn", "date"], (r, _) => $"\"2026-11-{r.Next(10, 28)} 08:{r.Next(10, 60)}\""),
        (["sent", "at", "timestamp", "occurred_at"], (r, _) => $"{1795534200 + r.Next(100_000)}"),
        (["total", "sum", "amount", "grandTotal"], (r, _) => $"{r.Next(10, 900)}.{r.Next(10, 99)}"),
        (["total_cents", "amountMinor", "subtotal", "tax"], (r, _) => $"{r.Next(1_000, 90_000)}"),
        (["value", "net", "weight"], (r, _) => $"\"{r.Next(10, 900)},{r.Next(10, 99)}\""),
        (["currency", "cur"], (r, _) => Any(r, "\"EUR\"", "\"GBP\"")),
        (["customer", "customerName", "buyer", "client"], (r, _) => Any(r, "\"MV Corvane\"", "\"Tarn & Daughters\"", "\"SY Little Auk\"")),
        (["firstName", "first_name"], (r, _) => Any(r, "\"Ines\"", "\"Bram\"")),
        (["lastName", "last_name", "name"], (r, _) => Any(r, "\"Calder\"", "\"Osei\"")),
        (["email", "mail", "contact"], (_, n) => $"\"purser{n}@corvane.example\""),
        (["phone", "mobile", "tel"], (_, n) => $"\"+4477009001{n:00}\""),
        (["customerCode", "customer_no", "account"], (_, n) => $"\"C{n}\""),
        (["salesperson", "rep", "agent", "owner"], (r, _) => Any(r, "\"odile.varga\"", "\"ines.calder\"")),
        (["payment", "method", "paidBy"], (r, _) => Any(r, "\"card\"", "\"account\"")),
        (["risk", "riskLevel", "fraud"], (r, _) => Any(r, "\"low\"", "\"high\"")),
        (["score", "riskScore"], (r, _) => $"{r.Next(0, 100)}"),
        (["reason", "holdReason", "why"], (r, _) => Any(r, "\"credit limit\"", "\"address\"")),
        (["via", "source", "channel"], (r, _) => Any(r, "\"web\"", "\"phone\"")),
        (["site", "warehouse", "store"], (r, _) => Any(r, "\"galley\"", "\"chandlery\"")),
        (["language", "locale"], (r, _) => Any(r, "\"en\"", "\"pt\"")),
        (["tags", "labels"], (r, _) => Any(r, "[\"ice\"]", "[\"sealed\",\"ice\"]", "[]")),
        (["note", "remark", "comment"], (r, _) => Any(r, "\"mind the step\"", "null", "\"\"")),
    ];

    private static readonly (string[] Names, Func<Random, int, string> Value)[] OfLine =
    [
        (["sku", "article", "code", "item_no"], (_, n) => $"\"GAL-{n}\""),
        (["title", "name", "description"], (r, _) => Any(r, "\"Fish pie\"", "\"Rope\"")),
        (["qty", "quantity", "ordered"], (r, _) => $"{r.Next(1, 40)}"),
        (["shipped", "delivered"], (r, _) => $"{r.Next(0, 4)}"),
        (["price", "unitPrice"], (r, _) => $"{r.Next(1, 90)}.50"),
        (["site", "from"], (r, _) => Any(r, "\"galley\"", "\"chandlery\"")),
        (["line", "pos"], (_, n) => $"{n}"),
    ];

    private static (string Name, Func<Random, int, string> Value)[] Some(Random chance, (string[] Names, Func<Random, int, string> Value)[] of, int most) =>
        [
            .. Enumerable
                .Range(0, chance.Next(most / 3, most + 1))
                .Select(_ => Any(chance, of))
                .Select(m => (Any(chance, m.Names), m.Value))
                .DistinctBy(m => m.Item1),
        ];

    private static string[] Bodies(Random chance, bool rows)
    {
        var (top, within, ofLine) = (Some(chance, Members, 12), rows ? [] : Some(chance, Members, 6), rows ? [] : Some(chance, OfLine, 5));
        var (above, listed) = (Any(chance, "order", "data", "customer", "payload"), Any(chance, "lines", "items", "positions"));
        var envelope = !rows && chance.Next(5) == 0;
        string Object((string Name, Func<Random, int, string> Value)[] members, int n, string more = "") =>
            $"{{{string.Join(',', members.Where(m => m.Name != above && m.Name != listed).Select(m => $"\"{m.Name}\":{m.Value(chance, n)}"))}{more}}}";
        string One(int n) =>
            Object(
                top,
                n,
                rows ? "" : $"{(top.Length > 0 ? "," : "")}\"{above}\":{Object(within, n)},\"{listed}\":[{Object(ofLine, 2 * n)},{Object(ofLine, (2 * n) + 1)}]"
            );
        return
        [
            .. Enumerable
                .Range(1, chance.Next(1, 7))
                .Select(n => envelope ? $"{{\"event\":\"order.created\",\"at\":{1795534200 + n},\"orders\":[{One(2 * n)},{One((2 * n) + 1)}]}}" : One(n)),
        ];
    }

    [Theory]
    [InlineData("bodies", false)]
    [InlineData("rows", true)]
    public void What_order_systems_write_has_its_proposal(string of, bool rows)
    {
        var chance = new Random(20_418);
        var told = new List<string>();
        for (var n = 1; n <= 160; n++)
        {
            var bodies = Bodies(chance, rows);
            told.Add($"{n}: {bodies[0]}{(bodies.Length > 1 ? $" and {bodies.Length - 1} more" : "")}");
            told.Add(ProposalBookTests.Told(ReadingProposal.Of([.. bodies.Select(Element)], ReadingProposalTests.Words, Lisbon, rows)));
        }

        Kept.Same("proposals-of-" + of, told);
    }
}
