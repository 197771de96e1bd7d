using System.Text;
using CsCheck;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Sources;
using Sirena.Core.Wordings;
using Sirena.Formats.Calendars;
using Sirena.Formats.People;
using Sirena.Formats.Rules;
using Sirena.Formats.Sources;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests;

/// <summary>
/// Every reader of a text from outside, with texts that are nearly right: cut, with numbers beyond all bounds, digits and marks of other scripts, halves of
/// characters. Each is read or refused; none ends the reader.
/// </summary>
public sealed class HostileTextTests
{
    private static readonly string[] Odd =
    [
        "-2147483648",
        "2147483648",
        "-9223372036854775808",
        "9223372036854775808",
        "99999999999999999999999999999999",
        "0",
        "-1",
        "1e999",
        "0.0000000000000000000000000001",
        "٣",
        "９",
        "²",
        "Ⅳ",
        "\u0000",
        "\ud800",
        "\udc00",
        "İ",
        "ß",
        "\u202e",
        "\u2028",
        "\ufeff",
        "\u0301",
        "𠮷",
        ":",
        ";",
        ",",
        ".",
        "-",
        "+",
        "@",
        "/",
        "\\",
        "\"",
        "'",
        "[",
        "]",
        "{",
        "}",
        "{{",
        "}}",
        "*",
        "&",
        "!",
        "%",
        "\r",
        "\n",
        "\t",
        " ",
    ];

    // A valid text with up to four changes: something put in, in place of a run of digits or of one character, or cut off.
    private static Gen<string> Near(params string[] valid) =>
        Gen.Select(AnyOf(valid), Gen.Select(Gen.Int[0, 3], Gen.Int[0, 1_000_000], AnyOf(Odd)).Array[1, 4], (text, changes) =>
        {
            foreach (var (how, place, odd) in changes)
            {
                if (text.Length == 0)
                {
                    return odd;
                }

                var at = place % text.Length;
                var end = at + 1;
                while (how == 1 && end < text.Length && char.IsAsciiDigit(text[end]))
                {
                    end++;
                }

                text = how switch
                {
                    0 => text[..at] + odd + text[at..],
                    3 when place % 7 == 0 => text[..at],
                    _ => text[..at] + odd + text[end..],
                };
            }

            return text;
        });

    private const string Shown =
        "{{order.total}} {{order.total.plain}} {{order.dueAt}} {{order.dueAt.until}} {{order.placedAt.date}} {{order.lines.table}} {{order.lines.sum.value}} "
        + "{{#order.lines}}{{quantity}} {{title}} {{unitPrice}}{{/order.lines}} {{order.risk.reasons}} {{order.risk.score}} {{order.status}} {{order.customer.name}}";

    public static TheoryData<string> Readers => [.. All.Select(r => r.Name)];

