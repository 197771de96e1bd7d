using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Sources;
using Sirena.Formats.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>Bodies of shapes of their own, read by a reading's document.</summary>
public sealed class BodyReaderTests
{
    private static readonly DateTimeZone Lisbon = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];

    private const string Ledger = """
        source: ledger
        id: { header: X-Delivery }
        event: { path: $.kind, words: { ORD_NEW: order.placed, ORD_HOLD: order.held, PING: ignore }, otherwise: not-understood }
        time: { path: $.sent }
        each: $.orders[*]
        order:
          number: { path: $.ord.no }
          status: { path: $.ord.st }
          dueAt: { path: $.ord.due, form: "dd/MM/uuuu HH:mm", zone: Europe/Lisbon }
          total: { path: $.ord.sum, decimal: "," }
          customer: { name: { path: $.ord.cust.name }, email: { path: $.ord.cust.mail } }
          lines: { each: "$.ord.pos[*]", sku: { path: $.art }, quantity: { path: $.qty }, site: { path: $.loc, words: { K1: galley } } }
          extra: { vessel: { path: $.ord.ship } }
        keep: rest
        """;

    private static BodyResult Read(string yaml, string body, params (string Name, string Value)[] headers)
    {
        var (reading, errors) = ReadingReader.Read(yaml, yaml: true);
        Assert.True(reading is not null, string.Join("; ", errors.Select(e => $"{e.Path} {e.Problem}")));
        using var document = JsonDocument.Parse(body);
        return new BodyReader(reading, Lisbon).Read(new Body(document.RootElement.Clone(), name => headers.FirstOrDefault(h => h.Name == name).Value));
    }

    [Fact]
    public void A_row_is_its_order_or_says_what_is_wrong_with_it()
    {
        var reading = ReadingReader.Read("source: list\norder:\n  number: { path: $.Nr }\n  total: { path: $.Sum }", yaml: true, SourceKind.Listing).Reading!;
        (JsonObject? Data, IReadOnlyList<BodyProblem> Problems) Row(string row)
        {
            using var document = JsonDocument.Parse(row);
            return new BodyReader(reading, Lisbon).Row(document.RootElement.Clone());
        }

        var good = Row("""{"Nr":"7","Sum":12.5}""");
        Assert.Empty(good.Problems);
        Assert.Equal("""{"number":"7","total":12.5}""", good.Data!["order"]!.ToJsonString());
        var bad = Row("""{"Nr":"7","Sum":"much"}""");
        Assert.Null(bad.Data);
        Assert.Equal("$.Sum", Assert.Single(bad.Problems).Path);
    }

    [Fact]
    public void The_reading_of_the_design_reads_several_orders_of_one_body()
    {
        var result = Read(
            Ledger,
            """
            {"kind":"ORD_NEW","sent":"2026-11-24T14:24:16Z","shift":"night","orders":[
              {"ord":{"no":"L-1","st":"30","due":"24/11/2026 15:30","sum":"1.284,50","ship":"MV Corvane","quay":"N3","cust":{"name":"MV Corvane","mail":"purser@corvane.example","fax":"123"},
               "pos":[{"art":"GAL-0031","qty":4,"loc":"K1"},{"art":"CHD-1","qty":2.5,"loc":"k1"}]}},
              {"ord":{"no":20442,"st":null,"due":"","sum":12}}]}
            """,
            ("X-Delivery", "d-77")
        );
        Assert.Empty(result.Problems);
        Assert.Equal(["d-77", "d-77#1"], result.Events.Select(e => e.Id));
        Assert.All(result.Events, e => Assert.Equal(("order.placed", Instant.FromUtc(2026, 11, 24, 14, 24, 16)), (e.Type, e.Time!.Value)));
        var first = result.Events[0].Data["order"]!;
        Assert.Equal("2026-11-24T15:30:00Z", (string?)first["dueAt"]);
        Assert.Equal(1284.50m, (decimal)first["total"]!);
        Assert.Equal("galley", (string?)first["lines"]![1]!["site"]);
        Assert.Equal(2.5m, (decimal)first["lines"]![1]!["quantity"]!);
        Assert.Equal("MV Corvane", (string?)first["extra"]!["vessel"]);
        Assert.Equal("N3", (string?)first["extra"]!["quay"]);
        Assert.Equal("123", (string?)first["extra"]!["cust"]!["fax"]);
        var second = (JsonObject)result.Events[1].Data["order"]!;
        Assert.Equal("20442", (string?)second["number"]);
        Assert.True(second.ContainsKey("status"), "null clears");
        Assert.False(second.ContainsKey("dueAt"), "empty is absent");
    }

    [Theory]
    [InlineData("""{"kind":"ORD_NEW","orders":[{"ord":{"no":"1","due":"31/11/2026 10:00"}}]}""", "$.orders[0].ord.due", "31/11/2026 10:00", "dd/MM/uuuu")]
    [InlineData("""{"kind":"ORD_NEW","orders":[{"ord":{"no":"1"}},{"ord":{"no":"2","sum":"12.50"}}]}""", "$.orders[1].ord.sum", "12.50", "','")]
    [InlineData("""{"kind":"ORD_NEW","orders":[{"ord":{"no":"1","pos":[{"art":"a","loc":"K9"}]}}]}""", "$.orders[0].ord.pos[0].loc", "K9", "K1")]
    [InlineData("""{"kind":"ORD_SUSP","orders":[{"ord":{"no":"1"}}]}""", "$.kind", "ORD_SUSP", "ORD_HOLD")]
    [InlineData("""{"kind":"ORD_NEW","orders":[{"ord":{"st":"30"}}]}""", "$.orders[0].ord.no", null, "number")]
    [InlineData("""{"kind":"ORD_NEW","orders":[{"ord":{"no":{"a":1}}}]}""", "$.orders[0].ord.no", "{\"a\":1}", "an object")]
    [InlineData("""{"kind":"ORD_NEW","orders":[]}""", "$.orders[*]", null, "at least one item")]
    [InlineData("""{"kind":"ORD_NEW","sent":"yesterday","orders":[{"ord":{"no":"1"}}]}""", "$.sent", "yesterday", "RFC 3339")]
    public void What_cannot_be_read_names_its_place_and_the_whole_body_makes_nothing(string body, string path, string? found, string wanted)
    {
        var result = Read(Ledger, body);
        Assert.Empty(result.Events);
        var problem = result.Problems[0];
        Assert.Equal((path, found), (problem.Path, problem.Found));
        Assert.Contains(wanted, problem.Wanted);
    }

    [Theory]
    [InlineData("{\"kind\":\"ORD_NEW\",\"orders\":[{\"ord\":{\"no\":\"1\"}}]}", null)]
    [InlineData("{\"kind\":\"ORD_NEW\",\"orders\":[{\"ord\":{\"no\":\"1\",\"pos\":[]}}]}", "[]")]
    [InlineData("{\"kind\":\"ORD_NEW\",\"orders\":[{\"ord\":{\"no\":\"1\",\"pos\":null}}]}", "null")]
    public void Lines_that_a_body_does_not_carry_are_left_as_they_are(string body, string? lines)
    {
        var order = (JsonObject)Read(Ledger, body).Events[0].Data["order"]!;
        Assert.Equal(lines, order.TryGetPropertyValue("lines", out var found) ? found?.ToJsonString() ?? "null" : null);
    }

    [Theory]
    [InlineData(12, "one of the words W01, W02, W03, W04, W05, W06, W07, W08, W09, W10, W11, W12")]
    [InlineData(13, "one of the words W01, W02, W03, W04, W05, W06, W07, W08, W09, W10, W11, W12")]
    [InlineData(1, "one of the words W01")]
    public void Twelve_of_the_words_are_named_to_whoever_sent_another(int many, string wanted)
    {
        var words = string.Join(", ", Enumerable.Range(1, many).Select(n => $"W{n:00}: order.held"));
        string Wanted(string how) => Assert.Single(Read(how, """{"k":"X","no":"1"}""").Problems).Wanted;
        Assert.Equal(wanted, Wanted($"event: {{ path: $.k, words: {{ {words} }} }}\norder: {{ number: {{ path: $.no }} }}"));
        Assert.Equal(wanted, Wanted($"event: {{ always: order.held }}\norder: {{ number: {{ path: $.no }}, via: {{ path: $.k, words: {{ {words} }} }} }}"));
    }

    [Fact]
    public void A_sign_of_life_makes_nothing_and_is_no_problem() => Assert.True(Read(Ledger, """{"kind":"PING","orders":[{}]}""").Ignored);

    [Theory]
    [InlineData("total: { path: $.v, minor: 2 }", "128450", "1284.50")]
    [InlineData("total: { path: $.v }", "\"1284.50\"", "1284.50")]
    [InlineData("total: { path: $.v, decimal: '.' }", "\"1,284.50\"", "1284.50")]
    [InlineData("total: { path: $.v, decimal: ',' }", "\"1 284,50\"", "1284.50")]
    [InlineData("total: { path: $.v, decimal: ',' }", "\"-3,5\"", "-3.5")]
    public void Amounts_are_read_as_it_is_said(string how, string value, string wanted) =>
        Assert.Equal(decimal.Parse(wanted, System.Globalization.CultureInfo.InvariantCulture), (decimal)One(how, value)!["total"]!);

    [Theory]
    [InlineData("total: { path: $.v, decimal: '.' }", "\"1,28\"")]
    [InlineData("total: { path: $.v }", "\"1,284.50\"")]
    [InlineData("total: { path: $.v, minor: 2 }", "12.5")]
    [InlineData("total: { path: $.v }", "1e400")]
    [InlineData("dueAt: { path: $.v, form: epoch-seconds }", "\"soon\"")]
    [InlineData("dueAt: { path: $.v, form: 'dd/MM/uuuu' }", "\"24/13/2026\"")]
    [InlineData("dueAt: { path: $.v, form: 'dd/MM/uuuu' }", "\"24/11/0026\"")]
    [InlineData("currency: { path: $.v }", "\"EURO\"")]
    public void Nothing_is_guessed(string how, string value) => Assert.Null(One(how, value));

    [Theory]
    [InlineData("dueAt: { path: $.v, form: epoch-seconds }", "1795534200", "2026-11-24T15:30:00Z")]
    [InlineData("dueAt: { path: $.v, form: epoch-milliseconds }", "\"1795534200000\"", "2026-11-24T15:30:00Z")]
    [InlineData("dueAt: { path: $.v, form: [dd.MM.uuuu, 'dd.MM.uuuu HH:mm'], zone: Europe/Berlin }", "\"24.07.2026 17:30\"", "2026-07-24T15:30:00Z")]
    [InlineData("dueAt: { path: $.v, form: [dd.MM.uuuu, 'dd.MM.uuuu HH:mm'], zone: Europe/Berlin }", "\"24.07.2026\"", "2026-07-23T22:00:00Z")]
    [InlineData("dueAt: { path: $.v, form: \"uuuu-MM-dd'T'HH:mm:ssXXX\" }", "\"2026-11-24T16:30:00+01:00\"", "2026-11-24T15:30:00Z")]
    [InlineData("dueAt: { path: $.v, zone: Europe/Lisbon }", "\"2026-07-24 16:30\"", "2026-07-24T15:30:00Z")]
    [InlineData("dueAt: { path: $.v, form: 'dd/MM/uuuu HH:mm', zone: Europe/Lisbon }", "\"29/03/2026 01:30\"", "2026-03-29T01:30:00Z")]
    [InlineData("dueAt: { path: $.v, form: 'MM/dd/yy hh:mm a' }", "\"07/24/26 04:30 PM\"", "2026-07-24T15:30:00Z")]
    public void Times_are_read_as_it_is_said(string how, string value, string wanted) => Assert.Equal(wanted, (string?)One(how, value)!["dueAt"]);

    [Theory]
    [InlineData("via: { path: $.v, words: { W: web }, else: desk }", "\"w\"", "web")]
    [InlineData("via: { path: $.v, words: { W: web }, else: desk }", "\"x\"", "desk")]
    [InlineData("via: { join: [ '$.v', '$.number' ], between: '/' }", "\"a\"", "a/T-1")]
    [InlineData("via: { always: phone }", "\"a\"", "phone")]
    [InlineData("via: { path: $.v, trim: true }", "\"  a \"", "a")]
    [InlineData("via: { path: $.v }", "true", "true")]
    public void Texts_are_read_as_it_is_said(string how, string value, string wanted) => Assert.Equal(wanted, (string?)One(how, value)!["via"]);

    [Theory]
    [InlineData("tags: { path: '$.v' }", """["a","b",3,true,null]""", "a|b|3|true")]
    [InlineData("tags: { path: '$.v' }", "\"a, b;c\\n d ,\"", "a|b|c|d")]
    [InlineData("tags: { path: '$.v[*].t' }", """[{"t":"a"},{"x":1},{"t":"b"}]""", "a|b")]
    [InlineData("tags: { path: '$.v[*].t' }", """[{"t":"a;b"}]""", "a|b")]
    [InlineData("tags: { path: '$.v', words: { RU: rush } }", "[\"ru\",\"xx\"]", "rush|xx")]
    [InlineData("tags: { path: '$.v', words: { RU: rush }, else: other }", "[\"ru\",\"xx\"]", "rush|other")]
    [InlineData("tags: { path: '$.v' }", "\"\"", null)]
    public void Lists_come_as_lists_as_words_or_as_several_places(string how, string value, string? wanted) =>
        Assert.Equal(wanted, One(how, value) is { } order && order["tags"] is JsonArray tags ? string.Join('|', tags.Select(t => (string?)t)) : null);

    [Theory]
    [InlineData("", "true", true)]
    [InlineData("", "\"TRUE\"", true)]
    [InlineData("", "false", false)]
    [InlineData("", "\"yes\"", null)]
    [InlineData("", "1", null)]
    [InlineData(", yes: [Y, '1']", "\"y\"", true)]
    [InlineData(", yes: [Y, '1']", "1", true)]
    [InlineData(", yes: [Y, '1']", "\"no\"", false)]
    [InlineData(", yes: [Y, '1']", "true", false)]
    public void A_yes_is_true_or_one_of_the_words_that_mean_it(string more, string value, bool? yes)
    {
        var result = Read(
            $"event: {{ always: order.note-added }}\norder:\n  number: {{ path: $.number }}\nnote:\n  text: {{ path: $.t }}\n  visibleToCustomer: {{ path: $.v{more} }}",
            $"{{\"number\":\"T-1\",\"t\":\"hello\",\"v\":{value}}}"
        );
        Assert.Equal(yes is null ? "true or false; other words need 'yes'" : null, result.Problems.Select(p => p.Wanted).FirstOrDefault());
        Assert.Equal(yes, result.Events.Count == 0 ? null : (bool?)result.Events[0].Data["note"]!["visibleToCustomer"]);
    }

    [Fact]
    public void A_hold_without_its_reason_is_none()
    {
        var order = One("hold: { reason: { path: $.v } }", "null")!;
        Assert.True(order.ContainsKey("hold"));
        Assert.Null(order["hold"]);
    }

    [Theory]
    [InlineData("number: { path: $.a.no }", """{"a":{"no":"1","x":1,"y":{"z":2}},"b":3}""", """{"x":1,"y":{"z":2},"b":3}""")]
    [InlineData("number: { path: $.a.c.no }", """{"a":{"c":{"no":"1","x":1},"y":2},"b":3}""", """{"x":1,"y":2,"b":3}""")]
    [InlineData("number: { path: $.no }, status: { path: $.a.st }", """{"no":"1","a":{"st":"s","k":1},"b":{"k":2}}""", """{"a":{"k":1},"b":{"k":2}}""")]
    [InlineData("number: { path: $.no }, status: { path: $.a.st }", """{"no":"1","a":{"st":"s"}}""", null)]
    [InlineData("number: { path: $.no }, via: { join: [ $.x.a, $.x.b ] }", """{"no":"1","x":{"a":"p","b":"q","c":"r"}}""", """{"x":{"c":"r"}}""")]
    [InlineData("number: { path: $.no }, lines: { each: '$.pos[*]', sku: { path: $.art } }", """{"no":"1","pos":[{"art":"A","q":2}]}""", null)]
    [InlineData("number: { path: $.no }, extra: { k: { path: $.a.k } }", """{"no":"1","k":5,"a":{"k":6}}""", """{"k":6}""")]
    [InlineData("number: { path: $.a.no }", """{"x":"outer","a":{"no":"1","x":"inner"}}""", """{"x":"outer"}""")]
    [InlineData("number: { path: $.no }, status: { path: $.a.st }", """{"no":"1","a":"plain"}""", """{"a":"plain"}""")]
    [InlineData("number: { path: $.no }, status: { path: $.a.st }", """{"no":"1","a":[{"st":"s"},2]}""", """{"a":[{"st":"s"},2]}""")]
    [InlineData("number: { path: $.no }, status: { path: $.a.st }", """{"no":"1","a":null}""", null)]
    public void What_no_line_reads_is_kept_by_its_own_names_and_what_lies_beside_the_number_without_that_object_s(string order, string body, string? extra)
    {
        var result = Read($"event: {{ always: order.changed }}\norder: {{ {order} }}", body);
        Assert.Empty(result.Problems);
        Assert.Equal(extra, result.Events[0].Data["order"]!["extra"]?.ToJsonString());
    }

    // A member of the business's own is what its line says how to read.
    [Theory]
    [InlineData("form: dd/MM/uuuu", "\"24/11/2026\"", "\"2026-11-24T00:00:00Z\"")]
    [InlineData("form: [dd.MM.uuuu, dd/MM/uuuu]", "\"24/11/2026\"", "\"2026-11-24T00:00:00Z\"")]
    [InlineData("decimal: ','", "\"12,5\"", "12.5")]
    [InlineData("minor: 1", "125", "12.5")]
    [InlineData("minor: 2", "1250", "12.5")]
    [InlineData("zone: Europe/Lisbon", "\"2026-07-24 16:30\"", "\"2026-07-24T15:30:00Z\"")]
    [InlineData("yes: [Y]", "\"Y\"", "true")]
    [InlineData("yes: [Y, J]", "\"n\"", "false")]
    [InlineData("trim: true", "\" a \"", "\"a\"")]
    [InlineData("trim: true", "12", "12")]
    [InlineData("trim: true", "[\" a \"]", "[\" a \"]")]
    public void A_member_of_ones_own_is_read_as_its_line_says(string how, string value, string wanted) =>
        Assert.Equal(wanted, One($"extra: {{ x: {{ path: $.v, {how} }} }}", value)!["extra"]!["x"]!.ToJsonString());

    [Fact]
    public void What_says_which_event_it_is_and_when_is_not_kept_once_more()
    {
        var result = Read(
            "id: { path: $.meta.id }\nevent: { path: $.meta.kind, words: { N: order.placed } }\ntime: { path: $.at }\norder: { number: { path: $.no } }",
            """{"no":"1","at":"2026-11-24T14:24:16Z","meta":{"id":"7","kind":"N","by":"till 3"}}"""
        );
        Assert.Equal(("7", "order.placed"), (result.Events[0].Id, result.Events[0].Type));
        Assert.Equal("""{"meta":{"by":"till 3"}}""", result.Events[0].Data["order"]!["extra"]!.ToJsonString());
    }

    [Fact]
    public void What_no_line_reads_is_kept_or_dropped_as_it_is_said()
    {
        Assert.Equal("there", (string?)One("via: { path: $.v }", "1", ", \"own\": \"there\"")!["extra"]!["own"]);
        Assert.Null(
            Read("event: { always: order.changed }\norder: { number: { path: $.number } }\nkeep: none", """{"number":"1","own":"x"}""").Events[0].Data[
                "order"
            ]!["extra"]
        );
    }

    [Theory]
    [InlineData("order: { number: { path: $.n } }", "event", "'event' is missing")]
    [InlineData("event: { always: order.placed }\norder: { total: { path: $.n } }", "order.number", "number")]
    [InlineData("event: { path: $.k, words: { A: order.plced } }\norder: { number: { path: $.n } }", "order.number", null)]
    [InlineData("event: { path: $.k, words: { A: gateway.failing } }\norder: { number: { path: $.n } }", "event.words.A", "no event that can come in")]
    [InlineData(
        "event: { path: $.k, words: { A: order.placed, \"A \": order.held } }\norder: { number: { path: $.n } }",
        "event.words.A ",
        "The word 'A' stands here a second time."
    )]
    [InlineData("event: { always: order.placed }\norder: { nummer: { path: $.n } }", "order.nummer", "Did you mean 'number'")]
    [InlineData("event: { always: order.placed }\norder: { number: { path: n } }", "order.number.path", "begins with $")]
    [InlineData("event: { always: order.placed }\norder: { number: { path: $..n } }", "order.number.path", "RFC 9535")]
    [InlineData("event: { always: order.placed }\norder: { number: { path: $.n, column: n } }", "order.number", "exclude each other")]
    [InlineData("event: { always: order.placed }\norder: { number: { path: $.n, form: uuuu } }", "order.number.form", "is none")]
    [InlineData("event: { always: order.placed }\norder: { number: { path: $.n }, dueAt: { path: $.d, form: 'qq' } }", "order.dueAt.form", "The letter 'qq'")]
    [InlineData(
        "event: { always: order.placed }\norder: { number: { path: $.n }, dueAt: { path: $.d, zone: Europe/Lisbona } }",
        "order.dueAt.zone",
        "Did you mean 'Europe/Lisbon'"
    )]
    [InlineData("event: { always: order.placed }\norder: { number: { path: $.n }, lines: { sku: { path: $.s } } }", "order.lines.each", "'each' is missing")]
    [InlineData("event: { always: order.placed }\neach: $.orders\norder: { number: { path: $.n } }", "each", "[*]")]
    [InlineData("event: { always: order.placed }\norder: { number: { path: $.n } }\nkeep: all", "keep", "rest")]
    public void A_mistake_in_a_reading_is_named_at_its_place(string yaml, string path, string? problem)
    {
        var (reading, errors) = ReadingReader.Read(yaml, yaml: true);
        if (problem is null)
        {
            // A type of the business's own.
            Assert.Empty(errors);
            return;
        }

        Assert.Null(reading);
        var error = Assert.Single(errors);
        Assert.Equal(path, error.Path);
        Assert.Contains(problem, error.Problem);
        Assert.NotNull(error.Line);
    }

    [Fact]
    public void A_reading_is_written_as_it_is_read()
    {
        var reading = ReadingReader.Read(Ledger, yaml: true).Reading!;
        var written = ReadingWriter.Write(reading);
        var again = ReadingReader.Read(written.ToJsonString(), yaml: false).Reading!;
        Assert.True(JsonNode.DeepEquals(written, ReadingWriter.Write(again)));
        var members = (JsonObject)ReadingSchema.Make()["properties"]!;
        Assert.All(written, m => Assert.True(members.ContainsKey(m.Key), m.Key));
    }

    private static JsonObject? One(string how, string value, string more = "")
    {
        var result = Read(
            $"event: {{ always: order.changed }}\norder:\n  number: {{ path: $.number }}\n  {how}",
            $"{{\"number\":\"T-1\",\"v\":{value}{more}}}"
        );
        return result.Events.Count == 0 ? null : (JsonObject)result.Events[0].Data["order"]!;
    }

    // Space of any kind is no value, however a body writes it; a letter among it is one.
    [Theory]
    [InlineData("\"\"", false)]
    [InlineData("\"   \"", false)]
    [InlineData("\"\\t\"", false)]
    [InlineData("\"\\u00a0\\n\"", false)]
    [InlineData("\"\u00a0\"", false)]
    [InlineData("\" \\t \u2003\"", false)]
    [InlineData("\"\\u0061\"", true)]
    [InlineData("\" a\"", true)]
    [InlineData("\"é\"", true)]
    [InlineData("\"\\t.\"", true)]
    public void What_is_only_space_is_absent(string value, bool there) => Assert.Equal(there, One("via: { path: $.v }", value)!.ContainsKey("via"));

    [Theory]
    [InlineData(1_000, null)]
    [InlineData(1_001, "1001 items")]
    public void A_body_has_at_most_a_thousand_events(int many, string? found)
    {
        var result = Read(
            "event: { always: order.placed }\neach: $[*]\norder:\n  number: { path: $.no }",
            $"[{string.Join(',', Enumerable.Range(0, many).Select(n => $$"""{"no":"{{n}}"}"""))}]"
        );
        Assert.Equal(found is null ? [] : [new BodyProblem("$[*]", found, "a list of at most 1000")], result.Problems);
        Assert.Equal(found is null ? many : 0, result.Events.Count);
    }

    [Theory]
    [InlineData("via: { path: '$.v[*].n' }", """[{"n":"a"}]""", "a")]
    [InlineData("total: { path: '$.v[*].n' }", """[{"n":12}]""", "12")]
    [InlineData("via: { path: '$.v[*].n' }", """[{"m":"a"}]""", null)]
    public void A_path_of_many_that_finds_one_is_its_value(string how, string value, string? wanted) =>
        Assert.Equal(wanted, One(how, value)![how[..how.IndexOf(':', StringComparison.Ordinal)]]?.ToString());
}
