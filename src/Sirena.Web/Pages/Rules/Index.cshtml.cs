using System.Globalization;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;
using Sirena.Core.Insight;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Rules;

/// <summary>A rule as the list shows it.</summary>
public sealed record RuleRow(Rule Rule, RuleVersion Version, string Sentence, int[] Days, int[] Unanswered, Instant? LastMatched, RuleHint? Hint)
{
    /// <summary>Matches over the last seven days.</summary>
    public int Week => Days[^7..].Sum();
}

/// <summary>What is worth a look at a rule: one bold line and one reason.</summary>
/// <param name="Tone"><c>flare</c> where somebody would not be told, <c>brass</c> for waste, <c>dusk</c> for a draft, <c>muted</c> for off.</param>
public sealed record RuleHint(string Tone, string Line, string Reason);

/// <summary>The rules in force, each as its sentence.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(SirenaDb db, NpgsqlDataSource source, RuleDesk desk, RehearsalDesk rehearsals, FieldWatch fields) : SirenaPage
{
    private const int Days = 30;

    /// <summary>Words to find in a rule.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    /// <summary><c>on</c>, <c>off</c>, <c>hint</c> for those that are worth a look, or all.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; }

    /// <summary>How many rules a page shows.</summary>
    public const int PageSize = 60;

    /// <summary>The page, from 1.</summary>
    [BindProperty(SupportsGet = true)]
    public int At { get; set; } = 1;

    /// <summary>Every rule.</summary>
    public IReadOnlyList<RuleRow> All { get; private set; } = [];

    /// <summary>Those that the filters let through.</summary>
    public IReadOnlyList<RuleRow> Shown =>
        [
            .. All.Where(r =>
                (Show != "on" || r.Rule.On)
                && (Show != "off" || !r.Rule.On)
                && (Show != "hint" || r.Hint is not null)
                && (
                    string.IsNullOrWhiteSpace(Q)
                    || TextFolding.Fold($"{r.Rule.Name} {r.Rule.Id} {r.Sentence}").Contains(TextFolding.Fold(Q.Trim()), StringComparison.Ordinal)
                )
            ),
        ];

    /// <summary>Reads the list.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        var versions = await db.RuleVersions.AsNoTracking().Where(v => v.BookTo == null).ToListAsync(cancel);
        var use = await RuleUse.ReadAsync(source, Clock.Zone.AtStartOfDay(Clock.Today.PlusDays(1 - Days)).ToInstant(), Days, cancel);
        missed = use.Missed;
        var sentence = Around.Sentences;
        var drafts = await db.KeptDrafts.AsNoTracking().Where(d => d.By == User.Name()).ToDictionaryAsync(d => d.RuleId, d => d.At, cancel);
        var (overlaps, floods) = await rehearsals.HintsAsync(cancel) ?? new BookHints([], []);
        seen = await fields.SeenAsync(cancel);
        NewDraft = drafts.TryGetValue("new", out var at0) ? at0 : null;
        All =
        [
            .. versions
                .Select(v =>
                {
                    var rule = RuleShelf.Parse(v);
                    var (days, unanswered) = use.Counts.GetValueOrDefault(v.RuleId, (new int[Days], new int[Days]));
                    return new RuleRow(
                        rule,
                        v,
                        sentence.Of(rule),
                        days,
                        unanswered,
                        use.Last.TryGetValue(v.RuleId, out var at) ? at : null,
                        HintOf(rule, v, days, drafts, overlaps, floods)
                    );
                })
                .OrderByDescending(r => r.Rule.On)
                .ThenByDescending(r => r.Rule.Urgency)
                .ThenBy(r => r.Rule.Name, StringComparer.Ordinal),
        ];
    }

    /// <summary>When the draft of a rule that was never saved was kept, or <see langword="null"/>.</summary>
    public Instant? NewDraft { get; private set; }

    private RuleHint? HintOf(
        Rule rule,
        RuleVersion version,
        int[] days,
        Dictionary<string, Instant> drafts,
        IReadOnlyList<Overlap> overlaps,
        IReadOnlyList<Flood> floods
    )
    {
        if (drafts.TryGetValue(rule.Id, out var kept))
        {
            return new RuleHint("dusk", $"Draft of version {version.Version + 1} waits", $"yours, of {Clock.Short(kept)}");
        }

        if (!rule.On)
        {
            return new RuleHint(
                "muted",
                version.OffUntil is { } until ? $"Off until {Clock.Short(until)}" : $"Off since {Clock.Short(version.SavedAt)}",
                version.Note is { } note ? $"{version.SavedBy}: “{note}”" : version.SavedBy
            );
        }

        if (missed.TryGetValue(rule.Id, out var nobody))
        {
            return new RuleHint("flare", $"Missed somebody {nobody} {(nobody == 1 ? "time" : "times")}", "in 30 days a recipient was nobody");
        }

        if (overlaps.FirstOrDefault(o => o.Rule == rule.Id || o.Other == rule.Id) is { } overlap)
        {
            return new RuleHint(
                "brass",
                $"Same people as {Around.RuleName(overlap.Rule == rule.Id ? overlap.Other : overlap.Rule)}",
                $"{overlap.Orders} of {overlap.Of} orders told of both"
            );
        }

        if (floods.FirstOrDefault(f => f.Rule == rule.Id) is { } flood)
        {
            return new RuleHint("brass", $"{flood.Times} alerts in one hour", $"to {Around.NameOf(flood.Person)}, from {Clock.Short(flood.Hour)}");
        }

        return days.Sum() > 0 ? null : new RuleHint("brass", $"Never matched in {Days} days", NeverCame(rule) ?? "no event fitted it");
    }

    // A condition on a field that no event carries can never hold; an event that never came can set off nothing.
    private string? NeverCame(Rule rule) =>
        rule.Leaves.FirstOrDefault(l => l.Field.Contains(".extra.", StringComparison.Ordinal) && l.Is != Operator.Missing && !seen.ContainsKey(l.Field))
            is { } leaf
            ? $"the field {leaf.Field.Split('.', 3)[2]} never came"
            : null;

    /// <summary>Turns a rule on or off.</summary>
    public async Task<IActionResult> OnPostTurnAsync(string id, bool on, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.TurnAsync(id, on, User.Name(), cancel) is { } saved
            ? $"'{saved.Name}' is {(on ? "on" : "off")} from the next event on. Its open alerts stay as they are."
            : $"There is no rule '{id}' in force.";
        return RedirectToPage(
            new
            {
                Q,
                Show,
                At = At > 1 ? At : (int?)null,
            }
        );
    }

    private IReadOnlyDictionary<string, int> missed = new Dictionary<string, int>();
    private IReadOnlyDictionary<string, SeenField> seen = new Dictionary<string, SeenField>();

    /// <summary>A count with thousands marks.</summary>
    public static string N(int count) => count.ToString("#,##0", CultureInfo.InvariantCulture);
}
