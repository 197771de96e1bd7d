using System.Globalization;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Rules;

/// <summary>A rule as the list shows it.</summary>
public sealed record RuleRow(Rule Rule, RuleVersion Version, string Sentence, int[] Days, int[] Unanswered, Instant? LastMatched)
{
    /// <summary>Matches over the last seven days.</summary>
    public int Week => Days[^7..].Sum();
}

/// <summary>The rules in force, each as its sentence.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(SirenaDb db, NpgsqlDataSource source, RuleDesk desk) : SirenaPage
{
    private const int Days = 30;

    /// <summary>Words to find in a rule.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    /// <summary><c>on</c>, <c>off</c>, or all.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; }

    /// <summary>Every rule.</summary>
    public IReadOnlyList<RuleRow> All { get; private set; } = [];

    /// <summary>Those that the filters let through.</summary>
    public IReadOnlyList<RuleRow> Shown => [.. All.Where(r => (Show != "on" || r.Rule.On) && (Show != "off" || !r.Rule.On)
        && (string.IsNullOrWhiteSpace(Q) || TextFolding.Fold($"{r.Rule.Name} {r.Rule.Id} {r.Sentence}").Contains(TextFolding.Fold(Q.Trim()), StringComparison.Ordinal)))];

    /// <summary>Reads the list.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        var versions = await db.RuleVersions.AsNoTracking().Where(v => v.BookTo == null).ToListAsync(cancel);
        var (counts, last) = await CountAsync(cancel);
        var sentence = new RuleSentence(Around.NameOf);
        All = [.. versions.Select(v =>
        {
            var rule = RuleShelf.Parse(v);
            var (days, unanswered) = counts.GetValueOrDefault(v.RuleId, (new int[Days], new int[Days]));
            return new RuleRow(rule, v, sentence.Of(rule), days, unanswered, last.TryGetValue(v.RuleId, out var at) ? at : null);
        }).OrderByDescending(r => r.Rule.On).ThenByDescending(r => r.Rule.Urgency).ThenBy(r => r.Rule.Name, StringComparer.Ordinal)];
    }

    /// <summary>Turns a rule on or off.</summary>
    public async Task<IActionResult> OnPostTurnAsync(string id, bool on, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.TurnAsync(id, on, User.Name(), cancel) is { } saved ? $"'{saved.Name}' is {(on ? "on" : "off")} from the next event on. Its open alerts stay as they are." : $"There is no rule '{id}' in force.";
        return RedirectToPage(new { Q, Show });
    }

    // Two passes over narrow indexes: (rule_id, at) of matches and (rule_id, raised_at) of alerts.
    private async Task<(Dictionary<string, (int[] Days, int[] Unanswered)> Counts, Dictionary<string, Instant> Last)> CountAsync(CancellationToken cancel)
    {
        var first = Clock.Zone.AtStartOfDay(Clock.Today.PlusDays(1 - Days)).ToInstant();
        await using var command = source.CreateCommand(
            """
            select rule_id, floor(extract(epoch from at - $1) / 86400)::int, count(*)::int, 0, max(at) from matches where at >= $1 group by 1, 2
            union all
            select rule_id, floor(extract(epoch from raised_at - $1) / 86400)::int, 0, count(*)::int, null from alerts where raised_at >= $1 and state = 'lapsed' group by 1, 2
            """);
        command.Parameters.Add(new NpgsqlParameter { Value = first });
        var counts = new Dictionary<string, (int[] Days, int[] Unanswered)>();
        var last = new Dictionary<string, Instant>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var id = reader.GetString(0);
            var day = Math.Clamp(reader.GetInt32(1), 0, Days - 1);
            var (days, unanswered) = counts.TryGetValue(id, out var known) ? known : counts[id] = (new int[Days], new int[Days]);
            days[day] += reader.GetInt32(2);
            unanswered[day] += reader.GetInt32(3);
            if (!reader.IsDBNull(4) && (!last.TryGetValue(id, out var at) || reader.GetFieldValue<Instant>(4) > at))
            {
                last[id] = reader.GetFieldValue<Instant>(4);
            }
        }

        return (counts, last);
    }

    /// <summary>A count with thousands marks.</summary>
    public static string N(int count) => count.ToString("#,##0", CultureInfo.InvariantCulture);
}
