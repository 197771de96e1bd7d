using System.Globalization;
using Ical.Net.DataTypes;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Sources;
using Sirena.Core.Tests.Sources;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests;

/// <summary>
/// What is made of many inputs in a row, kept as it was found good: where a bound lies, and which of two things wins, is seen wherever it moves. The inputs are
/// drawn by a seed, so they are the same each time.
/// </summary>
public sealed class SweepTests
{
    private static readonly string[] Names =
    [
        "orderNumber",
        "order_id",
        "Auftragsnummer",
        "id",
        "ref",
        "code",
        "status",
        "state",
        "st",
        "Zustand",
        "event",
        "type",
        "message",
        "dueAt",
        "due_date",
        "Liefertermin",
        "date",
        "created_at",
        "orderDate",
        "sentAt",
        "timestamp",
        "total",
        "amount",
        "total_cents",
        "Betrag",
        "currency",
        "cur",
        "customer",
        "customer_name",
        "name",
        "first_name",
        "last_name",
        "email",
        "phone",
        "customerNo",
        "group",
        "lang",
        "salesRep",
        "method",
        "riskScore",
        "score",
        "level",
        "reason",
        "via",
        "site",
        "on_hand",
        "threshold",
        "weight",
    ];

    private static readonly string[] Above = ["order", "customer", "payment", "risk", "hold", "head", "data", "stock"];

    private static readonly string[] LineNames = ["sku", "no", "title", "description", "qty", "shipped", "price", "unitPrice", "site", "pos", "note"];

    private static readonly Func<Random, int, string>[] Values =
    [
        (_, n) => $"\"A-{n}\"",
        (_, n) => $"{4000 + n}",
        (r, _) => Any(r, "\"Received\"", "\"Picking\"", "\"On hold\"", "\"strange\""),
        (r, _) => Any(r, "\"Received\"", "\"Picking\""),
        (r, _) => Any(r, "\"ORDER_NEW\"", "\"ORDER_HOLD\"", "\"ping\""),
        (r, _) => Any(r, "\"order.created\"", "\"something\""),
        (r, _) => $"\"2026-11-{r.Next(10, 29)}T09:30:00Z\"",
        (r, _) => $"\"{r.Next(10, 15)}/{r.Next(10, 13)}/2026\"",
        (r, _) => $"\"{r.Next(1, 29)}.{r.Next(1, 13)}.2026 08:15\"",
        (r, _) => $"\"2026-11-{r.Next(10, 29)}\"",
        (r, _) => $"{1795534200 + r.Next(100_000)}",
        (r, _) => $"\"2026112{r.Next(0, 9)}\"",
        (r, _) => $"{r.Next(1, 900)}.{r.Next(10, 99)}",
        (r, _) => $"\"1.2{r.Next(10, 99)},{r.Next(10, 99)}\"",
        (r, _) => $"{r.Next(100, 90_000)}",
        (r, _) => Any(r, "\"EUR\"", "\"GBP\""),
        (r, _) => Any(r, "\"eur\"", "\"gbp\""),
        (r, _) => Any(r, "\"Corvane\"", "\"Tarn & Daughters\"", "\"SY Little Auk\""),
        (r, _) => Any(r, "\"Ines\"", "\"Teo\"", "\"Wanda\""),
        (_, n) => $"\"person{n}@harbour.example\"",
        (_, n) => $"\"+4477009001{n:00}\"",
        (r, _) => Any(r, "\"low\"", "\"high\""),
        (r, _) => Any(r, "true", "null", "\"\""),
        (r, _) => Any(r, "\"gold\"", "\"silver\""),
    ];

    // Bodies of one shape: some members at the top, some within another, often a list with what lines have or with what orders have.
    private static string[] Bodies(Random chance)
    {
        (string Name, Func<Random, int, string> Value)[] Some(string[] names, int most) =>
            [.. Enumerable.Range(0, chance.Next(1, most + 1)).Select(_ => (Any(chance, names), Any(chance, Values))).DistinctBy(m => m.Item1)];
        var (top, inner, list) = (Some(Names, 7), Some(Names, 5), Some(chance.Next(3) == 0 ? Names : LineNames, 5));
        var (above, listed, many) = (Any(chance, Above), Any(chance, "lines", "items", "orders", ""), chance.Next(1, 6));
        return
        [
            .. Enumerable
                .Range(1, many)
                .Select(n =>
                {
                    string Object((string Name, Func<Random, int, string> Value)[] members, int at) =>
                        string.Join(',', members.Select(m => $"\"{m.Name}\":{m.Value(chance, at)}"));
                    var within = listed.Length == 0 ? "" : $",\"{listed}\":[{{{Object(list, 2 * n)}}},{{{Object(list, (2 * n) + 1)}}}]";
                    return $"{{{Object([.. top.Where(t => t.Name != above && t.Name != listed)], n)},\"{above}\":{{{Object(inner, n)}}}{within}}}";
                }),
        ];
    }

    [Fact]
    public void Bodies_of_many_shapes_have_their_proposals()
    {
        var chance = new Random(4_711);
        var told = new List<string>();
        for (var n = 1; n <= 240; n++)
        {
            var bodies = Bodies(chance);
            told.Add($"{n}: {bodies[0]}{(bodies.Length > 1 ? $" and {bodies.Length - 1} more" : "")}");
            told.Add(ProposalBookTests.Told(ReadingProposal.Of([.. bodies.Select(Element)], ReadingProposalTests.Words, Lisbon)));
        }

        Kept.Same("proposals", told);
    }

