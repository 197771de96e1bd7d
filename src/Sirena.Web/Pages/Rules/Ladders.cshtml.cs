using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Rules;

/// <summary>The ladders that many rules use, with the rules that do.</summary>
[Authorize(Policies.SeeAll)]
public sealed class LaddersModel(SharedLadders ladders) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => Id is null or "new" ? null : $"ladder:{Id}";

    /// <summary>The ladder in edit; <c>new</c> for one to make.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Id { get; set; }

    /// <summary>All of them, each with the rules that use it.</summary>
    public IReadOnlyList<(SharedLadder Ladder, IReadOnlyList<Rule> Rules)> All { get; private set; } = [];

    /// <summary>The name in the form.</summary>
    public string Name { get; private set; } = "";

    /// <summary>The steps in the form, YAML.</summary>
    public string Steps { get; private set; } = "- after: PT5M\n  tell: [ { team: desk } ]\n";

    /// <summary>The mistakes.</summary>
    public IReadOnlyList<DocumentError> Errors { get; private set; } = [];

    /// <summary>What stands in the way of removing it.</summary>
    public string? Problem { get; private set; }

    /// <summary>A ladder's steps in words.</summary>
    public IEnumerable<string> Words(SharedLadder ladder)
    {
        var sentence = Around.Sentences;
        return SharedLadders
            .StepsOf(ladder)
            .Select(s => s.By is null ? sentence.Of(s, null).Replace(" by mail", " by the rule's channels", StringComparison.Ordinal) : sentence.Of(s, null));
    }

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        await LoadAsync(cancel);
        if (All.FirstOrDefault(l => l.Ladder.Id == Id).Ladder is { } found)
        {
            (Name, Steps) = (found.Name, YamlText.Write(System.Text.Json.Nodes.JsonNode.Parse(found.Steps)!));
        }
    }

    /// <summary>Saves the one in edit.</summary>
    public async Task<IActionResult> OnPostAsync(string? name, string? steps, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var (saved, rules, errors) = await ladders.SaveAsync(
            Id is null or "new" ? null : Id,
            name ?? "",
            steps ?? "",
            !(steps ?? "").TrimStart().StartsWith('['),
            User.Name(),
            cancel
        );
        if (saved is not null)
        {
            Said = $"'{saved.Name}' is saved{SharedLadders.Followed(rules)}{(rules == 0 ? "" : ", in force from the next event")}.";
            return Redirect("/rules/ladders");
        }

        (Name, Steps, Errors) = (name ?? "", steps ?? "", errors);
        Response.StatusCode = 422;
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Takes one away.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Problem = await ladders.RemoveAsync(Id ?? "", User.Name(), cancel);
        if (Problem is null)
        {
            Said = "The ladder is removed.";
            return Redirect("/rules/ladders");
        }

        Response.StatusCode = 409;
        await OnGetAsync(cancel);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var all = new List<(SharedLadder, IReadOnlyList<Rule>)>();
        foreach (var ladder in await ladders.AllAsync(cancel))
        {
            all.Add((ladder, await ladders.UsersAsync(ladder.Id, cancel)));
        }

        All = all;
    }
}
