using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

/// <summary>What every wording that ships says to every reader by every channel, in both languages, as it was read and found good.</summary>
public sealed class ShippedTextsTests
{
    private const string Order =
        """{"number":"AQ-20418","status":"loaded","currency":"EUR","total":1284.5,"placedAt":"2026-11-24T06:12:09Z","dueAt":"2026-11-24T15:30:00Z","via":"web","salesperson":"odile.varga","site":"galley","customer":{"code":"CORV","name":"MV Corvane <b>","phone":"+447700900123","email":"purser@corvane.example"},"payment":{"method":"account","state":"authorised"},"hold":{"reason":"credit limit"},"risk":{"level":"high","score":82,"reasons":["first order","night"]},"extra":{"vessel":"MV Corvane","berth":"N3"},"lines":[{"sku":"GAL-0031","title":"Fish pie, tray of 12","quantity":12,"shipped":4,"unitPrice":38.0},{"sku":"CHD-0007","title":"Rope","quantity":2.5,"shipped":2.5,"unitPrice":10.0}]}""";

    private const string Data =
        """{"change":{"field":"status","before":"picking","after":"loaded"},"note":{"by":"ines.calder","text":"@bram.osei sealed stores for this one","visibleToCustomer":true},"stock":{"sku":"GAL-0031","title":"Fish pie, tray of 12","site":"galley","onHand":-1,"threshold":5,"adjustment":-40},"contact":{"name":"A. Purser","email":"purser@corvane.example","subject":"Tonight","text":"Can you bring ice?"},"gateway":{"name":"Carrier one","error":"451 try later"},"delivery":{"to":"ines@averilquay.example","reason":"550 5.1.1 no such user"},"alert":{"ruleName":"Held for credit","personName":"Odile Varga"},"undecided":{"problem":"the rota of Desk cannot be read"},"source":{"name":"Ledger","minutes":42,"problem":"404","reason":"half of it is gone","missed":3},"instruction":{"by":"Odile Varga","clause":"hold the order","words":"It is shipped already."},"backlog":{"count":31,"statusName":"Picking","limit":30},"notice":{"headline":"The crane stands still","text":"Berth N3 is closed until noon.","from":"Maren Holt"}}""";

    private static readonly OwnField[] Own =
    [
        new("order.extra.vessel", "Vessel") { InMessages = true, Names = { ["pt"] = "Navio" } },
        new("order.extra.berth", "Berth")
        {
            InMessages = true,
            InShort = true,
            ForCustomers = true,
            Names = { ["pt"] = "Cais" },
        },
    ];

    private static readonly Channel[] Channels = [Channel.Mail, Channel.Sms, Channel.Chat, Channel.Push, Channel.Screen, Channel.Ticket];

    private static MessageFacts About(string type, string? order, Audience audience, TextLanguage language) =>
        new(
            new Facts(
                new OrderEvent
                {
                    EventId = "e1",
                    Source = "/test",
                    Type = type,
                    Subject = order is null ? "galley" : "AQ-20418",
                    OrderNumber = order is null ? null : "AQ-20418",
                    Time = Noon,
                    Received = Noon,
                    Data = Data,
                    OrderBefore = order
                        ?.Replace("\"shipped\":4", "\"shipped\":1", StringComparison.Ordinal)
                        .Replace("loaded", "picking", StringComparison.Ordinal),
                    OrderAfter = order,
                },
                Lisbon,
                "EUR"
            ),
            new TextNames(
                id =>
                    id == "odile.varga" ? "Odile Varga"
                    : id == "loaded" ? "Loaded"
                    : id,
                id => id == "loaded" ? "On its way" : "",
                code => code == "odile.varga" ? new Person { Id = code, Name = "Odile Varga" } : null
            )
            {
                Own = Own,
            },
            Noon + Duration.FromMinutes(10),
            "Averil Quay Provisions",
            "https://sirena.example",
            order == Order ? new Branding("#12343B", "Averil Quay", "Quay road 1", null) : new Branding("#F0E0D0", "", "", "cid:logo")
        )
        {
            Audience = audience,
            Language = language,
            Reader = "Ines Calder",
            ReaderId = audience == Audience.Staff ? "ines.calder" : null,
            Rule = "Held for credit",
            Case = "high",
            Urgency = "urgent",
            Because = "you are in Kitchen",
            Others = audience == Audience.Staff ? ["Dear orders"] : [],
            Answer = audience == Audience.Customer ? null : new AnswerWays("https://sirena.example/a/k", "2761"),
            Next = audience == Audience.Staff ? ("Maren Holt", Noon + Duration.FromMinutes(25)) : null,
            Delivery = audience == Audience.Staff ? new Guid("01890000-0000-7000-8000-000000000001") : null,
        };

    private static void Write(StringBuilder into, Wording wording, TextLanguage language, string? order, string of)
    {
        foreach (var audience in Enum.GetValues<Audience>())
        {
            if (wording.For(audience, language.Code) is not { } text)
            {
                continue;
            }

            var composer = new Composer(About(ShippedWordings.EventOf(wording.Id) ?? "order.held", order, audience, language));
            var before = new Dictionary<string, Channel>();
            foreach (var channel in audience == Audience.Staff ? Channels : Channels[..2])
            {
                var said = composer.For(channel, text.Parts);
                into.Append($"== {wording.Id}{of}, {audience}, {channel}: {said.Subject}\n");
                into.Append(before.TryAdd(said.Text, channel) ? said.Text.ReplaceLineEndings("\n").TrimEnd() : $"(as {before[said.Text]})").Append('\n');
                if (said.Html is { } html)
                {
                    into.Append(
                        wording.Id == "order-held" || (wording.Id == ShippedWordings.General && of.Length > 0)
                            ? html.ReplaceLineEndings("\n") + "\n"
                            : $"(HTML {Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(html)))[..12]})\n"
                    );
                }
            }
        }
    }

    [Theory]
    [InlineData("en")]
    [InlineData("pt")]
    public void Every_wording_that_ships_says_what_was_found_good(string code)
    {
        var (language, text) = (TextLanguage.Of(code), new StringBuilder());
        foreach (var wording in ShippedWordings.All)
        {
            Write(text, wording, language, Order, "");
        }

        foreach (var id in new[] { ShippedWordings.General, "order-shipped", "kitchen" })
        {
            Write(text, ShippedWordings.Find(id)!, language, """{"number":"AQ-20418"}""", " of a bare order");
            Write(text, ShippedWordings.Find(id)!, language, null, " of no order");
        }

        Kept.Same("shipped-" + code, text.ToString());
    }
}
