using Markdig;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Html;
using Microsoft.AspNetCore.Mvc;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Guide;

/// <summary>The guide for supervisors, as it stands in <c>docs/guide</c>: short pages in the order of the work.</summary>
[Authorize]
public sealed class IndexModel : SirenaPage
{
    private static readonly MarkdownPipeline Markdown = new MarkdownPipelineBuilder().DisableHtml().Build();

    /// <summary>The pages in their order: file and title.</summary>
    public static IReadOnlyList<(string Name, string Title)> Titles { get; } =
    [
        ("first-day", "The first day"),
        ("watch", "The Watch"),
        ("orders", "Orders and their trail"),
        ("rules", "Rules"),
        ("people", "People, shifts, cover"),
        ("channels", "Channels"),
        ("sources", "Sources"),
        ("wording", "Words"),
        ("proof", "Proof"),
        ("hard-days", "Hard days"),
    ];

    /// <summary>Where the guide lies beside the program.</summary>
    public static string Folder { get; } = Path.Combine(AppContext.BaseDirectory, "guide");

    /// <summary>Which page.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Name { get; set; }

    /// <summary>The page as HTML.</summary>
    public HtmlString Text { get; private set; } = HtmlString.Empty;

    /// <summary>The page of the guide that belongs to a part of the navigation.</summary>
    public static string Of(string? active) =>
        active switch
        {
            "Watch" or "My alerts" => "watch",
            "Orders" => "orders",
            "Rules" => "rules",
            "People" or "My page" => "people",
            "Sources" => "sources",
            "Channels" => "channels",
            "Wording" => "wording",
            "Proof" => "proof",
            _ => "first-day",
        };

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        Name ??= Titles[0].Name;
        if (Titles.All(t => t.Name != Name))
        {
            return NotFound();
        }

        Text = new HtmlString(Html(await System.IO.File.ReadAllTextAsync(Path.Combine(Folder, Name + ".md"), cancel)));
        return Page();
    }

    /// <summary>A page's text as HTML: its pictures and its links to other pages lead to where they are served.</summary>
    public static string Html(string text)
    {
        foreach (var (name, _) in Titles)
        {
            text = text.Replace($"]({name}.md)", $"](/guide/{name})", StringComparison.Ordinal);
        }

        return Markdig.Markdown.ToHtml(text.Replace("](../screenshots/", "](/guide/pictures/", StringComparison.Ordinal), Markdown);
    }
}
