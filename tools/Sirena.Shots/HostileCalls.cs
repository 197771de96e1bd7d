using System.Net.Http.Headers;
using System.Text;

namespace Sirena.Shots;

/// <summary>A request that nobody means.</summary>
/// <param name="Method">The method.</param>
/// <param name="Path">The address.</param>
/// <param name="Type">The content type.</param>
/// <param name="Body">The body.</param>
public sealed record HostileCall(string Method, string Path, string Type, byte[] Body)
{
    /// <summary>The request.</summary>
    /// <param name="url">Where the application answers.</param>
    /// <param name="token">A supervisor's token.</param>
    /// <param name="sourceKey">A source's key, for events.</param>
    public HttpRequestMessage Request(string url, string token, string sourceKey)
    {
        var request = new HttpRequestMessage(HttpMethod.Parse(Method), url + Path);
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", Path == "/api/events" ? sourceKey : token);
        if (Method != "GET")
        {
            request.Content = new ByteArrayContent(Body);
            request.Content.Headers.TryAddWithoutValidation("Content-Type", Type);
        }

        return request;
    }

    /// <inheritdoc/>
    public override string ToString() => $"{Method} {Path} ({Type}): {Encoding.UTF8.GetString(Body[..Math.Min(Body.Length, 160)]).ReplaceLineEndings("⏎")}";
}

/// <summary>
/// Makes such requests: every document that the application takes, cut at its lines, with bytes flipped and values replaced by extremes, and what is known to
/// have broken readers elsewhere. The same seed makes the same.
/// </summary>
public static class HostileCalls
{
    private static readonly string[] Extremes =
    [
        "\"\"",
        "null",
        "-1",
        "9999999999999999999999",
        "1e308",
        "\"9999-12-31T23:59:59Z\"",
        "\"0001-01-01T00:00:00Z\"",
        "\"\\ud800\"",
        "\"\\u0000\"",
        "[]",
        "{}",
        "true",
        "\"P999999999D\"",
        "\"(a+)+$\"",
        "\"'; drop table orders; --\"",
        "\"../../etc/passwd\"",
        "\"{{#a}}{{#a}}\"",
    ];

    private static readonly string[] Odds =
    [
        "-2147483648",
        "2147483648",
        "9223372036854775808",
        "79228162514264337593543950336",
        "0",
        "-1",
        "1e999",
        "0.00000000000000000000000000001",
        "٣",
        "９",
        "²",
        "\u202e",
        "\u2028",
        "\ufeff",
        "\u0301",
        "𠮷",
        "{{{",
        "}}",
        "%00",
        "*x",
        "&x",
        "!!x",
        "\t",
        "'",
        "\\",
    ];

    private static readonly string[] Queries =
    [
        "/when?kind=time&text=%D9%A3",
        "/when?text=in%20%D9%A3%20h",
        "/when?kind=day&text=99999999999%20days",
        "/pick/people?by=odd&first=odd",
        "/api/instructions?wait=99999999999",
        "/api/instructions?wait=-1&state=sung",
        "/api/deliveries?order=%EF%BF%BD",
        "/orders?q=%D9%A3%CC%81",
        "/api/alerts?cursor=zzz",
        "/api/alerts?limit=-5",
        "/api/alerts?state=sung",
        "/api/deliveries?from=9999-12-31T23:59:59Z",
        "/api/deliveries?from=soon",
        "/api/deliveries?cursor=MTIzfDQ1Ng==",
        "/api/orders/%00/trail",
        "/api/events/%F0%9F%98%80/trail",
        "/orders?after=99999999999999999999%7Cx",
        "/orders?after=999999999999999999%7Cx",
        "/orders?q=%25%25%25%5C",
        "/orders?due=never&risk=odd",
        "/people/rota?team=kitchen&week=9999-12-31",
        "/people/rota?team=kitchen&week=0001-01-01",
        "/people/rota?team=kitchen&at=99999999999999999&shift=00000000-0000-0000-0000-000000000000",
        "/people?week=9999-12-27",
        "/people/coverage?at=9999-12-31T23:59",
        "/proof?from=9999-12-31&to=0001-01-01",
        "/proof?from=zzz",
        "/watch?at=9999-12-31T23:59:59Z",
        "/rules/nothing?compare=-1",
        "/rules/new?from=nothing",
        "/wording?id=nothing",
        "/api/people?format=doc",
        "/people/who?at=9999-12-31T23:59&order=x",
        "/statuses?id=nothing",
        "/api/rehearsals/00000000-0000-0000-0000-000000000000",
        "/rota/kitchen.ics?key=x",
        "/a/AAAAAAAAAAAAAAAAAAAAAA",
        "/jump?q=%00",
        "/jump?q=AQ",
        "/api/orders?q=%25%5C_&limit=0",
        "/api/orders?cursor=AAAA&from=9999-12-31T23:59:59Z",
        "/api/sources/ledger/arrivals?state=sung",
        "/api/sources/ledger/arrivals?cursor=-1",
        "/api/sources/ledger/arrivals/9223372036854775807/body",
        "/sources?id=nothing&state=odd",
        "/sources/ledger/reading?body=-1",
        "/orders/try/0",
        "/orders/missing?source=%00",
    ];