    [Fact]
    public void What_is_typed_for_a_time_is_read_as_it_was()
    {
        string[] days =
        [
            "",
            "today",
            "tomorrow",
            "yesterday",
            "fri",
            "saturday",
            "3 dec",
            "31 nov",
            "29 feb",
            "1 jan 2030",
            "5/6",
            "13/12",
            "31.12.",
            "1.2.27",
        ];
        string[] joins = [" ", " at ", ", ", ""];
        string[] times = ["", "0", "7", "8:30", "13:36", "13:37", "23:59", "24", "9.60", "1830", "18h", "6 h 15", "noon", "midnight", "in 2 h", "90 min", "1w"];
        LocalDateTime[] nows = [new(2026, 11, 28, 13, 36, 41), new(2027, 12, 31, 23, 59), new(2028, 2, 29, 0, 0)];
        var chance = new Random(8_30);
        var told = Enumerable
            .Range(0, 400)
            .Select(_ => (Text: Any(chance, days) + Any(chance, joins) + Any(chance, times), Now: Any(chance, nows)))
            .Distinct()
            .Select(x =>
                $"{x.Now:yyyy-MM-dd HH:mm} '{x.Text}': {WhenText.Read(x.Text, x.Now):yyyy-MM-dd HH:mm} | {WhenText.ReadDay(x.Text, x.Now):yyyy-MM-dd} | {WhenText.ReadTime(x.Text):HH:mm}"
            );
        Kept.Same("typed-times", told);
    }

    [Fact]
    public void Every_field_of_a_text_goes_to_whom_it_went() =>
        Kept.Same(
            "text-fields",
            WordingFields
                .All.Concat(WordingFields.OfLine)
                .Select(f =>
                    $"{f.Path} = {f.Name}{(f.Section ? ", a list" : "")}{(f.Internal ? ", internal" : "")}{(WordingFields.IsOfHouse(f.Path) ? ", of the house" : "")}"
                )
        );

    // A stretch far from the begin costs what lies in it and little else, and holds what the whole has there.
    [Theory]
    [InlineData("FREQ=YEARLY", 200, 2)]
    [InlineData("FREQ=YEARLY;INTERVAL=3", 199, 2)]
    [InlineData("FREQ=MONTHLY", 200, 3)]
    [InlineData("FREQ=MONTHLY;INTERVAL=5", 150, 3)]
    [InlineData("FREQ=WEEKLY;BYDAY=MO,TH", 200, 7)]
    [InlineData("FREQ=WEEKLY;INTERVAL=2", 120, 6)]
    [InlineData("FREQ=DAILY", 200, 33)]
    [InlineData("FREQ=DAILY;INTERVAL=9", 90, 6)]
    [InlineData("FREQ=HOURLY;INTERVAL=24", 100, 33)]
    [InlineData("FREQ=HOURLY;INTERVAL=7", 40, 99)]
    public void A_stretch_far_away_costs_what_lies_in_it(string text, int years, int periods)
    {
        var start = new LocalDateTime(1972, 3, 7, 21, 30);
        var rule = new Recurrence(new RecurrenceRule(text), start, null);
        var (from, to) = (start.PlusYears(years).PlusHours(5), start.PlusYears(years).PlusDays(31));
        var far = rule.Between(from, to, new StepBudget(3 * periods)).ToArray();
        Assert.Equal(rule.Between(start, to, new StepBudget(1_000_000)).Where(t => t >= from), far);
    }

    [Fact]
    public void Texts_of_every_length_cost_their_segments()
    {
        var told = new List<string>();
        foreach (var (name, one) in new[] { ("a", "a"), ("€", "€"), ("ã", "ã"), ("pair", "⚓"), ("wide", "🦀"), ("a€", "a€"), ("a🦀", "a🦀") })
        {
            var before = 0;
            for (var n = 1; n <= 480; n++)
            {
                var sms = SmsText.Of(string.Concat(Enumerable.Repeat(one, n)));
                if (sms.Segments != before)
                {
                    told.Add($"{name} x {n}: {sms.Encoding}, {sms.Units} in {sms.Segments}, {sms.Cost(0.07m).ToString(CultureInfo.InvariantCulture)}");
                    before = sms.Segments;
                }
            }
        }

        told.AddRange("ãéõŁłŠçÇ“”…–×•′ ✓".EnumerateRunes().Select(r => r.ToString()).Select(c => $"{c}: {SmsText.Cheaper(c)}"));
        Kept.Same("segments", told);
    }

    [Fact]
    public void Every_letter_of_a_date_pattern_reads_what_it_read()
    {
        string[] there = ["7", "07", "26", "2026", "May", "Mon", "Monday", "14", "2", "pm", "Z", "+01", "+0130", "+01:30", "1", "123", "123456789"];
        var told = new List<string>();
        foreach (var letter in "yuMLdEHhmsSaXxZGQw")
        {
            for (var run = 1; run <= 10; run++)
            {
                var piece = new string(letter, run);
                var (form, problem) = TimeForm.Parse($"uuuu MM dd {piece}");
                var read = there.Where(t => form?.Read($"2026 05 04 {t}", Lisbon) is not null).Select(t => $"{t} as {form!.Read($"2026 05 04 {t}", Lisbon)}");
                told.Add($"{piece}: {problem ?? string.Join(", ", read)}{(form?.NeedsZone == true ? " in a zone" : "")}");
            }
        }

        Kept.Same("date-letters", told);
    }
}
