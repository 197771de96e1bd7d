using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.People;

/// <summary>The week of a rule or a team by quarter hours: who would be reached, and the dark hours.</summary>
[Authorize(Policies.SeeAll)]
public sealed class CoverageModel(RuleShelf shelf) : PeoplePage
{
    /// <summary><c>rule:</c> or <c>team:</c> and an id.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Of { get; set; }

    /// <summary>The rules that can be asked for.</summary>
    public IReadOnlyList<Rule> Rules { get; private set; } = [];

    /// <summary>The answer, or <see langword="null"/> when there is nothing to ask for.</summary>
    public CoverageView? View { get; private set; }

    /// <summary>Works it out.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        Rules =
        [
            .. (await shelf.CurrentAsync(cancel))
                .Rules.Select(r => r.Rule)
                .Where(r => r.On && r.Cases.Any(c => c.Tell.Length > 0))
                .OrderBy(r => r.Name, StringComparer.Ordinal),
        ];
        Of ??= Rules.FirstOrDefault(r => r.Cases.Any(c => c.Tell.OfType<DutyRecipient>().Any())) is { } first
            ? $"rule:{first.Id}"
            : Around.Staff.Teams.OrderBy(t => t.Id, StringComparer.Ordinal).Select(t => $"team:{t.Id}").FirstOrDefault();
        View = Of?.Split(':', 2) switch
        {
            ["rule", var id] when Rules.FirstOrDefault(r => r.Id == id) is { } rule => CoverageView.Of(rule, Around, Monday, Clock),
            ["team", var id] when Around.Staff.Team(id) is { } team => CoverageView.Of(team, Around, Monday, Clock),
            _ => null,
        };
    }
}