    /// <summary>Makes them.</summary>
    /// <param name="seed">Decides which.</param>
    /// <param name="count">How many.</param>
    /// <param name="rota">A team's rota as it stands, to begin from.</param>
    public static IEnumerable<HostileCall> Make(int seed, int count, string rota)
    {
        var chance = new Random(seed);
        (string Method, string Path, string Type, string Body)[] documents =
        [
            ("PUT", "/api/teams/kitchen/rota", "text/calendar", rota),
            (
                "PUT",
                "/api/people",
                "application/yaml",
                "- { id: odd.one, name: Odd One, teams: [odd], contacts: [ { channel: mail, address: odd@a.example } ], away: [ { from: 2026-12-24, to: 2026-12-26 } ], quiet: [ { days: [mon], from: \"22:00\", to: \"06:00\" } ] }\n"
            ),
            (
                "PUT",
                "/api/people",
                "application/json",
                """[{"id":"odd.two","name":"Odd Two","teams":["odd"],"contacts":[{"channel":"sms","address":"+447700900123"}],"optOuts":[{"event":"order.placed"}]}]"""
            ),
            ("PUT", "/api/people", "text/csv", "id,name,mail,teams\r\nodd.three,\"Odd, Three\",odd3@a.example,odd\r\nodd.four,Four,odd4@a.example,odd\r\n"),
            (
                "PUT",
                "/api/people",
                "text/vcard",
                "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Odd Five\r\nEMAIL:odd5@a.example\r\nTEL;TYPE=cell:+447700900125\r\nEND:VCARD\r\n"
            ),
            ("PUT", "/api/people", "application/jsonl", "{\"id\":\"odd.six\",\"name\":\"Odd Six\"}\n{\"id\":\"odd.seven\",\"post\":null}\n"),
            (
                "PUT",
                "/api/rules/odd-rule",
                "application/yaml",
                "name: Odd\nwhen: [order.odd]\nurgency: prompt\nonlyIf:\n  all:\n    - { field: order.total, is: at-least, value: 5 }\n    - { field: order.number, is: matches, value: \"^AQ-[0-9]+$\" }\ntell: [ { team: desk } ]\nby: { allAtOnce: [screen] }\nladder:\n  - { after: PT5M, tell: [ { team: desk } ] }\n"
            ),
            (
                "PUT",
                "/api/rules/odd-json",
                "application/json",
                """{"name":"Odd JSON","when":["order.odd"],"cases":[{"name":"a","onlyIf":{"field":"order.dueAt","is":"less-than","value":"2026-12-01T00:00:00Z"},"tell":[{"duty":"kitchen"}]},{"name":"b","tell":[]}],"rest":"PT30M","gather":"PT0S"}"""
            ),
            (
                "POST",
                "/api/who",
                "application/json",
                """{"tell":[{"duty":"kitchen"},{"role":"customer"}],"urgency":"urgent","event":"order.placed","order":{"number":"X","customer":{"email":"a@b.example"}},"at":"2026-11-27T12:00:00Z"}"""
            ),
            (
                "POST",
                "/api/previews",
                "application/json",
                """{"wording":{"mail":{"subject":"{{order.number}}","text":"{{#order.lines}}{{title}} {{quantity}}\n{{/order.lines}}","html":"<b>{{order.total}}</b>"},"sms":"{{order.dueAt.time}}"},"order":{"number":"X","total":5,"currency":"EUR","dueAt":"2026-11-27T12:00:00Z","lines":[{"title":"a","quantity":1}]},"audience":"staff","language":"en"}"""
            ),
            (
                "PUT",
                "/api/wordings/odd-words",
                "application/yaml",
                "name: Odd words\ntexts:\n  - audience: staff\n    sms: \"{{order.number}} {{order.status}}\"\n"
            ),
            (
                "PUT",
                "/api/gateways/odd-gateway",
                "application/json",
                """{"channel":"sms","name":"Odd","on":false,"address":"https://sms.example/send","width":2,"headers":{"X":"y"},"body":"{\"to\":\"{{to}}\",\"text\":\"{{text}}\"}"}"""
            ),
            (
                "POST",
                "/api/alerts/00000000-0000-0000-0000-000000000000/answers",
                "application/json",
                """{"person":"ines.calder","answer":"taken","note":"x"}"""
            ),
            (
                "POST",
                "/api/rehearsals",
                "application/json",
                """{"rule":{"name":"Odd","when":["order.odd"],"tell":[{"team":"desk"}]},"from":"2026-11-26T00:00:00Z","to":"2026-11-26T01:00:00Z"}"""
            ),
            (
                "POST",
                "/api/events",
                "application/cloudevents+json",
                """{"specversion":"1.0","id":"odd-1","source":"/odd","type":"order.odd","subject":"ODD-1","time":"2026-11-27T12:00:00Z","data":{"order":{"number":"ODD-1","total":5,"currency":"EUR","dueAt":"2026-11-27T12:00:00Z","lines":[{"sku":"a","quantity":1}]}}}"""
            ),
            (
                "POST",
                "/api/events",
                "application/cloudevents-batch+json",
                """[{"specversion":"1.0","id":"odd-2","source":"/odd","type":"stock.odd","subject":"GAL-1","data":{"stock":{"sku":"GAL-1","onHand":-1}}},{"id":7}]"""
            ),
            (
                "PUT",
                "/api/sources/odd-source",
                "application/yaml",
                "name: Odd\nkind: calls\nproof: { inAddress: true, secret: odd-secret }\nsilence: { threshold: 9.2 }\nreading:\n  event: { path: $.kind, words: { NEW: order.placed }, otherwise: ignore }\n  each: \"$.all[*]\"\n  time: { path: $.at, form: \"dd/MM/uuuu HH:mm\", zone: Europe/Lisbon }\n  order:\n    number: { path: $.no }\n    total: { path: $.sum, decimal: \",\" }\n    lines: { each: \"$.rows[*]\", quantity: { path: $.n, minor: 2 } }\n  keep: rest\n"
            ),
            (
                "PUT",
                "/api/sources/odd-list",
                "application/json",
                """{"kind":"listing","prefix":"OL-","listing":{"key":"no","gone":"cancelled","charset":"windows-1252","goneAtMost":0.3},"reading":{"order":{"number":{"column":"no"},"status":{"column":"status","words":{"a":"received"},"else":"picking"},"dueAt":{"column":"due","form":["dd.MM.uuuu","epoch-seconds"]}}}}"""
            ),
            ("PUT", "/api/sources/odd-docs", "application/json", """{"kind":"documents","proof":{"inAddress":true,"secret":"odd-secret"}}"""),
            (
                "POST",
                "/api/in/odd-source/odd-secret",
                "application/json",
                """{"kind":"NEW","at":"24/11/2026 15:30","all":[{"no":"1","sum":"1.284,50","rows":[{"n":250}],"own":{"deep":[1,2]}},{"no":2}]}"""
            ),
            ("POST", "/api/in/odd-source/odd-secret", "application/x-www-form-urlencoded", "kind=NEW&no=7&sum=12%2C50&own=a%20b&own=c"),
            (
                "POST",
                "/api/in/odd-docs/odd-secret",
                "application/xml",
                "<Order xmlns=\"urn:oasis:names:specification:ubl:schema:xsd:Order-2\" xmlns:cbc=\"urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2\">\n<cbc:ID>ODD-9</cbc:ID>\n<cbc:IssueDate>2026-11-24</cbc:IssueDate>\n</Order>"
            ),
            ("PUT", "/api/sources/odd-list/listing?try=1", "text/csv", "no;status;due\r\n1;a;24.11.2026\r\n2;\"b\";\r\n3;c;1795534200\r\n"),
            ("PUT", "/api/sources/odd-list/listing", "text/csv", "no;status;due\n1;a;24.11.2026\n2;b;\n"),
            (
                "POST",
                "/api/sources/odd-source/readings/try",
                "application/json",
                """{"reading":{"event":{"always":"order.changed"},"order":{"number":{"path":"$.no"},"via":{"join":["$.a","$.b"],"between":"-"}}},"bodies":[{"no":"1","a":"x"},{"no":null}]}"""
            ),
            (
                "POST",
                "/api/sources/odd-source/readings/proposal",
                "application/json",
                """{"bodies":[{"order_no":"A-1","status":"received","due":"24/11/2026","total":"1.284,50","rows":[{"sku":"a","qty":1}]},{"order_no":"A-2"}]}"""
            ),
            ("POST", "/api/sources/odd-source/arrivals/again", "application/json", """{"state":"not-understood"}"""),
            (
                "POST",
                "/api/instructions",
                "application/json",
                """{"order":"ODD-1","kind":"refund","amount":20.50,"reason":"late","because":"the boat waits","tell":{"customer":false,"staff":true,"by":["mail"]}}"""
            ),
            ("POST", "/api/instructions/00000000-0000-0000-0000-000000000000/result", "application/json", """{"state":"seen","words":"done","code":200}"""),
            (
                "PUT",
                "/api/instructions/rights",
                "application/yaml",
                "- { kind: cancel, roles: [supervisor], teams: [desk], secondYes: true }\n- { kind: note, roles: [staff, supervisor] }\n"
            ),
            (
                "PUT",
                "/api/people/odd.eight",
                "application/json",
                """{"name":"Odd Eight","contacts":[{"channel":"mail","address":"odd8@a.example"}],"away":[{"from":"2026-12-24","to":"2026-12-26","cover":"ines.calder"}],"quiet":[{"days":["mon"],"from":"22:00","to":"06:00"}]}"""
            ),
            ("PATCH", "/api/people/odd.eight", "application/merge-patch+json", """{"post":"7","codes":["O8"],"first":{"urgent":"sms"}}"""),
            ("PUT", "/api/statuses/odd-status", "application/json", """{"name":"Odd","mark":"picking","words":["90","ODD"],"position":3}"""),
            (
                "PUT",
                "/api/rules/odd-ladder",
                "application/yaml",
                "name: Odd ladder\nwhen: [order.odd]\ntell: [ { team: desk } ]\nby: { firstThatLands: [push, sms], wait: PT2M }\nladder:\n  - { after: PT5M, tell: [ { team: desk } ], repeat: { times: 3, every: PT5M } }\n  - { beforeDue: PT1H, do: [ { hold: { reason: \"late {{order.number}}\" } } ] }\nstorm: { alerts: 20, within: PT10M }\ndoneWithin: PT2H\nnotOlderThan: PT1H\n"
            ),
            (
                "POST",
                "/api/push/subscriptions",
                "application/json",
                """{"endpoint":"https://push.example/x","keys":{"p256dh":"AAAA","auth":"AAAA"},"name":"odd"}"""
            ),
        ];
        for (var i = 0; i < count; i++)
        {
            if (chance.Next(8) == 0)
            {
                yield return new HostileCall("GET", Queries[chance.Next(Queries.Length)], "", []);
                continue;
            }

            var (method, path, type, body) = documents[i % documents.Length];
            var bytes = Encoding.UTF8.GetBytes(body);
            yield return new HostileCall(
                method,
                path,
                chance.Next(40) == 0 ? type + "; charset=" + new[] { "utf-16", "iso-8859-1", "martian", "utf-7" }[chance.Next(4)] : type,
                chance.Next(9) switch
                {
                    0 => bytes[..chance.Next(bytes.Length)],
                    1 or 2 => Flipped(bytes, chance),
                    3 => Encoding.UTF8.GetBytes(Lines(body, chance)),
                    4 => Bomb(type, chance),
                    5 or 6 => Encoding.UTF8.GetBytes(Odd(body, chance)),
                    _ => Encoding.UTF8.GetBytes(Replaced(body, chance)),
                }
            );
        }
    }