    private static readonly (string Name, string[] Valid, Action<string> Read)[] All =
    [
        (
            "a time of RFC 3339",
            [
                "2026-11-24T14:30:00Z",
                "2026-11-24T14:30:00.123456789+01:00",
                "1970-01-01T00:00:00-18:00",
                "9999-12-31T23:59:59-12:00",
                "0000-01-01T00:00:00+18:00",
            ],
            t => Core.Orders.Fields.Facts.Time(t)
        ),
        ("a length of time", ["PT5M", "P1DT2H", "-PT30S", "P1W", "PT0.5S"], t => Durations.Parse(t)),
        ("a length of time in words", ["1 h 30 min", "2 days", "1.5 hours", "90 s"], t => Durations.ParseWords(t)),
        ("an amount", ["1,284.50", "-12.50", "1'284'000.5", "1.284,50"], t =>
            _ = (DecimalText.Read(t, '.'), DecimalText.Read(t, ','), DecimalText.Read(t, null))
        ),
        ("a path", ["$.a.b", "$['a'][\"b c\"][0]", "$.a[*].*", "$[999999]"], t => BodyPath.Parse(t)),
        ("a form of times", ["dd.MM.uuuu", "uuuu-MM-dd'T'HH:mm:ss", "epoch-seconds", "d/M/uu HH:mm"], t => TimeForm.Parse(t).Form?.Read("24.11.2026", Lisbon)),
        ("a time by its form", ["24.11.2026", "31.12.9999", "01.01.0001"], t => TimeForm.Parse("dd.MM.uuuu").Form!.Read(t, Lisbon)),
        ("a time with an offset by its form", ["2026-11-24 15:30+02:00", "9999-12-31 23:30-12:00", "-9998-01-01 00:30+12:00"], t =>
            TimeForm.Parse("uuuu-MM-dd HH:mmXXX").Form!.Read(t, Lisbon)
        ),
        ("seconds since 1970", ["1795610000", "1795610000123", "-1"], t =>
            _ = (TimeForm.Parse("epoch-seconds").Form!.Read(t, Lisbon), TimeForm.Parse("epoch-milliseconds").Form!.Read(t, Lisbon))
        ),
        ("a guess at a date", ["24/11/2026", "2026-11-24", "1795610000", "11/24/26 14:30"], t => DateGuess.Of([t, t])),
        ("a mail address", ["ines.calder@averilquay.example", "a@xn--bcher-kva.example", "संपर्क@उदाहरण.परीक्षा"], t => MailAddress.TryParse(t, out _, out _)),
        ("a telephone number", ["+44 7700 900123", "00447700900124", "+351 912 345 678"], t => PhoneNumber.TryParse(t, out _, out _)),
        ("several addresses", ["a@b.example, c@d.example", "+44 7700 900123; +44 7700 900124"], t =>
            _ = (Addresses.Read(Channel.Mail, t), Addresses.Read(Channel.Sms, t))
        ),
        ("a printer", ["10.0.0.7", "printer.local:9100/850", "printer:9100/858/32"], t => PrinterAddress.TryParse(t, out _, out _)),
        ("a host and a port", ["mail.example:587", "[::1]:25", "localhost"], t => HostAndPort.Read(t, 25)),
        ("a recipient", ["person:ines.calder", "team:desk", "outside:a@b.example"], t => _ = (Recipient.Parse(t), PauseScope.Parse(t))),
        ("a status's words", ["a, b;c-d\r\ne a", "10, KOMM"], t => StatusWords.Read(t)),
        ("a reply", ["OK 4821", "TAKE 4821", "no"], t => AnswerTraits.OfReply(t.Split(' ')[0])),
        ("a text with fields", ["Hi {{order.number}}", "{{#order.lines}}{{quantity}} x {{title}}{{/order.lines}}"], t =>
            WordingCheck.Of(t, Audience.Staff, html: true)
        ),
        ("an SMS", ["The order AQ-20418 is held", "Lunch for 12 €"], t => SmsText.Of(t)),
        ("words of a far end", ["550 5.1.1 no such user", "2.0.0 Taken as 1"], t => _ = (FarText.Clean(t), FarText.Clean(t, 3), TextFolding.Fold(t))),
        ("a field", ["order.lines.any.quantity", "order.extra.berth", "event.local-hour"], t => FieldCatalogue.Find(t)),
        ("quoting", ["'a long name that is cut somewhere in the middle of it'"], t => Quoting.Cut(t, 7)),
        (
            "a rule",
            [
                "name: x\nwhen: [order.held]\ntell: [ { person: ines.calder } ]\nrest: PT30M\nonlyIf: { field: order.total, is: between, value: [5, 10.5] }",
                "name: y\nwhen: [order.held]\ntell: []\nstorm: { alerts: 20, within: PT10M }\nladder: [ { after: PT5M, tell: [ { team: desk } ], repeat: { times: 3, every: PT5M } } ]",
            ],
            t => Use(RuleReader.Read(t, yaml: true).Rule)
        ),
        (
            "a rule in JSON",
            ["""{"name":"x","when":["order.held"],"tell":[{"person":"a"}],"gather":"PT1M","onlyIf":{"field":"order.total","is":"at-least","value":5}}"""],
            t => Use(RuleReader.Read(t, yaml: false).Rule)
        ),
        ("a reading", ["event: { path: '$.kind', words: { NEW: order.placed } }\nfields:\n  order.number: { path: '$.no' }"], t =>
            ReadingReader.Read(t, yaml: true)
        ),
        ("people in YAML", ["people:\n  - { id: a.b, name: A B, contacts: [ { channel: mail, address: a@b.example } ], teams: [desk] }"], t =>
            PeopleReader.Read(t, yaml: true, Lisbon, [])
        ),
        ("people in CSV", ["id,name,mail,phone\na.b,A B,a@b.example,+447700900123\n"], t => PeopleCsv.Read(t, [])),
        ("a contact file", ["BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ines Calder\r\nEMAIL;PREF=1:ines@a.example\r\nTEL;TYPE=cell:+447700900123\r\nEND:VCARD\r\n"], t =>
            VCardReader.Read(Bytes(t), null)
        ),
        (
            "a calendar",
            [
                "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART;TZID=Europe/Lisbon:20260601T080000\r\nDURATION:PT8H\r\nRRULE:FREQ=WEEKLY;COUNT=4;BYDAY=MO,2TU\r\nATTENDEE:mailto:a@a.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
            ],
            t => RotaFile.Read(Bytes(t), null, "desk", a => a, Lisbon, Noon)
        ),
        (
            "an invoice's order in UBL",
            ["<Order xmlns=\"urn:oasis:names:specification:ubl:schema:xsd:Order-2\"><ID>1</ID><IssueDate>2026-11-24</IssueDate></Order>"],
            t => UblReader.Read(Bytes(t), Lisbon)
        ),
        ("a body", ["""{"no":20441,"due":"30/05/2026","total":1076.00}""", "no=1&due=2026-11-24"], t =>
            _ = (BodyText.Read(Bytes(t), "application/json"), BodyText.Read(Bytes(t), null))
        ),
    ];

