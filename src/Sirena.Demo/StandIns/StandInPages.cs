using System.Net;
using System.Text;
using System.Text.Json;

namespace Sirena.Demo.StandIns;

/// <summary>The stand-ins' own small web: what arrived, and the faults. Loopback only.</summary>
public static class StandInPages
{
    /// <summary>Maps it.</summary>
    public static void MapStandIns(this WebApplication app, MailCarrier mail, Carrier phone, Carrier chat, Printers printers, Browsers browsers, Faults faults)
    {
        MapCarrier(app, phone, "/phone", "number");
        MapCarrier(app, chat, "/chat", "room");
        app.MapPost("/phone/replies", async (HttpRequest request) =>
        {
            var (from, text) =
                request.HasFormContentType && await request.ReadFormAsync() is { } form ? (form["from"].ToString(), form["text"].ToString())
                : await JsonDocument.ParseAsync(request.Body) is { } body
                    ? (body.RootElement.GetProperty("from").GetString()!, body.RootElement.GetProperty("text").GetString()!)
                : ("", "");
            var said = await phone.ReplyAsync(from, text);
            return request.HasFormContentType ? Results.Redirect("/")
                : said is null ? Results.Problem("No message has named an address for replies yet.", statusCode: 409)
                : Results.Json(
                    new
                    {
                        from,
                        text,
                        status = said,
                    },
                    statusCode: 202
                );
        });
        app.MapGet("/tickets", (string? printer) => Results.Json(
                printers
                    .Tickets.Where(t =>
                        printer is null
                        || t.Printer.Equals(printer, StringComparison.OrdinalIgnoreCase)
                        || printer.EndsWith($":{printers.Ports[t.Printer]}", StringComparison.Ordinal)
                    )
                    .Select(t => new
                    {
                        at = t.At,
                        to = t.Printer,
                        from = "Sirena",
                        text = t.Text,
                    })
            ));
        app.MapDelete("/tickets", () =>
        {
            printers.Clear();
            return Results.NoContent();
        });
        app.MapGet("/push", (string? person) => Results.Json(
                browsers
                    .Shown.Where(p => person is null || p.Person.Equals(person, StringComparison.OrdinalIgnoreCase))
                    .Select(p => new
                    {
                        at = p.At,
                        to = p.Person,
                        from = "Sirena",
                        subject = p.Title,
                        text = p.Text.Contains(p.Title, StringComparison.Ordinal) ? p.Text : $"{p.Title}\n{p.Text}",
                        url = p.Url,
                    })
            ));
        app.MapDelete("/push", () =>
        {
            browsers.Clear();
            return Results.NoContent();
        });
        app.MapPost("/push/to/{person}", browsers.TakeAsync);
        app.MapGet("/mail", (string? to) => Results.Json(
                mail.Mails.Where(m => to is null || m.To.Equals(to, StringComparison.OrdinalIgnoreCase))
                    .Select(m => new
                    {
                        at = m.At,
                        to = m.To,
                        from = m.From,
                        subject = m.Subject,
                        text = m.Text,
                        folder = m.Folder,
                        raw = m.Raw,
                    })
            ));
        app.MapDelete("/mail", () =>
        {
            mail.Clear();
            return Results.NoContent();
        });
        app.MapGet("/faults", () => Results.Json(
                faults.All.Select(f => new
                {
                    channel = f.Channel,
                    match = f.Match,
                    fault = f.Kind,
                    times = f.TimesLeft,
                    seconds = f.Seconds,
                })
            ));
        app.MapDelete("/faults", () =>
        {
            faults.Clear();
            return Results.NoContent();
        });
        app.MapPost("/faults", async (HttpRequest request) =>
        {
            using var reader = new StreamReader(request.Body);
            var body = await reader.ReadToEndAsync();
            if (!body.TrimStart().StartsWith('{') && request.HasFormContentType)
            {
                var form = Microsoft.AspNetCore.WebUtilities.QueryHelpers.ParseQuery(body);
                string Field(string name) => form.TryGetValue(name, out var value) ? value[^1] ?? "" : "";
                if (Field("fault") == "none")
                {
                    faults.Clear();
                }
                else
                {
                    faults.Add(new Fault(Field("channel") is { Length: > 0 } c ? c : "mail", Field("match") is { Length: > 0 } m ? m : "*", Field("fault"), 5));
                }

                return Results.Redirect("/");
            }

            var (fault, problem) = Read(body);
            if (fault is null)
            {
                return Results.Problem(problem, statusCode: 422, title: "This fault is not known.");
            }

            faults.Add(fault);
            return Results.Created(
                "/faults",
                new
                {
                    channel = fault.Channel,
                    match = fault.Match,
                    fault = fault.Kind,
                    times = fault.TimesLeft,
                    seconds = fault.Seconds,
                }
            );
        });
        app.MapGet("/", () => Results.Text(Page(mail.Mails, phone, chat, printers, browsers, faults.All), "text/html; charset=utf-8"));
    }