    private static byte[] Flipped(byte[] bytes, Random chance)
    {
        byte[] flipped = [.. bytes];
        for (var n = chance.Next(1, 5); n > 0; n--)
        {
            flipped[chance.Next(flipped.Length)] = (byte)chance.Next(256);
        }

        return flipped;
    }

    // Lines left out, doubled or in another order.
    private static string Lines(string body, Random chance)
    {
        var lines = body.Split('\n').ToList();
        switch (chance.Next(3))
        {
            case 0:
                lines.RemoveAt(chance.Next(lines.Count));
                break;
            case 1:
                lines.Insert(chance.Next(lines.Count), lines[chance.Next(lines.Count)]);
                break;
            default:
                (lines[0], lines[^1]) = (lines[^1], lines[0]);
                break;
        }

        return string.Join('\n', lines);
    }

    private static string Replaced(string body, Random chance)
    {
        var colons = Enumerable.Range(0, body.Length).Where(i => body[i] == ':').ToList();
        if (colons.Count == 0)
        {
            return body + Extremes[chance.Next(Extremes.Length)];
        }

        var from = colons[chance.Next(colons.Count)] + 1;
        var to = body.IndexOfAny([',', '}', '\n', '\r'], from) is >= 0 and var end ? end : body.Length;
        return body[..from] + " " + Extremes[chance.Next(Extremes.Length)] + body[to..];
    }