    // What is taken works: it is said, written and read back, asked of an order, and its steps have their times.
    private static void Use(Rule? rule)
    {
        if (rule is null)
        {
            return;
        }

        new RuleSentence(id => id).Of(rule);
        Assert.Empty(RuleReader.Read(RuleWriter.Write(rule).ToJsonString(), yaml: false).Errors);
        new CompiledRule(rule, 1).Explain(Facts("""{"total":7,"currency":"EUR","dueAt":"2026-11-24T15:30:00Z"}"""));
        var hours = new WorkingHours([WorkingHours.Usual], new HashSet<LocalDate>(), Lisbon);
        foreach (var one in rule.Cases)
        {
            LadderClock.Plan(one.Ladder, Noon, Noon + Duration.FromHours(3), pull: true, _ => hours);
        }
    }

    // Halves of characters become what a program that writes them anyway would send.
    private static byte[] Bytes(string text) => Encoding.UTF8.GetBytes(text);

    [Theory]
    [MemberData(nameof(Readers))]
    public void Nearly_right_is_read_or_refused_and_ends_no_reader(string name)
    {
        var (_, valid, read) = All.Single(r => r.Name == name);
        Assert.All(valid, read);
        Near(valid)
            .Sample(
                text =>
                {
                    read(text);
                    return true;
                },
                iter: 1_500
            );
    }

    // What an order says is compared, written and shown: numbers that no decimal holds, times beyond the calendar, lists in place of texts.
    [Fact]
    public void An_order_of_extremes_is_compared_and_shown()
    {
        string[] fields = ["total", "dueAt", "placedAt", "status", "number", "currency", "salesperson"];
        string[] values =
        [
            "1e400",
            "-1e-400",
            "79228162514264337593543950336",
            "\"9999-12-31T23:59:59Z\"",
            "\"0001-01-01T00:00:00Z\"",
            "[]",
            "{}",
            "null",
            "true",
            "\"\\u0000\"",
            "\"\"",
            "[[[[1]]]]",
        ];
        var leaves = new[]
        {
            Leaf("order.total", "between", "[1, 2]"),
            Leaf("order.until-due", "less-than", "\"PT1H\""),
            Leaf("order.age", "at-least", "\"PT1H\""),
            Leaf("order.dueAt", "at-most", "\"2026-11-24T16:30:00+01:00\""),
            Leaf("order.status", "matches", "\"^(a+)+$\""),
            Leaf("order.lines.sum.value", "at-least", "1"),
            Leaf("event.local-hour", "equal", "2"),
        };
        Gen.Select(AnyOf(fields), AnyOf(values), AnyOf(values))
            .Sample(
                (field, value, of) =>
                {
                    var order =
                        $$"""{"{{field}}":{{value}},"lines":[{"quantity":{{of}},"unitPrice":{{value}}},{{of}}],"customer":{{of}},"risk":{"level":{{value}},"score":{{of}}} }""";
                    var facts = Facts(order, before: order);
                    foreach (var leaf in leaves)
                    {
                        Assert.Null(Question.TryMake(leaf, out var question));
                        question!.Explain(facts, null);
                    }

                    var state = OrderState.First(Json(order), Noon);
                    OrderColumns.From("AQ-1", state, state.Document.ToJsonString(), 1, Noon, []);
                    new Composer(Wordings.ComposerTests.About(order)).For(Channel.Sms, new WordingParts { Sms = Shown });
                    new Composer(Wordings.ComposerTests.About(order, Audience.Customer, "pt")).For(
                        Channel.Mail,
                        ShippedWordings.Find("order-held")!.For(Audience.Customer, "pt")!.Parts
                    );
                    Formats.OrderPdfTests.MakeOf(order);
                    return true;
                },
                iter: 150
            );
    }
}
