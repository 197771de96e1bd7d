using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Wordings;
using Sirena.Engine.Instructions;
using Sirena.Engine.Ladders;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Deliveries;
using Sirena.Web.Access;
using Sirena.Web.Pages.Answers;
using Sirena.Web.Pages.Shared;
using Sirena.Web.Pages.Watch;

namespace Sirena.Web.Pages.Mine;

/// <summary>An alert as its reader sees it.</summary>
/// <param name="Alert">The alert.</param>
/// <param name="Delivery">The delivery that stands for it on the screen.</param>
/// <param name="Said">What its message said.</param>
/// <param name="Order">Its order, or <see langword="null"/>.</param>
/// <param name="Fuse">How it burns; <see langword="null"/> for one that is over.</param>
public sealed record MyAlert(Alert Alert, Delivery Delivery, MessageParts Said, Order? Order, Fuse? Fuse)
{
    /// <summary>What its rule offers to do to the order, or <see langword="null"/>.</summary>
    public OfferSheet? Offers { get; init; }
}

/// <summary>The signed-in person's own alerts: what waits for them, what they have, what others took. Made for a phone.</summary>
public sealed partial class IndexModel(SirenaDb db, AnswerDesk desk, RuleShelf shelf, InstructionDesk instructions, Consequences consequences, LaterNews news)
    : SirenaPage
{
    private const int Days = 2;

    /// <summary>The alerts, those that wait first.</summary>
    public IReadOnlyList<MyAlert> Alerts { get; private set; } = [];

    /// <summary>Those that wait for an answer.</summary>
    public IEnumerable<MyAlert> Waiting => Alerts.Where(a => a.Alert.State is AlertState.Open or AlertState.Lapsed);

    /// <summary>Those that the person has.</summary>
    public IEnumerable<MyAlert> Own => Alerts.Where(a => a.Alert.State == AlertState.Taken && a.Alert.TakenBy == Person);

    /// <summary>Those that others have, and what is done, the latest ones.</summary>
    public IEnumerable<MyAlert> Over => Alerts.Except(Waiting).Except(Own).Take(12);

    /// <summary>Until when the person is on duty; <see langword="null"/> while they are not.</summary>
    public Instant? OnDutyUntil =>
        Person is { } me
            ? (Around.Staff.Person(me)?.Teams ?? [])
                .SelectMany(t => Around.Staff.Rota.OnDuty(t, Clock.Now))
                .Where(d => d.Person == me)
                .Select(d => (Instant?)d.To)
                .Max()
            : null;

    /// <summary>The person; <see langword="null"/> when the user is nobody of the staff.</summary>
    public string? Person => User.FindFirst("person")?.Value;

    /// <inheritdoc/>
    protected override TextLanguage PageLanguage => OfReader;

    /// <summary>In large letters for a screen on the wall, without the rest.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Wall { get; set; }

    /// <summary>The key with which a browser subscribes to push messages.</summary>
    public string? PushKey => Around.Business.PushPublicKey;

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(CancellationToken cancel) => await LoadAsync(cancel);

    /// <summary>Answers one.</summary>
    /// <param name="alert">Which.</param>
    /// <param name="answer">What is said.</param>
    /// <param name="to">To whom it is passed on.</param>
    /// <param name="back">The page to show then.</param>
    /// <param name="kept">When it was said without a line and kept by the browser, in milliseconds since 1970; then the answer is a sentence for the browser
    /// instead of a page.</param>
    /// <param name="cancel">Ends it.</param>
    public async Task<IActionResult> OnPostAsync(Guid alert, string? answer, string? to, string? back, long? kept, CancellationToken cancel)
    {
        if (Person is not { } me)
        {
            return Forbid();
        }

        var mine = await db.Deliveries.AsNoTracking().Where(d => d.AlertId == alert && d.Person == me).OrderBy(d => d.CreatedAt).FirstOrDefaultAsync(cancel);
        if (mine is null && !User.MayChange())
        {
            return Forbid();
        }

        if (Names.Parse<AnswerKind>(answer) is not { } kind)
        {
            var choose = L.Language.Say(AnswerDesk.NoAnswer);
            if (kept is not null)
            {
                return new JsonResult(new { said = choose, taken = false });
            }

            Said = choose;
            return Redirect("/mine");
        }

        // A supervisor says for whoever has it that it is done, or passes it on in their name; the trail keeps who entered it.
        var found = await db
            .Alerts.AsNoTracking()
            .Where(a => a.Id == alert)
            .Select(a => new { Of = a.OrderNumber ?? a.Subject, Holder = a.State == AlertState.Taken && a.TakenBy != me ? a.TakenBy : null })
            .FirstOrDefaultAsync(cancel);
        var holder = User.MayChange() && kind is AnswerKind.Done or AnswerKind.Passed ? found?.Holder : null;
        var answered = await desk.AnswerAsync(
            alert,
            holder ?? me,
            kind,
            "screen",
            holder is null && mine is not null ? null : User.Name(),
            KeptNote(kept),
            null,
            cancel,
            to
        );
        var said =
            (found?.Of is { } of ? of + ": " : "")
            + (
                answered.Problem is { } problem
                    ? L.Language.Say(problem)
                    : kind switch
                    {
                        AnswerKind.Done when holder is not null => L["Done, entered for {0}.", Around.NameOf(holder)],
                        AnswerKind.Done => L["Done. Thank you."],
                        AnswerKind.Declined => L["Noted: you cannot."],
                        AnswerKind.Passed => L["Passed on to {0}.", Around.NameOf(to ?? "")],
                        _ => L["You have it."],
                    }
            );
        if (kept is not null)
        {
            return new JsonResult(new { said, taken = answered.Problem is null });
        }

        Said = said;
        return Redirect(back is "/watch" || back?.StartsWith("/orders/", StringComparison.Ordinal) == true ? back : "/mine");
    }

    /// <summary>The page was drawn with these deliveries on it: what the screen shows has landed.</summary>
    public async Task<IActionResult> OnPostSeenAsync(Guid[] seen, CancellationToken cancel)
    {
        if (Person is not { } me)
        {
            return Forbid();
        }

        foreach (
            var id in await db
                .Deliveries.AsNoTracking()
                .Where(d => seen.Contains(d.Id) && d.Person == me && d.Channel == Channel.Screen && d.State == DeliveryState.HandedOver)
                .OrderBy(d => d.CreatedAt)
                .Select(d => d.Id)
                .Take(100)
                .ToListAsync(cancel)
        )
        {
            await news.LandedAsync(id, "read", "drawn on the person's own page", answered: false, Clock.Now, cancel);
        }

        return new NoContentResult();
    }

    private const long Week = 7 * 86_400_000L;

    // The trail says of an answer that came late when it was given; a browser's clock that is wrong by more than a week is not believed.
    private string? KeptNote(long? kept) =>
        kept is not { } at || at < Clock.Now.ToUnixTimeMilliseconds() - Week || at > Clock.Now.ToUnixTimeMilliseconds() + Week
            ? null
            : $"given at {(Clock with { Language = TextLanguage.En }).Short(Instant.FromUnixTimeMilliseconds(at))} without a line, sent now";

    private async Task LoadAsync(CancellationToken cancel)
    {
        if (Person is not { } me)
        {
            return;
        }

        // Plan: ix_deliveries_person for two days of one person, then alerts and messages by key.
        var since = Clock.Now - Duration.FromDays(Days);
        var rows = await (
            from d in db.Deliveries.AsNoTracking()
            where d.Person == me && d.CreatedAt >= since
            join a in db.Alerts.AsNoTracking() on d.AlertId equals a.Id
            orderby d.CreatedAt descending
            select new { Delivery = d, Alert = a }
        )
            .Take(400)
            .ToListAsync(cancel);
        Guid[] ids = [.. rows.Select(r => r.Delivery.Id)];
        var texts = await db
            .Messages.AsNoTracking()
            .Where(m => ids.Contains(m.DeliveryId))
            .Select(m => new
            {
                m.DeliveryId,
                m.Subject,
                m.Text,
            })
            .ToDictionaryAsync(m => m.DeliveryId, cancel);
        var burning = rows.Select(r => r.Alert)
            .Where(a => a.State is AlertState.Open or AlertState.Lapsed || (a.State == AlertState.Taken && a.TakenBy == me))
            .DistinctBy(a => a.Id)
            .ToArray();
        string[] numbers = [.. rows.Select(r => r.Alert.OrderNumber).OfType<string>().Distinct()];
        var orders = await db.Orders.AsNoTracking().Where(o => numbers.Contains(o.Number)).ToDictionaryAsync(o => o.Number, cancel);
        var fuses = new Fuses(Around, me, L.Language);
        var drawn = (await BurningAlert.ReadAsync(db, shelf, burning, cancel)).ToDictionary(b => b.Alert.Id, b => fuses.Of(b));

        Alerts =
        [
            .. rows.GroupBy(r => r.Alert.Id)
                .Select(g =>
                {
                    var alert = g.First().Alert;
                    var told = g.FirstOrDefault(r => r.Delivery.Channel == Channel.Screen)
                        ?? g.FirstOrDefault(r => texts.ContainsKey(r.Delivery.Id))
                        ?? g.First();
                    var text = texts.GetValueOrDefault(told.Delivery.Id)
                        ?? g.Select(r => texts.GetValueOrDefault(r.Delivery.Id)).FirstOrDefault(t => t is not null);
                    var said = MessageParts.Of(
                        text?.Subject is { Length: > 0 } subject ? subject : Around.RuleName(alert.RuleId),
                        text?.Text ?? "",
                        Around.Business.BaseAddress
                    );
                    return new MyAlert(
                        alert,
                        told.Delivery,
                        said,
                        alert.OrderNumber is { } n ? orders.GetValueOrDefault(n) : null,
                        drawn.GetValueOrDefault(alert.Id)
                    );
                })
                .Where(a => a.Alert.State is not AlertState.Withdrawn)
                .OrderBy(a => Rank(a.Alert, me))
                .ThenByDescending(a => a.Alert.Urgency)
                .ThenBy(a => a.Fuse?.Order)
                .ThenByDescending(a => a.Alert.RaisedAt)
                .Take(60),
        ];
        var asker = Api.InstructionsApi.AskerOf(User);
        var offered = new List<MyAlert>(Alerts.Count);
        foreach (var one in Alerts)
        {
            var open = one.Alert.State is AlertState.Open or AlertState.Lapsed || (one.Alert.State == AlertState.Taken && one.Alert.TakenBy == me);
            offered.Add(
                open ? one with { Offers = await OfferSheet.ReadAsync(db, shelf, consequences, one.Alert, Around, Clock, asker, "/mine", cancel) } : one
            );
        }

        Alerts = offered;
    }

    private static int Rank(Alert alert, string me) =>
        alert.State switch
        {
            AlertState.Open => 0,
            AlertState.Lapsed => 1,
            AlertState.Taken when alert.TakenBy == me => 2,
            AlertState.Taken => 3,
            _ => 4,
        };
}
