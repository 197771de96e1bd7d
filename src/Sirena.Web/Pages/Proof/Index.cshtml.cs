using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Trail;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Api;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Proof;

/// <summary>The ledger of deliveries: what is known about each.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(SirenaDb db, NpgsqlDataSource source, TrailReader trails) : SirenaPage
{
    private const int PageSize = 40;

    /// <summary><c>today</c>, <c>7</c> or <c>30</c> days.</summary>
    [BindProperty(SupportsGet = true)]
    public string Period { get; set; } = "today";

    /// <summary>A mark of <see cref="Ledger.Marks"/>.</summary>
    [BindProperty(SupportsGet = true)]
    public string? State { get; set; }

    /// <summary>A channel's name.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Channel { get; set; }

    /// <summary>A person, an order, or a word of the reason.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Find { get; set; }

    /// <summary>The cursor after which the page begins.</summary>
    [BindProperty(SupportsGet = true)]
    public string? After { get; set; }

    /// <summary>The delivery whose details are open.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid? Look { get; set; }

    /// <summary>What the period adds up to.</summary>
    public Ledger Sum { get; private set; } = null!;

    /// <summary>The deliveries of this page.</summary>
    public IReadOnlyList<Delivery> Rows { get; private set; } = [];

    /// <summary>Recipients of the period that resolved to nobody, the newest first: no delivery was made for them, so they stand apart.</summary>
    public IReadOnlyList<(Alert Alert, LeftOut Left)> Unreached { get; private set; } = [];

    /// <summary>How many alerts have such a recipient.</summary>
    public int UnreachedAlerts { get; private set; }

    /// <summary>The opened one.</summary>
    public DeliveryView? Opened { get; private set; }

    /// <summary>The cursor of the next page, or <see langword="null"/>.</summary>
    public string? Next { get; private set; }

    /// <summary>The width of a slot of the chart, and its begin.</summary>
    public (Instant From, Duration Slot, int Slots) Chart { get; private set; }

    /// <summary>The page's address with some of it changed; a value of <see langword="null"/> takes the member out.</summary>
    public string Address(params (string Name, string? Value)[] changed)
    {
        var all = new Dictionary<string, string?> { ["period"] = Period == "today" ? null : Period, ["state"] = State, ["channel"] = Channel, ["find"] = Find };
        foreach (var (name, value) in changed)
        {
            all[name] = value;
        }

        return "/proof" + QueryString.Create(all.Where(a => !string.IsNullOrEmpty(a.Value)));
    }

    /// <summary>Reads the ledger.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        var channel = Names.Parse<Channel>(Channel);
        Chart = Period switch
        {
            "7" => (Clock.Zone.AtStartOfDay(Clock.Today.PlusDays(-6)).ToInstant(), Duration.FromHours(6), 28),
            "30" => (Clock.Zone.AtStartOfDay(Clock.Today.PlusDays(-29)).ToInstant(), Duration.FromDays(1), 30),
            _ => (Clock.Midnight, Duration.FromMinutes(30), 48),
        };
        Sum = await Ledger.ReadAsync(source, Chart.From, Chart.Slot, Chart.Slots, channel, cancel);
        var from = Chart.From;
        var which = Filtered(db.Deliveries.AsNoTracking().Where(d => d.CreatedAt >= from), channel);
        if (Cursor.Read(After) is { } cursor)
        {
            which = which.Where(d => d.CreatedAt < cursor.At || (d.CreatedAt == cursor.At && d.Id.CompareTo(cursor.Id) < 0));
        }

        UnreachedAlerts = await db.Alerts.Where(a => a.Unreached > 0 && a.RaisedAt >= from).Take(Ledger.Most).CountAsync(cancel);
        Unreached = (await (from a in db.Alerts.AsNoTracking() where a.Unreached > 0 && a.RaisedAt >= @from orderby a.RaisedAt descending select new { a, Left = db.AlertSteps.Where(s => s.AlertId == a.Id && s.Index == 0).Select(s => s.Left).FirstOrDefault() }).Take(8).ToListAsync(cancel))
            .SelectMany(x => System.Text.Json.JsonSerializer.Deserialize<LeftOut[]>(x.Left ?? "[]", Engine.Decide.EventDecision.Json)!.Where(l => l.Nobody).Select(l => (x.a, l))).ToArray();
        var found = await which.OrderByDescending(d => d.CreatedAt).ThenByDescending(d => d.Id).Take(PageSize + 1).ToListAsync(cancel);
        Rows = [.. found.Take(PageSize)];
        Next = found.Count > PageSize ? new Cursor(Rows[^1].CreatedAt, Rows[^1].Id).ToString() : null;
        if (Look is { } id && Rows.FirstOrDefault(r => r.Id == id) is { } opened)
        {
            Opened = new DeliveryView((await trails.DeliveriesAsync([opened], cancel))[0], Around, Clock, User.MayChange(), SeesMessage: true);
        }
    }

    private IQueryable<Delivery> Filtered(IQueryable<Delivery> which, Channel? channel)
    {
        which = channel is null ? which : which.Where(d => d.Channel == channel);
        which = State switch
        {
            "waiting" => which.Where(d => d.State == DeliveryState.Waiting),
            "failed" => which.Where(d => d.State == DeliveryState.Failed || d.State == DeliveryState.Expired),
            "answered" => which.Where(d => d.Answered),
            "handed-over" => which.Where(d => d.State == DeliveryState.HandedOver && !d.Answered),
            "landed" => which.Where(d => d.State == DeliveryState.Landed && !d.Answered),
            "skipped" => which.Where(d => d.State == DeliveryState.Skipped),
            _ => which,
        };
        if (string.IsNullOrWhiteSpace(Find))
        {
            return which;
        }

        // A name is a person, a word with a figure is an order; else it is looked for in rules, addresses and reasons.
        var (find, folded) = (Find.Trim(), TextFolding.Fold(Find.Trim()));
        string[] people = [.. Around.Staff.People.Where(p => TextFolding.Fold(p.Name).Contains(folded, StringComparison.Ordinal) || p.Id == folded).Select(p => p.Id)];
        var number = find.ToUpperInvariant();
        return people.Length > 0 ? which.Where(d => people.Contains(d.Person!))
            : find.Any(char.IsAsciiDigit) && !find.Contains('@', StringComparison.Ordinal) ? which.Where(d => d.OrderNumber == find || d.OrderNumber == number)
            : which.Where(d => EF.Functions.ILike(d.Reason!, $"%{find}%") || EF.Functions.ILike(d.To, $"%{find}%") || d.RuleId.Contains(folded));
    }
}