    private static void MapCarrier(WebApplication app, Carrier carrier, string path, string by)
    {
        app.MapGet(path, (HttpRequest request) => Results.Json(
                carrier
                    .Messages.Where(m =>
                        request.Query[by].ToString() is not { Length: > 0 } wanted
                        || m.To.Equals(
                            wanted.Trim().Replace(" ", "+", StringComparison.Ordinal) is var w && path == "/phone" && !w.StartsWith('+') ? "+" + w : wanted,
                            StringComparison.OrdinalIgnoreCase
                        )
                    )
                    .Select(m => new
                    {
                        at = m.At,
                        to = m.To,
                        from = m.From,
                        text = m.Text,
                        folder = m.Folder,
                    })
            ));
        app.MapDelete(path, () =>
        {
            carrier.Clear();
            return Results.NoContent();
        });
        app.MapPost(path + "/messages", carrier.TakeAsync);
    }

    private static (Fault? Fault, string? Problem) Read(string text)
    {
        try
        {
            using var body = JsonDocument.Parse(text);
            var root = body.RootElement;
            string Text(string name, string or) => root.TryGetProperty(name, out var v) && v.ValueKind == JsonValueKind.String ? v.GetString()! : or;
            var (channel, kind) = (Text("channel", "mail"), Text("fault", ""));
            channel = channel == "sms" ? "phone" : channel;
            if (channel is not ("mail" or "relay" or "phone" or "chat" or "push" or "ticket"))
            {
                return (null, $"There is no stand-in for '{channel}'; there are mail, relay (the second mail server), phone (or sms), chat, push and ticket.");
            }

            if (!Fault.Kinds.Contains(kind))
            {
                return (null, $"'{kind}' is none of {string.Join(", ", Fault.Kinds)}.");
            }

            return (
                new Fault(channel, Text("match", "*"), kind, root.TryGetProperty("seconds", out var s) && s.TryGetDouble(out var seconds) ? seconds : 5)
                {
                    TimesLeft = root.TryGetProperty("times", out var t) && t.TryGetInt32(out var times) ? times : null,
                },
                null
            );
        }
        catch (JsonException e)
        {
            return (null, $"The body is not JSON: {e.Message}");
        }
    }

