using System.Text.Json.Nodes;
using Sirena.Demo.OrderSystem;

namespace Sirena.Demo.World;

public static partial class SourceSetup
{
    /// <summary>How the ledger's bodies are read.</summary>
    public static JsonObject LedgerReading()
    {
        static JsonObject At(string path, params (string Name, JsonNode Value)[] more)
        {
            var value = new JsonObject { ["path"] = path };
            foreach (var (name, said) in more)
            {
                value[name] = said;
            }

            return value;
        }

        static JsonObject Words(IEnumerable<KeyValuePair<string, string>> ours) =>
            new(ours.Select(w => KeyValuePair.Create(w.Value, (JsonNode?)JsonValue.Create(w.Key))));
        (string, JsonNode)[] time = [("form", "dd/MM/uuuu HH:mm:ss"), ("zone", "Europe/Lisbon")];
        return new JsonObject
        {
            ["source"] = Ledger,
            ["id"] = At("$.id"),
            ["event"] = At("$.msg", ("words", Words(LedgerShape.Events)), ("otherwise", "not-understood")),
            ["time"] = At("$.sent", [.. time.Select(t => (t.Item1, t.Item2.DeepClone()))]),
            ["order"] = new JsonObject
            {
                ["number"] = At("$.doc.no"),
                ["status"] = At("$.doc.stage", ("words", Words(LedgerShape.Stages))),
                ["placedAt"] = At("$.doc.entered", [.. time.Select(t => (t.Item1, t.Item2.DeepClone()))]),
                ["dueAt"] = At("$.doc.wanted", [.. time.Select(t => (t.Item1, t.Item2.DeepClone()))]),
                ["total"] = At("$.doc.amount", ("decimal", ",")),
                ["currency"] = At("$.doc.cur"),
                ["via"] = At("$.doc.via"),
                ["customer"] = new JsonObject
                {
                    ["code"] = At("$.doc.account.code"),
                    ["name"] = At("$.doc.account.name"),
                    ["group"] = At("$.doc.account.kind"),
                    ["email"] = At("$.doc.account.mail"),
                    ["tags"] = At("$.doc.account.labels"),
                },
                ["salesperson"] = At("$.doc.rep"),
                ["payment"] = new JsonObject { ["method"] = At("$.doc.pays"), ["state"] = At("$.doc.paid") },
                ["tags"] = At("$.doc.labels"),
                ["risk"] = new JsonObject
                {
                    ["level"] = At("$.doc.risk.level"),
                    ["score"] = At("$.doc.risk.points"),
                    ["reasons"] = At("$.doc.risk.reasons"),
                },
                ["hold"] = new JsonObject { ["reason"] = At("$.doc.why") },
                ["lines"] = new JsonObject
                {
                    ["each"] = "$.doc.rows[*]",
                    ["sku"] = At("$.art"),
                    ["title"] = At("$.txt"),
                    ["quantity"] = At("$.qty", ("decimal", ",")),
                    ["unitPrice"] = At("$.price", ("decimal", ",")),
                    ["site"] = At("$.depot", ("words", Words(LedgerShape.Depots))),
                },
                ["extra"] = new JsonObject { ["vessel"] = At("$.doc.ship"), ["berth"] = At("$.doc.berth") },
            },
            ["note"] = new JsonObject
            {
                ["by"] = At("$.doc.remark.by"),
                ["text"] = At("$.doc.remark.text"),
                ["visibleToCustomer"] = At("$.doc.remark.open"),
            },
            ["keep"] = "rest",
        };
    }

    private static JsonObject Column(string name, string? option = null, string? value = null)
    {
        var read = new JsonObject { ["column"] = name };
        if (option is not null)
        {
            read[option] = value;
        }

        return read;
    }

    private static JsonObject ListReading() =>
        new()
        {
            ["time"] = new JsonObject
            {
                ["column"] = "moved",
                ["form"] = "dd/MM/uuuu HH:mm:ss",
                ["zone"] = "Europe/Lisbon",
            },
            ["order"] = new JsonObject
            {
                ["number"] = Column("no"),
                ["status"] = new JsonObject
                {
                    ["column"] = "stage",
                    ["words"] = new JsonObject(LedgerShape.Stages.Select(w => KeyValuePair.Create(w.Value, (JsonNode?)JsonValue.Create(w.Key)))),
                },
                ["dueAt"] = new JsonObject
                {
                    ["column"] = "wanted",
                    ["form"] = "dd/MM/uuuu HH:mm:ss",
                    ["zone"] = "Europe/Lisbon",
                },
                ["total"] = Column("amount", "decimal", ","),
                ["currency"] = new JsonObject { ["always"] = "EUR" },
                ["customer"] = new JsonObject { ["name"] = Column("account") },
            },
            ["keep"] = "none",
        };

    private static JsonObject StockReading() =>
        new()
        {
            ["stock"] = new JsonObject
            {
                ["sku"] = Column("Article"),
                ["title"] = Column("Title"),
                ["site"] = Column("Depot"),
                ["onHand"] = Column("On hand", "decimal", ","),
                ["threshold"] = Column("Least", "decimal", ","),
            },
            ["keep"] = "none",
        };

    private static JsonObject ContactReading() =>
        new()
        {
            ["event"] = new JsonObject { ["always"] = "contact.received" },
            ["contact"] = new JsonObject
            {
                ["name"] = new JsonObject { ["field"] = "name" },
                ["email"] = new JsonObject { ["field"] = "email" },
                ["subject"] = new JsonObject { ["field"] = "subject" },
                ["text"] = new JsonObject { ["field"] = "message" },
            },
            ["keep"] = "none",
        };
}
