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
    // Rows of a list have a form each, to the same handler, and a new row one more: which one was sent is seen by all that it would send.
    private readonly HashSet<string> names = [];
    private bool same = true;
    private bool filling;

    /// <summary>The refused form around an element, where it may be the one that was sent.</summary>
    public static FilledForm? Around(TagHelperContext context) => context.Items.TryGetValue(typeof(FilledForm), out var found) ? found as FilledForm : null;

    /// <summary>Notes a field while the form is looked at.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="always">A browser sends it whatever it holds.</param>
    /// <param name="holds">What it holds, where nobody can change that; <see langword="null"/> where somebody can.</param>
    public void See(string? name, bool always, string? holds = null)
    {
        if (filling || name is not { Length: > 0 } || OfEveryForm(name))
        {
            return;
        }

        names.Add(name);
        same &= posted.TryGetValue(name, out var values) ? holds is null || values.Contains(holds) : !always;
    }

    /// <summary>Everything was looked at: from here on it is filled, if it is the form that was sent.</summary>
    public void Fill() => filling = same && posted.Keys.All(k => OfEveryForm(k) || names.Contains(k));

    /// <summary>It is the form that was sent.</summary>
    public bool Fills => filling;

    /// <summary>What was posted by a name; <see langword="null"/> where the form is another, or is still looked at.</summary>
    public StringValues? Of(string? name) => filling && name is not null && posted.TryGetValue(name, out var values) ? (StringValues?)values : null;

    /// <summary>What was posted by the name of a box that is ticked or not: nothing when it was not.</summary>
    public StringValues? Ticked(string? name) => filling && name is not null ? (StringValues?)posted[name] : null;

    // What the application itself puts into every form.
    private static bool OfEveryForm(string name) => name == SavedThings.Field || name.StartsWith("__", StringComparison.Ordinal);
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

    /// <inheritdoc/>
    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        if (FilledForm.Around(context) is { } filled)
        {
            await output.GetChildContentAsync(useCachedResult: false);
            filled.Fill();
            if (filled.Fills && context.Items.TryGetValue(typeof(ShutPart), out var part))
            {
                (part as ShutPart)?.Open();
            }

            output.Content.SetHtmlContent(await output.GetChildContentAsync(useCachedResult: false));
        }
    }
}

/// <summary>A part that is shut until somebody opens it.</summary>
/// <param name="around">The one that it lies in, or <see langword="null"/>.</param>
public sealed class ShutPart(ShutPart? around)
{
    /// <summary>It stands open.</summary>
    public bool IsOpen { get; private set; }

    /// <summary>Opens it, and what it lies in.</summary>
    public void Open()
    {
        IsOpen = true;
        around?.Open();
    }
}

/// <summary>What was typed into a form that is refused lies in no part that is shut.</summary>
[HtmlTargetElement("details")]
public sealed class FilledDetailsTagHelper : TagHelper
{
    private ShutPart part = new(null);

    /// <inheritdoc/>
    public override void Init(TagHelperContext context)
    {
        part = new(context.Items.TryGetValue(typeof(ShutPart), out var around) ? around as ShutPart : null);
        context.Items[typeof(ShutPart)] = part;
    }

    /// <inheritdoc/>
    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        await output.GetChildContentAsync();
        if (part.IsOpen)
        {
            output.Attributes.SetAttribute(new TagHelperAttribute("open"));
        }
    }
}

/// <summary>A button that sends its name is one of a form's.</summary>
[HtmlTargetElement("button", Attributes = "name")]
public sealed class FilledButtonTagHelper : TagHelper
{
    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        FilledForm.Around(context)?.See(output.Attributes["name"]?.Value?.ToString(), always: false);
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
        if (FilledForm.Around(context) is not { } filled)
        {
            return;
        }

        string? Said(string attribute) => output.Attributes[attribute]?.Value?.ToString();
        var (name, type) = (Said("name"), Said("type"));
        filled.See(
            name,
            type is not ("checkbox" or "radio" or "submit" or "button" or "image" or "file") && !output.Attributes.ContainsName("disabled"),
            type == "hidden" ? Said("value") ?? "" : null
        );
        switch (type)
        {
            case "hidden" or "password" or "file" or "submit" or "button" or "image":
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
        if (FilledForm.Around(context) is not { } filled)
        {
            return;
        }

        var name = output.Attributes["name"]?.Value?.ToString();
        filled.See(name, always: !output.Attributes.ContainsName("disabled"));
        if (filled.Of(name) is [var text, ..])
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
    /// <summary>What was chosen of the list around an element; <see langword="null"/> where nothing was sent.</summary>
    public static StringValues? Chosen(TagHelperContext context) =>
        context.Items.TryGetValue(typeof(FilledSelectTagHelper), out var found) ? found as StringValues? : null;

    /// <inheritdoc/>
    public override void Init(TagHelperContext context)
    {
        context.Items.Remove(typeof(FilledSelectTagHelper));
        if (FilledForm.Around(context) is not { } filled)
        {
            return;
        }

        var name = context.AllAttributes["name"]?.Value?.ToString();
        filled.See(name, always: false);
        if (filled.Of(name) is { } chosen)
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
        if (FilledSelectTagHelper.Chosen(context) is { } chosen)
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