    private static string Page(IReadOnlyList<ArrivedMail> mails, Carrier phone, Carrier chat, Printers printers, Browsers browsers, IReadOnlyList<Fault> faults)
    {
        var html = new StringBuilder(
            """
            <!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>Stand-ins</title>
            <style>body{font:14px/20px system-ui,sans-serif;margin:24px auto;max-width:1000px;padding:0 16px;color:#1B2B34;background:#F6F3EC}h1{font-size:20px}h2{font-size:16px;margin:24px 0 8px}
            details{background:#fff;border:1px solid #DDD6C8;border-radius:4px;margin:4px 0;padding:6px 12px}summary{display:grid;grid-template-columns:70px 240px 1fr;gap:8px;cursor:pointer}pre{white-space:pre-wrap;font-size:13px}
            .sets{display:grid;grid-template-columns:repeat(auto-fill,minmax(300px,1fr));gap:10px}.set{background:#fff;border:1px solid #DDD6C8;border-radius:4px;padding:8px 12px;overflow-wrap:anywhere}.set p{margin:4px 0}form{display:flex;gap:8px;align-items:center}button,input,select{font:inherit;padding:4px 10px;border:1px solid #8D8778;border-radius:4px;background:#fff}.on{color:#A3361D;font-weight:600}</style></head><body>
            <h1>Stand-ins</h1><p>A mail carrier (SMTP), a phone network and a team chat (HTTP), ticket printers (raw TCP), all on this machine. They keep what Sirena hands over, and misbehave when told to.</p><h2>Faults</h2>
            """
        );
        html.Append(
            faults.Count == 0
                ? "<p>None: everything is taken.</p>"
                : string.Concat(
                    faults.Select(f =>
                        $"<p class=\"on\">{E(f.Channel)}: {E(f.Kind)} for {E(f.Match)}{(f.TimesLeft is { } n ? $", {n} more times" : ", until lifted")}</p>"
                    )
                )
        );
        html.Append(
                "<form method=\"post\" action=\"/faults\"><select name=\"channel\" "
                    + "aria-label=\"Stand-in\"><option>mail</option><option>relay</option><option>phone</option><option>chat</option><option>push</option><option>ticket</option></select><label>for <input name=\"match\" value=\"*\" size=\"24\"></label><label>do <select name=\"fault\">"
            )
            .AppendJoin("", Fault.Kinds.Select(k => $"<option>{k}</option>"))
            .Append("</select></label><button>Misbehave</button><button name=\"fault\" value=\"none\">Lift all faults</button></form>");
        html.Append($"<h2>{phone.Messages.Count} text messages, by handset</h2><div class=\"sets\">");
        foreach (var set in phone.Messages.GroupBy(m => m.To).OrderByDescending(g => g.Max(m => m.At)).Take(12))
        {
            html.Append($"<section class=\"set\"><b>{E(set.Key)}</b>")
                .Append(string.Concat(set.TakeLast(3).Select(m => $"<p><small>{m.At.ToLocalTime():HH:mm:ss}</small> {E(m.Text)}</p>")))
                .Append(
                    $"<form method=\"post\" action=\"/phone/replies\"><input type=\"hidden\" name=\"from\" value=\"{E(set.Key)}\"><input name=\"text\" "
                        + $"value=\"{E(Code(set.Last().Text))}\" aria-label=\"Reply from {E(set.Key)}\" size=\"12\"><button>Reply</button></form></section>"
                );
        }

        html.Append($"</div><h2>{chat.Messages.Count} chat messages</h2>")
            .Append(
                string.Concat(
                    chat.Messages.Reverse()
                        .Take(40)
                        .Select(m =>
                            $"<details><summary><span>{m.At.ToLocalTime():HH:mm:ss}</span><span>{E(m.To)}</span><b>{E(m.Text.Split('\n')[0])}</b></summary><pre>{E(m.Text)}</pre></details>"
                        )
                )
            );
        html.Append($"<h2>{browsers.Shown.Count} push messages</h2>")
            .Append(
                string.Concat(
                    browsers
                        .Shown.Reverse()
                        .Take(20)
                        .Select(p =>
                            $"<details><summary><span>{p.At.ToLocalTime():HH:mm:ss}</span><span>{E(p.Person)}</span><b>{E(p.Title)}</b></summary><pre>{E(p.Text)}</pre>{(p.Url is null ? "" : $"<p><a href=\"{E(p.Url)}\">press it</a></p>")}</details>"
                        )
                )
            );
        html.Append($"<h2>{printers.Tickets.Count} tickets</h2><div class=\"sets\">")
            .Append(
                string.Concat(
                    printers
                        .Tickets.Reverse()
                        .Take(9)
                        .Select(t =>
                            $"<section class=\"set\"><b>{E(t.Printer)}</b> <small>{t.At.ToLocalTime():HH:mm:ss}</small><pre>{E(t.Text)}</pre></section>"
                        )
                )
            );
        html.Append($"</div><h2>{mails.Count} mails arrived</h2>");
        foreach (var m in mails.Reverse().Take(200))
        {
            html.Append(
                $"<details><summary><span>{m.At.ToLocalTime():HH:mm:ss}</span><span>{E(m.To)}</span><b>{E(m.Subject)}{(m.Folder == "junk" ? " (junk)" : "")}</b></summary><pre>{E(m.Text)}</pre></details>"
            );
        }

        return html.Append("</body></html>").ToString();
    }

    private static string Code(string text) => System.Text.RegularExpressions.Regex.Match(text, @"OK \d{4}").Value;

    private static string E(string text) => WebUtility.HtmlEncode(text);
}
