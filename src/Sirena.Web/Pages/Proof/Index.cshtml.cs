using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.People;
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
    private const int MostExported = 1_000_000;
    private const int MostAgain = 1000;

    /// <summary><c>today</c>, <c>7</c> or <c>30</c> days, or <c>dates</c>.</summary>
    [BindProperty(SupportsGet = true)]
    public string Period { get; set; } = "today";

    /// <summary>A mark of <see cref="Ledger.Marks"/>.</summary>
    [BindProperty(SupportsGet = true)]
    public string? State { get; set; }

    /// <summary>A channel's name.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Channel { get; set; }

    /// <summary>A gateway's name.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Gateway { get; set; }

    /// <summary>A rule's id.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Rule { get; set; }

    /// <summary>A team's id.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Team { get; set; }

    /// <summary>The first day, where the period is <c>dates</c>.</summary>
    [BindProperty(SupportsGet = true)]
    public string? First { get; set; }

    /// <summary>The last day.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Last { get; set; }

    /// <summary>The filters below <em>More</em> were set just now.</summary>
    [BindProperty(SupportsGet = true)]
    public bool More { get; set; }

    /// <summary>The gateways that can be chosen.</summary>
    public IReadOnlyList<string> Gateways { get; private set; } = [];

    /// <summary>How many filters beside the first row's are set.</summary>
    public int MoreSet => new[] { Gateway, Rule, Team }.Count(f => !string.IsNullOrEmpty(f)) + (Period == "dates" ? 1 : 0);

    /// <summary>How many filters beside the period are set.</summary>
    public int Narrowed => new[] { Gateway, Rule, Team, Channel, Find, State }.Count(f => !string.IsNullOrEmpty(f));

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
        var all = new Dictionary<string, string?>
        {
            ["period"] = Period == "today" ? null : Period,
            ["state"] = State,
            ["channel"] = Channel,
            ["find"] = Find,
            ["gateway"] = Gateway,
            ["rule"] = Rule,
            ["team"] = Team,
            ["first"] = Period == "dates" ? First : null,
            ["last"] = Period == "dates" ? Last : null,
        };
        foreach (var (name, value) in changed)
        {
            all[name] = value;
        }

        return "/proof" + QueryString.Create(all.Where(a => !string.IsNullOrEmpty(a.Value)));
    }

    /// <summary>Reads the ledger.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        var filter = Filter();
        var from = Chart.From;
        Sum = await Ledger.ReadAsync(source, filter, Around, Chart.Slot, Chart.Slots, cancel);
        Gateways = [.. Around.Gateways.Select(g => g.Name), $"mail {Around.Business.MailServer}", "ticket printers", "browser push"];
        var which = filter.In(db, Around);
        if (Cursor.Read(After) is { } cursor)
        {
            which = which.Where(d => d.CreatedAt < cursor.At || (d.CreatedAt == cursor.At && d.Id.CompareTo(cursor.Id) < 0));
        }

        UnreachedAlerts = await db.Alerts.Where(a => a.Unreached > 0 && a.RaisedAt >= from).OrderBy(a => a.Id).Take(Ledger.Most).CountAsync(cancel);
        Unreached = (
            await (
                from a in db.Alerts.AsNoTracking()
                where a.Unreached > 0 && a.RaisedAt >= @from
                orderby a.RaisedAt descending
                select new { a, Left = db.AlertSteps.Where(s => s.AlertId == a.Id && s.Index == 0).Select(s => s.Left).FirstOrDefault() }
            )
                .Take(8)
                .ToListAsync(cancel)
        ).SelectMany(x => (x.Left ?? []).Where(l => l.Nobody).Select(l => (x.a, l))).ToArray();
        var found = await which.OrderByDescending(d => d.CreatedAt).ThenByDescending(d => d.Id).Take(PageSize + 1).ToListAsync(cancel);
        Rows = [.. found.Take(PageSize)];
        Next = found.Count > PageSize ? new Cursor(Rows[^1].CreatedAt, Rows[^1].Id).ToString() : null;
        if (Look is { } id && Rows.FirstOrDefault(r => r.Id == id) is { } opened)
        {
            Opened = new DeliveryView((await trails.DeliveriesAsync([opened], cancel))[0], Around, Clock, User.MayChange(), SeesMessage: true);
        }
    }

    /// <summary>The filter's deliveries as CSV or JSON lines, newest first, at most a million.</summary>
    public async Task<IActionResult> OnGetExportAsync(string format, CancellationToken cancel)
    {
        var filter = Filter();
        Response.ContentType = format == "csv" ? "text/csv; charset=utf-8" : "application/jsonl; charset=utf-8";
        Response.Headers.ContentDisposition = $"attachment; filename=\"deliveries-{Clock.Today:yyyy-MM-dd}.{(format == "csv" ? "csv" : "jsonl")}\"";
        var rows = filter.In(db, Around).OrderByDescending(d => d.CreatedAt).ThenByDescending(d => d.Id).Take(MostExported).AsAsyncEnumerable();
        await (format == "csv" ? LedgerExport.CsvAsync(rows, Response.Body, cancel) : LedgerExport.JsonLinesAsync(rows, Response.Body, cancel));
        return new EmptyResult();
    }

    /// <summary>Sends all that the filter shows as failed again.</summary>
    public async Task<IActionResult> OnPostAgainAsync([FromServices] Engine.Dispatch.SecondSending again, int shown, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var ids = await (Filter() with { Mark = "failed" }).In(db, Around).OrderBy(d => d.CreatedAt).Select(d => d.Id).Take(MostAgain + 1).ToListAsync(cancel);
        Said =
            ids.Count > MostAgain ? $"More than {MostAgain} deliveries fit; narrow the filter first. Nothing was sent."
            : ids.Count != shown ? $"Meanwhile {ids.Count} deliveries fit, not {shown}. Nothing was sent; look again."
            : $"{await again.SendAllAsync(ids, User.Name(), cancel)} messages are on their way again.";
        return Redirect(Address());
    }

    private LedgerFilter Filter()
    {
        Period = More && !string.IsNullOrEmpty(First) ? "dates" : Period;
        Chart = Period switch
        {
            "7" => (Clock.Zone.AtStartOfDay(Clock.Today.PlusDays(-6)).ToInstant(), Duration.FromHours(6), 28),
            "30" => (Clock.Zone.AtStartOfDay(Clock.Today.PlusDays(-29)).ToInstant(), Duration.FromDays(1), 30),
            "dates" when Day(First) is { } first => (
                Clock.Zone.AtStartOfDay(first).ToInstant(),
                Duration.FromDays(1),
                Math.Clamp((NodaTime.Period.Between(first, Day(Last) ?? Clock.Today, PeriodUnits.Days).Days) + 1, 1, 400)
            ),
            _ => (Clock.Midnight, Duration.FromMinutes(30), 48),
        };
        Instant? to = Period == "dates" && Day(Last) is { } last ? Clock.Zone.AtStartOfDay(last.PlusDays(1)).ToInstant() : null;
        return new LedgerFilter(Chart.From, to)
        {
            Mark = State,
            Channel = Names.Parse<Channel>(Channel),
            Gateway = Gateway,
            Rule = Rule,
            Team = Team,
            Find = Find,
        };
    }

    private LocalDate? Day(string? text) => Clock.ReadTyped(text);
}
