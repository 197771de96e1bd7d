using System.Text.Json;

namespace Sirena.Demo.StandIns;

/// <summary>The stand-ins' own small web: what arrived, and the faults. Loopback only.</summary>
public static partial class StandInPages
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
}
