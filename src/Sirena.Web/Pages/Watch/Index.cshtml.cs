using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Watch;

/// <summary>An alert on the Watch.</summary>
public sealed record WatchRow(Alert Alert, Fuse Fuse, Order? Order, string Lane)
{
    /// <summary>The values of the business's own fields.</summary>
    public string Own { get; init; } = "";

    /// <summary>What its row shows, without what only time changes: two drawings with the same print differ in nothing that was done.</summary>
    public string Print
    {
        get
        {
            var hash = new HashCode();
            hash.Add((Alert.State, Alert.TakenBy, Alert.Urgency, Alert.DoneBy, Alert.PausedBy, Order?.DueAt, Order?.Customer, Own));
            foreach (var knot in Fuse.Knots)
            {
                hash.Add((knot.At, knot.Fired, knot.Names));
                foreach (var mark in knot.Marks)
                {
                    hash.Add(mark);
                }
            }

            return hash.ToHashCode().ToString("x8", System.Globalization.CultureInfo.InvariantCulture);
        }
    }
}

/// <summary>A lane: a team's alerts, or those due in a span.</summary>
public sealed record WatchLane(string Name, string? Team, int OnDuty, bool Rota, IReadOnlyList<WatchRow> Rows);

/// <summary>What is open and what burns next: alerts as fuses on one time axis, in lanes by team. Stays open all day.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(SirenaDb db, RuleShelf shelf) : SirenaPage
{
    /// <summary>How many alerts are drawn.</summary>
    public const int Most = 300;

    /// <summary>What was taken or lapsed longer ago is left out until it is asked for.</summary>
    public static readonly Duration LongAgo = Duration.FromHours(12);

    /// <summary><c>team</c> or <c>due</c>.</summary>
    [BindProperty(SupportsGet = true)]
    public string Lanes { get; set; } = "team";

    /// <summary>Only this team's lane.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Team { get; set; }

    /// <summary>Minutes that the axis spans: 30, 60 or 240.</summary>
    [BindProperty(SupportsGet = true)]
    public int Span { get; set; } = 60;

    /// <summary>In large letters for a screen on the wall.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Wall { get; set; }

    /// <summary>The lanes, the one with the hottest alert first.</summary>
    public IReadOnlyList<WatchLane> Board { get; private set; } = [];

    /// <summary>Alerts that wait, those that lapsed among them.</summary>
    public int Waiting { get; private set; }

    /// <summary>Of these, lapsed.</summary>
    public int Burnt { get; private set; }

    /// <summary>All that could be drawn, when they are more than are.</summary>
    public int All { get; private set; }

    /// <summary>What did not land today, the newest first.</summary>
    public IReadOnlyList<Delivery> Failed { get; private set; } = [];

    /// <summary>What landed last.</summary>
    public IReadOnlyList<Delivery> Landed { get; private set; } = [];

    /// <summary>The pen.</summary>
    public FuseDrawing Pen => new(Clock.Now, Duration.FromMinutes(Span * .62), Duration.FromMinutes(Span * .38), Clock);

    /// <summary>Those that somebody took, or that lapsed, more than twelve hours ago are drawn too.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Old { get; set; }

    /// <summary>How many of these there are, while they are not drawn.</summary>
    public int OldOnes { get; private set; }

    /// <summary>The page's address with some of it changed.</summary>
    public string Address(params (string Name, string? Value)[] changed)
    {
        var all = new Dictionary<string, string?>
        {
            ["lanes"] = Lanes == "team" ? null : Lanes,
            ["team"] = Team,
            ["span"] = Span == 60 ? null : $"{Span}",
            ["wall"] = Wall ? "true" : null,
            ["old"] = Old ? "true" : null,
        };
        foreach (var (name, value) in changed)
        {
            all[name] = value;
        }

        return "/watch" + QueryString.Create(all.Where(a => !string.IsNullOrEmpty(a.Value)));
    }

    private Dictionary<string, string>? have;

    /// <summary>The browser has this row as it is: it names what it shows in a header, and gets only what differs.</summary>
    public bool Has(Guid alert, string print)
    {
        have ??= Request
            .Headers["X-Sirena-Have"]
            .ToString()
            .Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .Select(p => p.Split('='))
            .Where(p => p.Length == 2)
            .DistinctBy(p => p[0])
            .ToDictionary(p => p[0], p => p[1]);
        return have.Count > 0 && have.GetValueOrDefault(alert.ToString("N")[^12..]) == print;
    }

    /// <summary>Draws it.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        Span = Span is 30 or 240 ? Span : 60;
        var since = Clock.Now - LongAgo;

        // Plan: ix_alerts_burning; then steps, deliveries and orders of at most 300 alerts by their keys.
        var burning = db
            .Alerts.AsNoTracking()
            .Where(a =>
                a.State == AlertState.Open
                || (a.State == AlertState.Taken && (Old || a.TakenAt >= since))
                || (a.State == AlertState.Lapsed && (Old || a.EndedAt >= since))
            );
        var alerts = await burning.OrderByDescending(a => a.State == AlertState.Open).ThenByDescending(a => a.RaisedAt).Take(Most).ToListAsync(cancel);
        All = alerts.Count < Most ? alerts.Count : await burning.CountAsync(cancel);
        OldOnes = Old
            ? 0
            : await db
                .Alerts.Where(a => (a.State == AlertState.Taken && a.TakenAt < since) || (a.State == AlertState.Lapsed && a.EndedAt < since))
                .OrderBy(a => a.Id)
                .Take(1000)
                .CountAsync(cancel);
        string[] numbers = [.. alerts.Select(a => a.OrderNumber).OfType<string>().Distinct()];
        var orders = await db.Orders.AsNoTracking().Where(o => numbers.Contains(o.Number)).ToDictionaryAsync(o => o.Number, cancel);
        var (rows, fuses) = (new List<WatchRow>(), new Fuses(Around));
        foreach (var one in await BurningAlert.ReadAsync(db, shelf, alerts, cancel))
        {
            var order = one.Alert.OrderNumber is { } n ? orders.GetValueOrDefault(n) : null;
            rows.Add(new WatchRow(one.Alert, fuses.Of(one, order?.DueAt), order, LaneOf(one, order)) { Own = Around.OwnValuesOf(order) });
        }

        rows.RemoveAll(r => Team is not null && r.Lane != Team);
        Waiting = rows.Count(r => r.Alert.State is AlertState.Open or AlertState.Lapsed);
        Burnt = rows.Count(r => r.Alert.State == AlertState.Lapsed);
        Board = [.. rows.GroupBy(r => r.Lane).Select(Lane).OrderBy(l => l.Rows[0].Fuse.Order).ThenBy(l => l.Name, StringComparer.Ordinal)];
        Failed = await db
            .Deliveries.AsNoTracking()
            .Where(d => (d.State == DeliveryState.Failed || d.State == DeliveryState.Expired) && d.CreatedAt >= Clock.Midnight)
            .OrderByDescending(d => d.CreatedAt)
            .Take(3)
            .ToListAsync(cancel);
        Landed = await db
            .Deliveries.AsNoTracking()
            .Where(d => d.State == DeliveryState.Landed && d.CreatedAt >= Clock.Midnight)
            .OrderByDescending(d => d.CreatedAt)
            .Take(8)
            .ToListAsync(cancel);
    }

    private WatchLane Lane(IGrouping<string, WatchRow> of)
    {
        var team = Lanes == "due" ? null : Around.Staff.Team(of.Key);
        var rota = team is not null && Around.Staff.Rota.Has(team.Id);
        return new WatchLane(
            team?.Name ?? (Lanes == "due" ? of.Key : "Others"),
            team?.Id,
            rota ? Around.Staff.Rota.OnDuty(team!.Id, Clock.Now).Select(d => d.Person).Distinct().Count() : 0,
            rota,
            [.. of.OrderBy(r => r.Fuse.Order)]
        );
    }

    // A team's alert is one that was passed on to it, else one whose rule names it first, else one whose readers are mostly of it.
    private string LaneOf(BurningAlert one, Order? order)
    {
        if (Lanes == "due")
        {
            return order?.DueAt is not { } due ? "Not due"
                : due < Clock.Now ? "Overdue"
                : due < Clock.Now + Duration.FromHours(1) ? "Due within the hour"
                : Clock.Zone.AtStartOfDay(Clock.Today.PlusDays(1)).ToInstant() > due ? "Due today"
                : "Due later";
        }

        var aim = one.Steps.OrderByDescending(s => s.Index).FirstOrDefault(s => s.FiredAt is not null)?.Aim;
        var named = aim is not null ? aim.OfTeam : one.Case?.Tell.Select(r => r.OfTeam).FirstOrDefault(t => t is not null);
        if (named is not null)
        {
            return named;
        }

        return one.Deliveries.Where(d => d.Person is not null)
            .SelectMany(d => Around.Staff.Person(d.Person!)?.Teams ?? [])
            .GroupBy(t => t)
            .OrderByDescending(g => g.Count())
            .ThenBy(g => g.Key, StringComparer.Ordinal)
            .FirstOrDefault()
            ?.Key
            ?? "";
    }
}
