using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;
using Microsoft.Extensions.Primitives;

namespace Sirena.Web.Pages.Shared;

/// <summary>
/// What was typed into a form that is refused (422), so that it stands there again beneath the sentence that says what is wrong: nothing that somebody typed is
/// lost. A page that fills its fields itself is not disturbed, for it fills in the same. Secrets, files and codes that work once are never sent back.
/// </summary>
/// <param name="posted">What was posted.</param>
public sealed class FilledForm(IFormCollection posted)
{
    // Rows of a list have a form each, to the same handler: the one that was sent is the one whose hidden fields say the same.
    private bool meant = true;

    /// <summary>What was posted by a name; <see langword="null"/> where the form is another.</summary>
    public StringValues? Of(string? name) => meant && name is not null && posted.TryGetValue(name, out var values) ? (StringValues?)values : null;

    /// <summary>What was posted by the name of a box that is ticked or not: nothing when it was not.</summary>
    public StringValues? Ticked(string? name) => meant && name is not null ? (StringValues?)posted[name] : null;

    /// <summary>A field that nobody sees says which form this is.</summary>
    public void Hidden(string? name, string? value) => meant &= name is null || !posted.TryGetValue(name, out var values) || values.Contains(value ?? "");
}

/// <summary>Knows the form that was sent and refused.</summary>
[HtmlTargetElement("form")]
public sealed class FilledFormTagHelper : TagHelper
{
    /// <summary>The page.</summary>
    [ViewContext]
    [HtmlAttributeNotBound]
    public ViewContext ViewContext { get; set; } = null!;

    /// <inheritdoc/>
    public override void Init(TagHelperContext context)
    {
        context.Items.Remove(typeof(FilledForm));
        var (request, response) = (ViewContext.HttpContext.Request, ViewContext.HttpContext.Response);
        if (response.StatusCode != StatusCodes.Status422UnprocessableEntity || !HttpMethods.IsPost(request.Method) || !request.HasFormContentType)
        {
            return;
        }

        var handler = request.RouteValues["handler"]?.ToString() ?? request.Query["handler"].ToString();
        if (string.Equals(context.AllAttributes["asp-page-handler"]?.Value?.ToString() ?? "", handler, StringComparison.OrdinalIgnoreCase))
        {
            context.Items[typeof(FilledForm)] = new FilledForm(request.Form);
        }
    }
}

/// <summary>Fills a field anew.</summary>
[HtmlTargetElement("input", Attributes = "name", TagStructure = TagStructure.WithoutEndTag)]
public sealed class FilledInputTagHelper : TagHelper
{
    /// <summary>After what binds the field to the page's model.</summary>
    public override int Order => 1_000;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (!context.Items.TryGetValue(typeof(FilledForm), out var found) || found is not FilledForm filled)
        {
            return;
        }

        string? Said(string attribute) => output.Attributes[attribute]?.Value?.ToString();
        var name = Said("name");
        switch (Said("type"))
        {
            case "hidden":
                filled.Hidden(name, Said("value"));
                break;
            case "password" or "file" or "submit" or "button" or "image":
                break;
            case not ("checkbox" or "radio") when Said("autocomplete") == "one-time-code":
                break;
            case "checkbox" or "radio":
                if (filled.Ticked(name) is { } ticked)
                {
                    output.Attributes.RemoveAll("checked");
                    if (ticked.Contains(Said("value") ?? "on"))
                    {
                        output.Attributes.SetAttribute("checked", "checked");
                    }
                }

                break;
            default:
                if (filled.Of(name) is [var text, ..])
                {
                    output.Attributes.SetAttribute("value", text);
                }

                break;
        }
    }
}

/// <summary>Fills a field of several lines anew.</summary>
[HtmlTargetElement("textarea", Attributes = "name")]
public sealed class FilledTextTagHelper : TagHelper
{
    /// <summary>After what binds the field to the page's model.</summary>
    public override int Order => 1_000;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (
            context.Items.TryGetValue(typeof(FilledForm), out var found)
            && found is FilledForm filled
            && filled.Of(output.Attributes["name"]?.Value?.ToString()) is [var text, ..]
        )
        {
            // The first line end within the element is none of its text.
            output.Content.SetContent("\n" + text);
        }
    }
}

/// <summary>Chooses anew what was chosen of a list.</summary>
[HtmlTargetElement("select", Attributes = "name")]
public sealed class FilledSelectTagHelper : TagHelper
{
    /// <inheritdoc/>
    public override void Init(TagHelperContext context)
    {
        context.Items.Remove(typeof(FilledSelectTagHelper));
        if (
            context.Items.TryGetValue(typeof(FilledForm), out var found)
            && found is FilledForm filled
            && filled.Of(context.AllAttributes["name"]?.Value?.ToString()) is { } chosen
        )
        {
            context.Items[typeof(FilledSelectTagHelper)] = chosen;
        }
    }
}

/// <summary>One of a list, chosen as it was.</summary>
[HtmlTargetElement("option", ParentTag = "select")]
public sealed class FilledOptionTagHelper : TagHelper
{
    /// <inheritdoc/>
    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        if (context.Items.TryGetValue(typeof(FilledSelectTagHelper), out var found) && found is StringValues chosen)
        {
            var value = output.Attributes["value"]?.Value?.ToString() ?? (await output.GetChildContentAsync()).GetContent().Trim();
            output.Attributes.RemoveAll("selected");
            if (chosen.Contains(value))
            {
                output.Attributes.SetAttribute("selected", "selected");
            }
        }
    }
}
