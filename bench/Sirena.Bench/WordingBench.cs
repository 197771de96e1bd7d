using System.Diagnostics;
using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Formats.Pdf;
using Sirena.Shots;
using Stubble.Core.Builders;

namespace Sirena.Bench;

/// <summary>
/// A mail of 20 fields (subject, text, HTML) beside the bare Mustache renderer on the same three parts in the same run; documents; the preview as typed.
/// </summary>
public static class WordingBench
{
    private static readonly DateTimeZone Zone = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 14, 32);

    private static readonly string[] Paths =
    [
        "order.number",
        "order.total",
        "order.dueAt",
        "order.dueAt.time",
        "order.dueAt.until",
        "order.status",
        "order.customer.name",
        "order.customer.phone",
        "order.customer.code",
        "order.salesperson",
        "order.hold.reason",
        "order.risk.level",
        "order.risk.score",
        "order.payment.method",
        "order.payment.state",
        "order.extra.vessel",
        "order.extra.berth",
        "order.site",
        "event.time",
        "order.placedAt",
    ];

    /// <summary>Measures; the median of three runs each, the ratio taken run by run.</summary>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say)
    {
        var (own, bare, one, many) = (new double[3], new double[3], new double[3], new double[3]);
        for (var run = -1; run < 3; run++)
        {
            say(run < 0 ? "wording, a run to warm up" : $"wording, run {run + 1} of 3");
            var (a, b, c, d) = (Own(), Bare(), Documents(6, 60), Documents(500, 15));
            if (run >= 0)
            {
                (own[run], bare[run], one[run], many[run]) = (a, b, c, d);
            }
        }

        say("the preview as typed");
        var preview = await PreviewAsync(server);
        return
        [
            new Figure("a mail of 20 fields, subject, text and HTML", Figure.Median(own), "µs"),
            new Figure("the bare renderer on the same parts", Figure.Median(bare), "µs"),
            new Figure("  as a multiple of it", Figure.Median([.. own.Zip(bare, (a, b) => a / b)]), "×", 2),
            new Figure("a document of one page, median", Figure.Median(one), "ms", 15),
            new Figure("a document of 500 lines, median", Figure.Median(many), "ms", 150),
            new Figure("the preview after a letter, p95", preview, "ms", 150),
        ];
    }

    private static JsonObject Order(int lines) =>
        new()
        {
            ["number"] = "AQ-20418",
            ["status"] = "alongside",
            ["currency"] = "EUR",
            ["total"] = 1284.50,
            ["placedAt"] = "2026-11-24T06:12:09Z",
            ["dueAt"] = "2026-11-24T17:30:00Z",
            ["salesperson"] = "odile.varga",
            ["site"] = "galley",
            ["customer"] = new JsonObject
            {
                ["code"] = "CORV",
                ["name"] = "MV Corvane",
                ["phone"] = "+447700900123",
            },
            ["payment"] = new JsonObject { ["method"] = "account", ["state"] = "authorised" },
            ["risk"] = new JsonObject { ["level"] = "medium", ["score"] = 62 },
            ["hold"] = new JsonObject { ["reason"] = "credit limit" },
            ["extra"] = new JsonObject { ["vessel"] = "MV Corvane", ["berth"] = "N3" },
            ["lines"] = new JsonArray([
                .. Enumerable
                    .Range(0, lines)
                    .Select(i =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["sku"] = $"GAL-{i:0000}",
                                ["title"] =
                                    i % 7 == 0
                                        ? "Ναυτικό σχοινί Правый борт, a coil of rope with a rather long name that needs a second row"
                                        : "Fish pie, tray of 12",
                                ["quantity"] = 12,
                                ["shipped"] = 4,
                                ["unitPrice"] = 38.00,
                                ["site"] = "galley",
                            }
                    ),
            ]),
        };

    private static readonly OrderEvent Happened = new()
    {
        EventId = "e",
        Source = "/bench",
        Type = "order.held",
        OrderNumber = "AQ-20418",
        Time = Now,
        Received = Now,
        Data = "{}",
        OrderAfter = Order(6).ToJsonString(),
    };

    private static (string Subject, string Text, string Html) Parts() =>
        (
            "{{order.number}}: {{order.hold.reason}}, {{order.dueAt.time}}",
            string.Join("\n", Paths.Select(p => $"{p}: {{{{{p}}}}}")),
            string.Concat(Paths.Select(p => $"<tr><td>{p}</td><td>{{{{{p}}}}}</td></tr>"))
        );

    private static double Own()
    {
        var (subject, text, html) = Parts();
        var parts = new WordingParts
        {
            Subject = subject,
            Text = text,
            Html = html,
        };
        var names = new TextNames(id => id, id => id, _ => null);
        return Time(() =>
        {
            // What is read from an event is read anew each time, as for a message.
            var composer = new Composer(
                new MessageFacts(
                    new Facts(Happened, Zone, "EUR"),
                    names,
                    Now,
                    "Averil Quay Provisions",
                    "https://sirena.example",
                    new Branding("#12343B", "", "", null)
                )
                {
                    Answer = new AnswerWays("https://sirena.example/a/x", "2761"),
                }
            );
            composer.For(Channel.Mail, parts);
        });
    }

    // The same three parts over ready-made texts, in nested dictionaries, escaped in the HTML only.
    private static double Bare()
    {
        var (subject, text, html) = Parts();
        var plain = new StubbleBuilder().Configure(s => s.SetEncodingFunction(v => v)).Build();
        var escaped = new StubbleBuilder().Build();
        return Time(() =>
        {
            var root = new Dictionary<string, object>();
            foreach (var path in Paths)
            {
                var (at, names) = (root, path.Split('.'));
                foreach (var name in names[..^1])
                {
                    at =
                        at.TryGetValue(name, out var known) && known is Dictionary<string, object> inner
                            ? inner
                            : (Dictionary<string, object>)(at[name] = new Dictionary<string, object>());
                }

                at[names[^1]] = at.TryGetValue(names[^1], out var had) ? had : path;
            }

            plain.Render(subject, root);
            plain.Render(text, root);
            escaped.Render(html, root);
        });
    }

    private static double Time(Action act)
    {
        var times = new List<double>();
        for (var i = 0; i < 4_000; i++)
        {
            var begin = Stopwatch.GetTimestamp();
            act();
            times.Add(Stopwatch.GetElapsedTime(begin).TotalMicroseconds);
        }

        return Figure.At(times, .5);
    }

    private static double Documents(int lines, int times)
    {
        var happened = new OrderEvent
        {
            EventId = "e",
            Source = "/bench",
            Type = "order.shipped",
            OrderNumber = "AQ-20418",
            Time = Now,
            Received = Now,
            Data = "{}",
            OrderAfter = Order(lines).ToJsonString(),
        };
        var facts = new DocumentFacts(DocumentKind.OrderConfirmation, happened, "Averil Quay Provisions", "", TextLanguage.En, Zone, "EUR", id => id, []);
        var taken = new List<double>();
        for (var i = 0; i < times; i++)
        {
            var begin = Stopwatch.GetTimestamp();
            OrderPdf.Make(facts);
            taken.Add(Stopwatch.GetElapsedTime(begin).TotalMilliseconds);
        }

        return Figure.At(taken, .5);
    }

    private static async Task<double> PreviewAsync(string server)
    {
        await using var world = await World.MakeAsync(server, days: 1, aDay: 40);
        using var browser = Browser.Start();
        var maren = world.Demo.Users[0];
        browser.SignIn(world.Url, maren.Email, maren.Password);
        browser.Navigate().GoToUrl($"{world.Url}/wording?id=order-held&tab=sms");
        await Task.Delay(1500);
        var times =
            (IEnumerable<object>)
                browser.ExecuteAsyncScript(
                    """
                    const done = arguments[0], times = [], rich = document.querySelector("[data-part='sms'] + .rich");
                    (async () => {
                      for (let i = 0; i < 40; i++) {
                        const mark = `#${i}#`, begin = performance.now();
                        rich.append(mark);
                        rich.dispatchEvent(new Event('input', { bubbles: true }));
                        while (!document.getElementById('preview').textContent.includes(mark)) await new Promise(r => setTimeout(r, 2));
                        if (i >= 10) times.push(performance.now() - begin);
                        await new Promise(r => setTimeout(r, 60));
                      }
                      done(times);
                    })();
                    """
                )!;
        return Figure.At([.. times.Select(t => Convert.ToDouble(t, System.Globalization.CultureInfo.InvariantCulture))], .95);
    }
}
