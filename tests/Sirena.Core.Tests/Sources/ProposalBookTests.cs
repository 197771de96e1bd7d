using System.Text.Json;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>What is proposed for bodies at the edges of what decides: the whole proposal, with its reasons.</summary>
public sealed class ProposalBookTests
{
    private static readonly DateTimeZone Lisbon = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];

    private static readonly StatusWords Words = new([
        new Status
        {
            Id = "received",
            Name = "Received",
            Mark = "received",
            Words = ["10"],
        },
        new Status
        {
            Id = "picking",
            Name = "Picking",
            Mark = "picking",
            Words = ["30", "KOMM"],
        },
        new Status
        {
            Id = "cancelled",
            Name = "Cancelled",
            Mark = "cancelled",
        },
    ]);

    /// <summary>What it is about; the bodies; whether they are rows; what is proposed, a line each.</summary>
    public static TheoryData<string, string[], bool, string> Book =>
        new()
        {
            {
                "the number nearer to the root of two equal ones",
                ["""{"x":{"order":{"number":"A-1"}},"order":{"number":"B-1"}}""", """{"x":{"order":{"number":"A-2"}},"order":{"number":"B-2"}}"""],
                false,
                """
                    order.number <- $.order.number | It is called 'number', is there in 2 of 2 bodies, and is never the same twice: 'B-1', 'B-2'.
                    """
            },
            {
                "an id that is always the same is beaten by one that differs",
                ["""{"id":"S1","ref":"A-1"}""", """{"id":"S1","ref":"A-2"}""", """{"id":"S1","ref":"A-3"}"""],
                false,
                """
                    order.number <- $.ref | It is called 'ref', is there in 3 of 3 bodies, and is never the same twice: 'A-1', 'A-2'.
                    """
            },
            {
                "nine of ten with a digit",
                [.. Enumerable.Range(0, 10).Select(n => $$"""{"orderNumber":"{{(n == 0 ? "none" : "A" + n)}}"}""")],
                false,
                """
                    order.number <- $.orderNumber | It is called 'orderNumber', is there in 10 of 10 bodies, and is never the same twice: 'none', 'A1'.
                    """
            },
            { "eight of ten with a digit", [.. Enumerable.Range(0, 10).Select(n => $$"""{"orderNumber":"{{(n < 2 ? "none" : "A" + n)}}"}""")], false, "" },
            {
                "sixty characters",
                [$$"""{"orderNumber":"{{new string('7', 60)}}"}"""],
                false,
                """
                    order.number <- $.orderNumber | It is called 'orderNumber': '7777777777777777777777777777777777777777'.
                    """
            },
            { "sixty-one characters", [$$"""{"orderNumber":"{{new string('7', 61)}}"}"""], false, "" },
            {
                "a customer's number is none of an order",
                ["""{"customerNumber":"C-1","weight":3}"""],
                false,
                """
                    order.customer.code <- $.customerNumber | It is called 'customerNumber': 'C-1'.
                    """
            },
            {
                "an order's number that the customer gave",
                ["""{"customerOrderNumber":"C-1"}"""],
                false,
                """
                    order.number <- $.customerOrderNumber | It is called 'customerOrderNumber': 'C-1'.
                    """
            },
            {
                "a number with a space and a digit",
                ["""{"orderNumber":"AQ 1"}"""],
                false,
                """
                    order.number <- $.orderNumber | It is called 'orderNumber': 'AQ 1'.
                    """
            },
            { "words with a space, an address", ["""{"orderNumber":"no digits"}""", """{"orderNumber":"a1@b.example"}"""], false, "" },
            {
                "one strange word of a status",
                ["""{"orderNo":"1","status":"Received"}""", """{"orderNo":"2","status":"Dreaming"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    order.status <- $.status | 1 of its 2 words are a status's; no status has the word Dreaming yet.
                    """
            },
            {
                "seven strange words of a status",
                Many(8, n => $$"""{"orderNo":"{{n}}","state":"{{(n == 1 ? "KOMM" : "Word" + (char)('a' + n))}}"}"""),
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 8 of 8 bodies, and is never the same twice: '1', '2'.
                    order.status <- $.state | 1 of its 8 words are a status's; no status has the words Wordc, Wordd, Worde, Wordf, Wordg, Wordh yet.
                    """
            },
            {
                "two known words without a name that says so",
                ["""{"orderNo":"1","b":"Received"}""", """{"orderNo":"2","b":"KOMM"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    order.status <- $.b | 2 of its 2 words are a status's.
                    """
            },
            {
                "one known word without a name that says so",
                ["""{"orderNo":"1","b":"Received"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    """
            },
            {
                "a status of digits alone",
                ["""{"orderNo":"1","status":"10"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.status <- $.status | Its one word is a status's.
                    """
            },
            {
                "words for what happened and words for the status",
                ["""{"orderNo":"1","what":"created","status":"cancelled"}""", """{"orderNo":"2","what":"banana","status":"Received"}"""],
                false,
                """
                    event <- $.what created=order.placed | 'what' says what happened: created is order.placed. Not known: banana.
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    order.status <- $.status | 2 of its 2 words are a status's.
                    """
            },
            {
                "every word known, though nothing is called so",
                ["""{"orderNo":"1","q":"shipped"}""", """{"orderNo":"2","q":"ping"}"""],
                false,
                """
                    event <- $.q ping=ignore, shipped=order.shipped | 'q' says what happened: shipped is order.shipped, ping is ignore.
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "one word of two known, and nothing is called so",
                ["""{"orderNo":"1","q":"shipped"}""", """{"orderNo":"2","q":"banana"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "thirty-one words are too many for what happened",
                Many(31, n => $$"""{"orderNo":"{{n}}","event":"hold {{n}}"}"""),
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 31 of 31 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "six unknown words beside a known one",
                Many(7, n => $$"""{"orderNo":"{{n}}","event":"{{(n == 7 ? "placed" : "w" + (char)('a' + n))}}"}"""),
                false,
                """
                    event <- $.event placed=order.placed | 'event' says what happened: placed is order.placed. Not known: wb, wc, wd, we, wf.
                    order.number <- $.orderNo | It is called 'orderNo', is there in 7 of 7 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "due, placed and sent",
                ["""{"orderNo":"1","deliverBy":"2026-11-24T15:30","date":"2026-11-20","timestamp":"2026-11-20T10:00:00Z","updated":"2026-11-21T10:00:00Z"}"""],
                false,
                """
                    time <- $.timestamp | It is called 'timestamp', and its values are times of RFC 3339.
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.placedAt <- $.date in Europe/Lisbon | It is called 'date', and its values are times of ISO 8601 without an offset.
                    order.dueAt <- $.deliverBy in Europe/Lisbon | It is called 'deliverBy', and its values are times of ISO 8601 without an offset.
                    """
            },
            {
                "a time of day that is called due and is none",
                ["""{"orderNo":"1","due":"soon","until":"2026-11-24T15:30:00+01:00"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.dueAt <- $.until | It is called 'until', and its values are times of RFC 3339.
                    """
            },
            {
                "rows have no time of their own",
                [
                    """{"No":"1","Due":"24.12.2026","Sent":"2026-11-20T10:00:00Z","Total":"1.284,50","Cur":"EUR"}""",
                    """{"No":"2","Due":"03.12.2026","Sent":"2026-11-21T10:00:00Z","Total":"3,00","Cur":"GBP"}""",
                ],
                true,
                """
                    order.number <- column No | It is called 'No', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    order.dueAt <- column Due as dd.MM.uuuu in Europe/Lisbon | It is called 'Due', and the day stands first: '24.12.2026' leaves no other way.
                    order.total <- column Total with , | It is called 'Total', and its decimals stand behind a comma, as in '1.284,50'.
                    order.currency <- column Cur | Every value is a code of ISO 4217: 'EUR', 'GBP'.
                    """
            },
            {
                "two lists, one of orders",
                [
                    """{"event":"updated","tags":[{"id":"t1"}],"orders":[{"id":"A-1","customer":{"name":"Tarn"},"total":"3"},{"id":"A-2","customer":{"name":"Corvane"},"total":"4"}]}""",
                ],
                false,
                """
                    event <- $.event updated=order.changed | 'event' says what happened: updated is order.changed.
                    each <- $.orders[*] | $.orders[*] is a list whose items carry what tells one order from another.
                    order.number <- $.id | It is called 'id', is there in the body, and is never the same twice: 'A-1', 'A-2'.
                    order.total <- $.total | It is called 'total', and its values are numbers.
                    order.customer.name <- $.customer.name | It is called 'name' in $.orders[*].customer.name: 'Tarn', 'Corvane'.
                    """
            },
            {
                "an order whose lines have numbers",
                [
                    """{"orderNumber":"A-1","status":"Received","items":[{"no":1,"sku":"S1","qty":2,"price":"3.50","description":"Rope"},{"no":2,"sku":"S2","qty":1,"price":"4.00","description":"Cleat"}]}""",
                ],
                false,
                """
                    order.number <- $.orderNumber | It is called 'orderNumber': 'A-1'.
                    order.status <- $.status | Its one word is a status's.
                    lines <- $.items[*] | $.items[*] is a list with 'sku' as article number, 'description' as title, 'qty' as quantity, 'price' as unit price.
                      sku <- $.sku
                      title <- $.description
                      quantity <- $.qty
                      unitPrice <- $.price
                    """
            },
            {
                "lines within several orders",
                [
                    """{"orders":[{"number":"A-1","status":"Received","rows":[{"sku":"S1","qty":2}]},{"number":"A-2","status":"Picking","rows":[{"sku":"S2","qty":1}]}]}""",
                ],
                false,
                """
                    each <- $.orders[*] | $.orders[*] is a list whose items carry what tells one order from another.
                    order.number <- $.number | It is called 'number', is there in the body, and is never the same twice: 'A-1', 'A-2'.
                    order.status <- $.status | 2 of its 2 words are a status's.
                    lines <- $.rows[*] | $.orders[*].rows[*] is a list with 'sku' as article number, 'qty' as quantity.
                      sku <- $.sku
                      quantity <- $.qty
                    """
            },
            {
                "stock and risk",
                ["""{"event":"fraud","orderNo":"1","risk":{"score":"0,75","level":"high"},"stock":4,"minimum":"12"}"""],
                false,
                """
                    event <- $.event fraud=order.risk-flagged | 'event' says what happened: fraud is order.risk-flagged.
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.risk.level <- $.risk.level | It is called 'level' in $.risk.level: 'high'.
                    order.risk.score <- $.risk.score with , | It is called 'score', and its decimals stand behind a comma, as in '0,75'.
                    stock.onHand <- $.stock | It is called 'stock', and its values are numbers.
                    stock.threshold <- $.minimum | It is called 'minimum', and its values are numbers.
                    """
            },
            {
                "people and words of an order",
                [
                    """{"orderNo":"1","customer":{"id":"C7","company":"Tarn Ltd","group":"gold","mail":"purser@tarn.example","tel":"+447700900123"},"billing":{"mail":"bills@tarn.example"},"lang":"pt","rep":"odile","payment":{"method":"card","status":"unpaid"},"hold":{"reason":"limit"},"channel":"web","warehouse":"N"}""",
                ],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.via <- $.channel | It is called 'channel': 'web'.
                    order.customer.code <- $.customer.id | It is called 'id' in $.customer.id: 'C7'.
                    order.customer.name <- $.customer.company | It is called 'company' in $.customer.company: 'Tarn Ltd'.
                    order.customer.group <- $.customer.group | It is called 'group' in $.customer.group: 'gold'.
                    order.customer.email <- $.customer.mail | Every value is a mail address: 'purser@tarn.example'.
                    order.customer.phone <- $.customer.tel | Every value is a phone number with its country: '+447700900123'.
                    order.customer.language <- $.lang | It is called 'lang': 'pt'.
                    order.salesperson <- $.rep | It is called 'rep': 'odile'.
                    order.site <- $.warehouse | It is called 'warehouse': 'N'.
                    order.payment.method <- $.payment.method | It is called 'method' in $.payment.method: 'card'.
                    order.payment.state <- $.payment.status | It is called 'status' in $.payment.status: 'unpaid'.
                    order.hold.reason <- $.hold.reason | It is called 'reason' in $.hold.reason: 'limit'.
                    """
            },
            {
                "a phone without its country is a text",
                ["""{"orderNo":"1","phone":"07700900123","currency":"EURO","value":"12"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.total <- $.value | It is called 'value', and its values are numbers.
                    """
            },
            {
                "fifty bodies at most",
                Many(60, n => $$"""{"orderNo":"{{n}}","b{{n}}":1}"""),
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 50 of 50 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "a hundred items of a list at most",
                [
                    $$"""{"orders":[{{string.Join(',', Many(150, n => $$"""{"orderNumber":"A{{n}}","status":"{{(n > 100 ? "Dreaming" : "Received")}}"}"""))}}]}""",
                ],
                false,
                """
                    each <- $.orders[*] | $.orders[*] is a list whose items carry what tells one order from another.
                    order.number <- $.orderNumber | It is called 'orderNumber', is there in the body, and is never the same twice: 'A1', 'A2'.
                    order.status <- $.status | Its one word is a status's.
                    """
            },
            {
                "a customer's own number stands under the customer",
                ["""{"customer":{"number":"C-1"},"no":17}"""],
                false,
                """
                    order.number <- $.no | It is called 'no': '17'.
                    order.customer.code <- $.customer.number | It is called 'number' in $.customer.number: 'C-1'.
                    """
            },
            {
                "the state of a payment is none of the order",
                ["""{"payment":{"status":"unpaid"},"address":{"state":"CA"},"no":"17","status":"packing"}"""],
                false,
                """
                    order.number <- $.no | It is called 'no': '17'.
                    order.status <- $.status | No status has the word packing yet.
                    order.payment.state <- $.payment.status | It is called 'status' in $.payment.status: 'unpaid'.
                    """
            },
            {
                "digits that are called a status",
                ["""{"no":"17","status":"10","stage":"3"}""", """{"no":"18","status":"99","stage":"4"}"""],
                false,
                """
                    order.number <- $.no | It is called 'no', is there in 2 of 2 bodies, and is never the same twice: '17', '18'.
                    order.status <- $.status | 1 of its 2 words are a status's; no status has the word 99 yet.
                    """
            },
            {
                "words of a status that nobody knows yet are no events",
                ["""{"no":"17","status":"new"}""", """{"no":"18","status":"shipped"}"""],
                false,
                """
                    order.number <- $.no | It is called 'no', is there in 2 of 2 bodies, and is never the same twice: '17', '18'.
                    order.status <- $.status | No status has the words new, shipped yet.
                    """
            },
            {
                "what stands alone says too little",
                ["""{"no":"17","id":"S1","type":"x","reason":"limit","name":"Tarn","level":"high","method":"card","group":"g"}"""],
                false,
                """
                    order.number <- $.id | It is called 'id': 'S1'.
                    """
            },
            { "nothing at all", ["{}"], false, "" },
        };

    [Theory]
    [MemberData(nameof(Book))]
    public void A_proposal_is_whole_and_says_why(string about, string[] bodies, bool rows, string proposed)
    {
        var proposal = ReadingProposal.Of([.. bodies.Select(b => JsonDocument.Parse(b).RootElement)], Words, Lisbon, rows);
        Assert.True(proposed.ReplaceLineEndings("\n") == Told(proposal), $"{about}:\n{Told(proposal)}");
    }

    private static string[] Many(int n, Func<int, string> body) => [.. Enumerable.Range(1, n).Select(body)];

    private static string Told(Proposal proposal)
    {
        var (reading, why, lines) = (proposal.Reading, proposal.Because, new List<string>());
        void Say(string name, string from, string? because) => lines.Add($"{name} <- {from}{(because is null ? "" : " | " + because)}");
        if (reading.Event?.Path is not null)
        {
            Say("event", From(reading.Event), why["event"]);
        }

        if (reading.Each is { } each)
        {
            Say("each", each.Text, why["each"]);
        }

        if (reading.Time is { } time)
        {
            Say("time", From(time), why["time"]);
        }

        foreach (var field in reading.Fields)
        {
            Say(field.Field.Path, From(field.Value), why[field.Field.Path]);
        }

        if (reading.Lines is { } list)
        {
            Say("lines", list.Each.Text, why["order.lines"]);
            lines.AddRange(list.Fields.Select(f => $"  {f.Field.Path} <- {From(f.Value)}"));
        }

        return string.Join('\n', lines);
    }

    private static string From(ValueReading value) =>
        string.Join(
            ' ',
            new[]
            {
                value.Column is null ? value.Path?.Text : $"column {value.Column}",
                value.Forms.Count == 0 ? null : $"as {string.Join(" or ", value.Forms.Select(f => f.Text))}",
                value.Zone is null ? null : $"in {value.Zone.Id}",
                value.Decimal is null ? null : $"with {value.Decimal}",
                value.Minor == 0 ? null : $"by 10^{value.Minor}",
                value.Words is null ? null : string.Join(", ", value.Words.OrderBy(w => w.Key, StringComparer.Ordinal).Select(w => $"{w.Key}={w.Value}")),
            }.OfType<string>()
        );
}
