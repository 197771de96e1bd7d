using System.Net;
using System.Text;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Engine;

namespace Sirena.Web.Pages.Shared;

/// <summary>The people of whom one is chosen: nobody who left, by name.</summary>
/// <param name="Inside">Only those of the business.</param>
/// <param name="Not">The id of one who is not offered.</param>
/// <param name="By">Only those with an address that works by this channel.</param>
/// <param name="Recipients">They are written as rules name them: <c>person:ines.calder</c>.</param>
/// <param name="Teams">Teams go before them, each as everyone in it.</param>
/// <param name="First">The id of a team whose members come first.</param>
public sealed record PeoplePick(bool Inside = false, string? Not = null, Channel? By = null, bool Recipients = false, bool Teams = false, string? First = null)
{
    /// <summary>More than this are not written into a page: they are fetched once, when somebody begins to choose.</summary>
    public const int Most = 150;

    /// <summary>Where they are fetched.</summary>
    public string Address =>
        "/pick/people"
        + QueryString.Create(
            new Dictionary<string, string?>
            {
                ["inside"] = Inside ? "true" : null,
                ["not"] = Not,
                ["by"] = By?.Name(),
                ["recipients"] = Recipients ? "true" : null,
                ["teams"] = Teams ? "true" : null,
                ["first"] = First,
            }.Where(p => p.Value is not null)
        );

    /// <summary>Whom it offers.</summary>
    public IEnumerable<PickOption> Of(StaffDirectory staff)
    {
        var names = staff.Teams.ToDictionary(t => t.Id, t => t.Name);
        var teams = Teams
            ? staff.Teams.OrderBy(t => t.Name, StringComparer.Ordinal).Select(t => new PickOption(t.Id, $"everyone in {t.Name}", "Teams", ""))
            : [];
        return teams.Concat(
            staff
                .People.Where(p =>
                    p.ArchivedAt is null
                    && p.Id != Not
                    && !(Inside && p.Outside)
                    && (By is not { } channel || p.Contacts.Exists(c => c.Channel == channel && c.BrokenAt is null))
                )
                .OrderBy(p => First is null || !p.Teams.Contains(First))
                .ThenBy(p => p.Name, StringComparer.Ordinal)
                .Select(p => new PickOption(
                    Recipients ? (p.Outside ? "outside:" : "person:") + p.Id : p.Id,
                    p.Name + (Recipients && p.Outside ? ", outside, permitted" : ""),
                    "People",
                    string.Join(", ", p.Teams.Select(t => names.GetValueOrDefault(t, t)))
                ))
        );
    }

    /// <summary>Maps <c>GET /pick/people</c>: what a long list of people is found in.</summary>
    public static void Map(IEndpointRouteBuilder routes) =>
        routes
            .MapGet(
                "/pick/people",
                async (bool? inside, string? not, string? by, bool? recipients, bool? teams, string? first, SurroundingsCache surroundings, HttpContext http) =>
                {
                    http.Response.Headers.CacheControl = "no-store";
                    var pick = new PeoplePick(inside == true, not, Names.Parse<Channel>(by), recipients == true, teams == true, first);
                    return Results.Json(pick.Of((await surroundings.GetAsync(http.RequestAborted)).Staff));
                }
            )
            .RequireAuthorization()
            .ExcludeFromDescription();
}

/// <summary>One of the choices of a list.</summary>
/// <param name="Value">What is sent.</param>
/// <param name="Text">What is read.</param>
/// <param name="Group">Under which heading it stands.</param>
/// <param name="Hint">What else it is found by.</param>
public sealed record PickOption(string Value, string Text, string Group, string Hint);

/// <summary>
/// Fills a <c>select</c> (after the choices that stand in it), a group of one or a <c>datalist</c> with people: <c>pick="@(new PeoplePick())" staff="…"
/// chosen="…"</c>. Of very many only the chosen one is written, and the script fetches the others.
/// </summary>
[HtmlTargetElement("select", Attributes = "pick,staff")]
[HtmlTargetElement("optgroup", Attributes = "pick,staff")]
[HtmlTargetElement("datalist", Attributes = "pick,staff")]
public sealed class PickTagHelper : TagHelper
{
    /// <summary>Whom it offers.</summary>
    public PeoplePick Pick { get; set; } = new();

    /// <summary>The people there are.</summary>
    public StaffDirectory Staff { get; set; } = null!;

    /// <summary>The value that is chosen.</summary>
    public string? Chosen { get; set; }

    /// <summary>The page.</summary>
    [ViewContext]
    [HtmlAttributeNotBound]
    public ViewContext ViewContext { get; set; } = null!;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var all = Pick.Of(Staff).ToList();
        var many = all.Count > PeoplePick.Most;
        if (many)
        {
            output.Attributes.SetAttribute("data-rest", Pick.Address);
        }

        var options = new StringBuilder();
        foreach (var option in many ? all.Where(o => o.Value == Chosen || Sent(o.Value)) : all)
        {
            options
                .Append("<option value=\"")
                .Append(WebUtility.HtmlEncode(option.Value))
                .Append(option.Value == Chosen ? "\" selected>" : "\">")
                .Append(WebUtility.HtmlEncode(option.Text))
                .Append("</option>");
        }

        output.PostContent.AppendHtml(options.ToString());
    }

    // A form that is refused chooses again what was chosen (FilledForm): then it must be there.
    private bool Sent(string value) =>
        ViewContext.HttpContext.Request is { HasFormContentType: true } request && request.Form.Any(f => f.Value.Contains(value));
}
