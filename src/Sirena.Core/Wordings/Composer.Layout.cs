using System.Text;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

public sealed partial class Composer
{
    // Plain text as HTML: an empty line parts paragraphs, a bare link can be pressed.
    private string Paragraphs(string text) =>
        string.Concat(
            text.ReplaceLineEndings("\n")
                .Split("\n\n", StringSplitOptions.RemoveEmptyEntries)
                .Select(p => $"<p style=\"margin:0 0 14px\">{Links(MessageWriter.Escape(p.Trim('\n'))).Replace("\n", "<br>", StringComparison.Ordinal)}</p>")
        );

    private string Links(string text) => Linked().Replace(text, m => $"<a href=\"{m.Value}\" style=\"color:{about.Branding.Accent}\">{m.Value}</a>");

    private string Layout(string subject, string body)
    {
        var colour = about.Branding.Colour;
        var page = new StringBuilder(
            $"<!doctype html><html lang=\"{about.Language.Code}\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" "
                + "content=\"width=device-width\"><meta name=\"color-scheme\" content=\"light dark\"><title>"
        )
            .Append(MessageWriter.Escape(subject))
            .Append(
                "</title></head><body style=\"margin:0;font-family:Helvetica,Arial,sans-serif;font-size:15px;line-height:22px\"><div "
                    + "style=\"max-width:600px;margin:0 auto;padding:0 20px\"><div style=\"border-top:5px solid "
            )
            .Append(colour)
            .Append(";padding:14px 0\">");
        if (about.Branding.Logo is { } logo)
        {
            page.Append("<img src=\"")
                .Append(MessageWriter.Escape(logo))
                .Append("\" alt=\"")
                .Append(MessageWriter.Escape(about.Business))
                .Append("\" style=\"max-height:48px;max-width:200px\"><br>");
        }

        page.Append("<b>")
            .Append(MessageWriter.Escape(about.Branding.Header.Length > 0 ? about.Branding.Header : about.Business))
            .Append("</b></div><h1 style=\"font-size:19px;line-height:26px;margin:0 0 12px\">")
            .Append(MessageWriter.Escape(subject))
            .Append("</h1>")
            .Append(body);
        if (about.Answer is { } ways && !body.Contains(ways.Link, StringComparison.Ordinal))
        {
            page.Append("<p style=\"margin:18px 0\"><a href=\"")
                .Append(MessageWriter.Escape(ways.Link))
                .Append("\" style=\"display:inline-block;padding:11px 20px;background:")
                .Append(colour)
                .Append(";color:")
                .Append(about.Branding.OnColour)
                .Append(";text-decoration:none;border-radius:4px\">")
                .Append(Say("I have it"))
                .Append("</a></p>");
        }

        page.Append("<p style=\"margin:18px 0 24px;padding-top:10px;border-top:1px solid #D8D0C0;font-size:13px;line-height:19px;opacity:.8\">");
        foreach (var (label, link) in Links().Where(l => l.Link != about.Answer?.Link))
        {
            page.Append("<a href=\"").Append(MessageWriter.Escape(link)).Append("\" style=\"color:inherit\">").Append(label).Append("</a><br>");
        }

        if (about.Branding.Footer.Length > 0)
        {
            page.Append(MessageWriter.Escape(about.Branding.Footer).Replace("\n", "<br>", StringComparison.Ordinal)).Append("<br>");
        }

        return page.Append(MessageWriter.Escape(about.Business))
            .Append(about.Audience == Audience.Customer ? "" : ", by Sirena")
            .Append("</p></div></body></html>")
            .ToString();
    }
}