    // Odd words put in, or in place of a number: also within texts, where a span or a time stands.
    private static string Odd(string body, Random chance)
    {
        for (var n = chance.Next(1, 4); n > 0; n--)
        {
            var odd = Odds[chance.Next(Odds.Length)];
            var digits = Enumerable.Range(0, body.Length).Where(i => char.IsAsciiDigit(body[i]) && (i == 0 || !char.IsAsciiDigit(body[i - 1]))).ToArray();
            if (digits.Length == 0 || chance.Next(3) == 0)
            {
                body = body.Insert(chance.Next(body.Length + 1), odd);
                continue;
            }

            var from = digits[chance.Next(digits.Length)];
            var to = from;
            while (to < body.Length && char.IsAsciiDigit(body[to]))
            {
                to++;
            }

            body = body[..from] + odd + body[to..];
        }

        return body;
    }

    private static byte[] Bomb(string type, Random chance) =>
        Encoding.UTF8.GetBytes(
            chance.Next(6) switch
            {
                0 => string.Concat(Enumerable.Repeat(type.Contains("yaml", StringComparison.Ordinal) ? "- " : "[", 200_000)),
                1 => string.Concat(Enumerable.Repeat("{\"a\":", 50_000)),
                2 =>
                    "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:x\r\nDTSTART:19700101T000000Z\r\nDURATION:PT1H\r\nRRULE:FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=30\r\nATTENDEE:mailto:x@a.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
                3 => new string('a', 900_000),
                4 => "{\"a\":1,\"a\":2}",
                _ => "<!DOCTYPE html><html><body>" + new string(' ', 10_000) + "</body></html>",
            }
        );
}
