using System.Text;
using AngleSharp;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.WebUtilities;

namespace Sirena.Web.Pages.Shared;

/// <summary>
/// What was typed into a form that is refused (422) stands there again beneath the sentence that says what is wrong: nothing that somebody typed is lost. The
/// page is drawn as any other; its forms are filled in what was drawn, so a page that is not refused pays nothing for it, and one that fills its fields
/// itself is not disturbed. Secrets, files and codes that work once are never sent back.
/// </summary>
public sealed class FilledForm : IAsyncResultFilter
{
    /// <inheritdoc/>
    public async Task OnResultExecutionAsync(ResultExecutingContext context, ResultExecutionDelegate next)
    {
        var (request, response) = (context.HttpContext.Request, context.HttpContext.Response);
        if (response.StatusCode != StatusCodes.Status422UnprocessableEntity || !HttpMethods.IsPost(request.Method) || !request.HasFormContentType)
        {
            await next();
            return;
        }

        var body = response.Body;
        using var drawn = new MemoryStream();
        response.Body = drawn;
        var done = await next();
        response.Body = body;
        if (done.Exception is not null)
        {
            // What was drawn of it is thrown away: the answer to a fault is another page.
            return;
        }

        var html = response.ContentType?.StartsWith("text/html", StringComparison.OrdinalIgnoreCase) == true;
        var address = request.PathBase + request.Path + request.QueryString;
        var all = html ? Encoding.UTF8.GetBytes(Fill(Encoding.UTF8.GetString(drawn.ToArray()), address, request.Form)) : drawn.ToArray();
        response.ContentLength = all.Length;
        await body.WriteAsync(all, context.HttpContext.RequestAborted);
    }

    /// <summary>Fills the form that was sent; a page without it stays as it is, letter by letter.</summary>
    /// <param name="html">A whole page, or a part of one.</param>
    /// <param name="address">Where it was sent, with its query.</param>
    /// <param name="posted">What was sent.</param>
    public static string Fill(string html, string address, IFormCollection posted)
    {
        var parser = new HtmlParser();
        if (html.Contains("<html", StringComparison.OrdinalIgnoreCase))
        {
            var document = parser.ParseDocument(html);
            return Fill(document.Forms, address, posted) ? document.ToHtml() : html;
        }

        // The rows of a table stand alone within a template only.
        var part = parser.ParseFragment(html, parser.ParseDocument("").CreateElement("template"));
        return Fill(part.SelectMany(n => n.DescendantsAndSelf<IHtmlFormElement>()), address, posted) ? part.ToHtml() : html;
    }

    private static bool Fill(IEnumerable<IHtmlFormElement> forms, string address, IFormCollection posted)
    {
        var filled = false;
        foreach (var form in forms.Where(f => GoesTo(f, address)).ToArray())
        {
            var fields = form.QuerySelectorAll("input, textarea, select, button")
                .Where(e => e.GetAttribute("name") is { Length: > 0 } name && !OfEveryForm(name))
                .ToArray();
            if (IsTheOneSent(fields, posted))
            {
                filled = true;
                foreach (var field in fields)
                {
                    Fill(field, posted);
                }

                // It lies in no part that is shut.
                foreach (var part in form.Ancestors<IElement>().Where(a => a.LocalName == "details"))
                {
                    part.SetAttribute("open", "");
                }
            }
        }

        return filled;
    }

    // The same page and the same handler, its own or one of its buttons'; a form without an address goes to the page that it stands on.
    private static bool GoesTo(IHtmlFormElement form, string address)
    {
        static (string Path, string Handler) Of(string written)
        {
            var query = written.IndexOf('?', StringComparison.Ordinal) is >= 0 and var at ? written[at..] : "";
            return (Uri.UnescapeDataString(written[..^query.Length]), QueryHelpers.ParseQuery(query).GetValueOrDefault("handler").ToString());
        }

        var (wanted, of) = Of(address);
        return form.QuerySelectorAll("button[formaction]")
            .Select(b => b.GetAttribute("formaction"))
            .Prepend(form.GetAttribute("action"))
            .Select(a => Of(a ?? ""))
            .Any(a =>
                string.Equals(a.Handler, of, StringComparison.OrdinalIgnoreCase)
                && (a.Path.Length == 0 || string.Equals(a.Path, wanted, StringComparison.OrdinalIgnoreCase))
            );
    }

    // Rows of a list have a form each, to the same handler, and a new row one more: which one was sent is seen by all that it would send.
    private static bool IsTheOneSent(IReadOnlyList<IElement> fields, IFormCollection posted)
    {
        var names = fields.Select(f => f.GetAttribute("name")!).ToHashSet();
        return posted.Keys.All(k => OfEveryForm(k) || names.Contains(k))
            && fields.All(f =>
                !posted.TryGetValue(f.GetAttribute("name")!, out var values)
                    ? !AlwaysSent(f)
                    : f is not IHtmlInputElement { Type: "hidden" } || values.Contains(f.GetAttribute("value") ?? "")
            );
    }

    private static bool AlwaysSent(IElement field) =>
        !field.HasAttribute("disabled")
        && field is IHtmlTextAreaElement or IHtmlInputElement { Type: not ("checkbox" or "radio" or "submit" or "button" or "image" or "file") };

    // What the application itself puts into every form.
    private static bool OfEveryForm(string name) => name == SavedThings.Field || name.StartsWith("__", StringComparison.Ordinal);

    private static void Fill(IElement field, IFormCollection posted)
    {
        var values = posted[field.GetAttribute("name")!];
        switch (field)
        {
            case IHtmlInputElement { Type: "hidden" or "password" or "file" or "submit" or "button" or "image" }:
            case IHtmlInputElement { Type: not ("checkbox" or "radio"), Autocomplete: "one-time-code" }:
                break;
            case IHtmlInputElement { Type: "checkbox" or "radio" } box:
                Mark(box, "checked", values.Contains(box.GetAttribute("value") ?? "on"));
                break;
            case IHtmlInputElement input when values is [var text, ..]:
                input.SetAttribute("value", input.GetAttribute("data-when") is { } kind ? WhenTagHelper.Words(kind, text) : text);
                break;
            case IHtmlTextAreaElement area when values is [{ } text, ..]:
                area.TextContent = text;
                break;
            case IHtmlSelectElement select when values.Count > 0:
                foreach (var option in select.Options)
                {
                    Mark(option, "selected", values.Contains(option.Value));
                }

                break;
        }
    }

    private static void Mark(IElement element, string attribute, bool on)
    {
        element.RemoveAttribute(attribute);
        if (on)
        {
            element.SetAttribute(attribute, "");
        }
    }
}
