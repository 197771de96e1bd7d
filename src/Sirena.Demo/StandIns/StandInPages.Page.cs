using System.Net;
using System.Text;

namespace Sirena.Demo.StandIns;

/// <summary>The page on which what the stand-ins hold is seen.</summary>
public static partial class StandInPages
{
    private static string Page(IReadOnlyList<ArrivedMail> mails, Carrier phone, Carrier chat, Printers printers, Browsers browsers, IReadOnlyList<Fault> faults)
    {
        var html = new StringBuilder(
            """
            <!doctype html><html lang="en"><head>
            <meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>Stand-ins</title>
            <style>
            body{font:14px/20px system-ui,sans-serif;margin:24px auto;max-width:1000px;padding:0 16px;color:#1B2B34;background:#F6F3EC}
            h1{font-size:20px}
            h2{font-size:16px;margin:24px 0 8px}
            details{background:#fff;border:1px solid #DDD6C8;border-radius:4px;margin:4px 0;padding:6px 12px}
            summary{display:grid;grid-template-columns:70px 240px 1fr;gap:8px;cursor:pointer}
            pre{white-space:pre-wrap;font-size:13px}
            .sets{display:grid;grid-template-columns:repeat(auto-fill,minmax(300px,1fr));gap:10px}
            .set{background:#fff;border:1px solid #DDD6C8;border-radius:4px;padding:8px 12px;overflow-wrap:anywhere}
            .set p{margin:4px 0}
            form{display:flex;gap:8px;align-items:center}
            button,input,select{font:inherit;padding:4px 10px;border:1px solid #8D8778;border-radius:4px;background:#fff}
            .on{color:#A3361D;font-weight:600}
            </style></head><body>
            <h1>Stand-ins</h1>
            <p>A mail carrier (SMTP), a phone network and a team chat (HTTP), ticket printers (raw TCP), all on this machine. They keep what Sirena
            hands over, and misbehave when told to.</p>
            <h2>Faults</h2>
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
                """
                <form method="post" action="/faults"><select name="channel" aria-label="Stand-in"><option>mail</option><option>relay</option>
                <option>phone</option><option>chat</option><option>push</option><option>ticket</option></select>
                <label>for <input name="match" value="*" size="24"></label><label>do <select name="fault">
                """
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
                            $"<details><summary><span>{m.At.ToLocalTime():HH:mm:ss}</span><span>{E(m.To)}</span><b>{E(m.Text.Split('\n')[0])}"
                            + $"</b></summary><pre>{E(m.Text)}</pre></details>"
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
                            $"<details><summary><span>{p.At.ToLocalTime():HH:mm:ss}</span><span>{E(p.Person)}</span><b>{E(p.Title)}</b></summary><pre>"
                            + $"{E(p.Text)}</pre>{(p.Url is null ? "" : $"<p><a href=\"{E(p.Url)}\">press it</a></p>")}</details>"
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
                $"<details><summary><span>{m.At.ToLocalTime():HH:mm:ss}</span><span>{E(m.To)}</span><b>{E(m.Subject)}{(m.Folder == "junk" ? " (junk)" : "")}"
                    + $"</b></summary><pre>{E(m.Text)}</pre></details>"
            );
        }

        return html.Append("</body></html>").ToString();
    }

    private static string Code(string text) => System.Text.RegularExpressions.Regex.Match(text, @"OK \d{4}").Value;

    private static string E(string text) => WebUtility.HtmlEncode(text);
}
