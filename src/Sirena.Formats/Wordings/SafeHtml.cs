using Ganss.Xss;
using Sirena.Core.Wordings;

namespace Sirena.Formats.Wordings;

/// <summary>
/// HTML that a mail may carry: text, tables, pictures and links to http, https and mailto. Scripts, forms and the like are refused when a wording is saved.
/// </summary>
public static class SafeHtml
{
    /// <summary>What a sanitizer would take out, as mistakes.</summary>
    public static IReadOnlyList<TextMistake> Mistakes(string html)
    {
        var removed = new List<string>();
        var sanitizer = new HtmlSanitizer();
        sanitizer.AllowedSchemes.Add("mailto");
        sanitizer.AllowedSchemes.Add("cid");
        sanitizer.RemovingTag += (_, e) =>
            removed.Add(
                $"<{e.Tag.TagName.ToLowerInvariant()}> "
                    + $"{(e.Tag.TagName.Equals("SCRIPT", StringComparison.OrdinalIgnoreCase) ? "runs a program" : "is not for mail")}|<{e.Tag.TagName}"
            );
        sanitizer.RemovingAttribute += (_, e) =>
        {
            // A link of Sirena's own stands there as a field until it is sent.
            if (e.Attribute.Name is "href" or "src" && e.Attribute.Value.StartsWith("{{", StringComparison.Ordinal))
            {
                e.Cancel = true;
                return;
            }

            removed.Add(
                $"{e.Attribute.Name}=\"{e.Attribute.Value}\" "
                    + $"{(e.Attribute.Name is "href" or "src" ? "leads elsewhere than to http, https or mailto" : "is not for mail")}|{e.Attribute.Name}"
            );
        };
        sanitizer.Sanitize(html);
        return
        [
            .. removed
                .Distinct()
                .Take(8)
                .Select(r => r.Split('|'))
                .Select(r => TextMistake.At(html, html.IndexOf(r[1], StringComparison.OrdinalIgnoreCase), r[1].Length, $"{r[0]}. Take it out.")),
        ];
    }
}
