using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;
using NodaTime.Text;
using Sirena.Core;

namespace Sirena.Web.Pages.Shared;

/// <summary>
/// A field for a day and time, a day (<c>kind="day"</c>) or a time of day (<c>kind="time"</c>): typed in words or chosen, 24 hours, the business's zone named.
/// What is understood stands beneath while it is typed; the
/// handler reads it with <see cref="DeskTime"/>. Other attributes go to the field.
/// </summary>
[HtmlTargetElement("when", TagStructure = TagStructure.WithoutEndTag)]
public sealed class WhenTagHelper : TagHelper
{
    /// <summary><c>moment</c>, <c>day</c> or <c>time</c>.</summary>
    public string Kind { get; set; } = "moment";

    /// <summary>What stands in it: as it was typed, or in ISO 8601.</summary>
    public string? Value { get; set; }

    /// <summary>The page.</summary>
    [ViewContext]
    [HtmlAttributeNotBound]
    public ViewContext ViewContext { get; set; } = null!;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var name = output.Attributes["name"]?.Value?.ToString() ?? "when";
        var id = output.Attributes["id"]?.Value?.ToString() ?? "when-" + name;
        var clock = (ViewContext.ViewData.Model as SirenaPage)?.Clock;
        output.TagName = "input";
        output.TagMode = TagMode.StartTagOnly;
        output.Attributes.SetAttribute("id", id);
        output.Attributes.SetAttribute("type", "text");
        output.Attributes.SetAttribute("class", $"form-control num {output.Attributes["class"]?.Value}".Trim());
        output.Attributes.SetAttribute("autocomplete", "off");
        output.Attributes.SetAttribute("data-when", Kind);
        output.Attributes.SetAttribute(
            "placeholder",
            Kind switch
            {
                "day" => "tomorrow, or 24 Dec",
                "time" => "8:30",
                _ => "tomorrow 8, Fri 14:30",
            }
        );
        output.Attributes.SetAttribute("aria-describedby", id + "-is");
        output.Attributes.SetAttribute("list", id + "-of");
        output.Attributes.SetAttribute("value", Words(Kind, Value));
        output.PreElement.AppendHtml($"<span class=\"when when-{Kind}\">");
        output.PostElement.AppendHtml(
            $"<datalist id=\"{Draw.E(id)}-of\">{string.Concat(Choices(clock).Select(c => $"<option value=\"{Draw.E(c)}\"></option>"))}</datalist>"
        );
        output.PostElement.AppendHtml(
            $"<span class=\"when-is\" id=\"{Draw.E(id)}-is\" "
                + $"aria-live=\"polite\">{(Kind == "moment" && clock is not null ? Draw.E(ZoneWords(clock)) : "")}</span></span>"
        );
    }

    /// <summary>The business's zone in a word: <c>Lisbon time</c>.</summary>
    public static string ZoneWords(DeskTime clock) => clock.Zone.Id[(clock.Zone.Id.LastIndexOf('/') + 1)..].Replace('_', ' ') + " time";

    /// <summary>What a field of that kind shows: what is kept in ISO is written for people; what was typed stays as it was.</summary>
    public static string Words(string kind, string? value) =>
        value is not { Length: > 0 } ? ""
        : kind == "moment" && DeskTime.Field.Parse(value) is { Success: true } moment ? WhenText.Write(moment.Value)
        : kind == "day" && LocalDatePattern.Iso.Parse(value) is { Success: true } day ? WhenText.Write(day.Value)
        : value;

    private IEnumerable<string> Choices(DeskTime? clock)
    {
        if (Kind == "time")
        {
            return ["6:00", "8:00", "12:00", "14:00", "16:00", "18:00", "22:00"];
        }

        var monday = clock is null || clock.Today.DayOfWeek == NodaTime.IsoDayOfWeek.Monday ? "" : "Monday";
        return Kind == "day"
            ? ["today", "tomorrow", .. monday.Length > 0 ? [monday] : Array.Empty<string>(), "in 7 days"]
            : ["in 30 min", "in 1 h", "in 2 h", "today 18:00", "tomorrow 8:00", .. monday.Length > 0 ? [monday + " 8:00"] : Array.Empty<string>()];
    }
}
