using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Engine.Ladders;
using Sirena.Storage;
using Sirena.Storage.Deliveries;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Mine;

/// <summary>An alert as its reader sees it.</summary>
public sealed record MyAlert(Alert Alert, Delivery Delivery, string Headline, IReadOnlyList<string> Lines);

/// <summary>The signed-in person's own alerts: what waits for them, what they have, what others took. Made for a phone.</summary>
public sealed class IndexModel(SirenaDb db, AnswerDesk desk, LaterNews news) : SirenaPage
{
    private const int Days = 2;

    /// <summary>The alerts, those that wait first.</summary>
    public IReadOnlyList<MyAlert> Alerts { get; private set; } = [];

    /// <summary>The person; <see langword="null"/> when the user is nobody of the staff.</summary>
    public string? Person => User.FindFirst("person")?.Value;

    /// <summary>In large letters for a screen on the wall, without the rest.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Wall { get; set; }

    /// <summary>The key with which a browser subscribes to push messages.</summary>
    public string? PushKey => Around.Business.PushPublicKey;

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(CancellationToken cancel) => await LoadAsync(cancel);

    /// <summary>Answers one.</summary>
    public async Task<IActionResult> OnPostAsync(Guid alert, string answer, string? to, string? back, CancellationToken cancel)
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

        var kind = Names.Parse<AnswerKind>(answer) ?? AnswerKind.Taken;
        var answered = await desk.AnswerAsync(alert, me, kind, "screen", null, null, null, cancel, to);
        Said = answered.Problem ?? (kind switch { AnswerKind.Done => "Done. Thank you.", AnswerKind.Declined => "Noted: you cannot.", AnswerKind.Passed => $"Passed on to {Around.NameOf(to ?? "")}.", _ => "You have it." });
        return Redirect(back is "/watch" || back?.StartsWith("/orders/", StringComparison.Ordinal) == true ? back : "/mine");
    }

    /// <summary>The page was drawn with these deliveries on it: what the screen shows has landed.</summary>
    public async Task<IActionResult> OnPostSeenAsync(Guid[] seen, CancellationToken cancel)
    {
        if (Person is not { } me)
        {
            return Forbid();
        }

        foreach (var id in await db.Deliveries.AsNoTracking().Where(d => seen.Contains(d.Id) && d.Person == me && d.Channel == Channel.Screen && d.State == DeliveryState.HandedOver).Select(d => d.Id).Take(100).ToListAsync(cancel))
        {
            await news.LandedAsync(id, "read", "drawn on the person's own page", answered: false, Clock.Now, cancel);
        }

        return new NoContentResult();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        if (Person is not { } me)
        {
            return;
        }

        // Plan: ix_deliveries_person for two days of one person, then alerts and messages by key.
        var since = Clock.Now - Duration.FromDays(Days);
        var rows = await (from d in db.Deliveries.AsNoTracking()
                          where d.Person == me && d.CreatedAt >= since
                          join a in db.Alerts.AsNoTracking() on d.AlertId equals a.Id
                          orderby d.CreatedAt descending
                          select new { Delivery = d, Alert = a }).Take(400).ToListAsync(cancel);
        Guid[] ids = [.. rows.Select(r => r.Delivery.Id)];
        var texts = await db.Messages.AsNoTracking().Where(m => ids.Contains(m.DeliveryId)).Select(m => new { m.DeliveryId, m.Subject, m.Text }).ToDictionaryAsync(m => m.DeliveryId, cancel);
        Alerts =
        [
            .. rows.GroupBy(r => r.Alert.Id).Select(g =>
            {
                var told = g.FirstOrDefault(r => r.Delivery.Channel == Channel.Screen) ?? g.FirstOrDefault(r => texts.ContainsKey(r.Delivery.Id)) ?? g.First();
                var text = texts.GetValueOrDefault(told.Delivery.Id) ?? g.Select(r => texts.GetValueOrDefault(r.Delivery.Id)).FirstOrDefault(t => t is not null);
                var lines = (text?.Text ?? "").ReplaceLineEndings("\n").Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).ToArray();
                var headline = text is { Subject.Length: > 0 } ? text.Subject : lines.FirstOrDefault() ?? Around.RuleName(g.First().Alert.RuleId);
                return new MyAlert(g.First().Alert, told.Delivery, headline, [.. lines.Where(l => l != headline && !l.Contains("/a/", StringComparison.Ordinal) && !l.StartsWith("You get this", StringComparison.Ordinal) && !l.EndsWith(", by Sirena", StringComparison.Ordinal) && !l.StartsWith("The order and its trail", StringComparison.Ordinal)).Take(8)]);
            }).Where(a => a.Alert.State is not AlertState.Withdrawn).OrderBy(a => Rank(a.Alert, me)).ThenByDescending(a => a.Alert.Urgency).ThenByDescending(a => a.Alert.RaisedAt).Take(60),
        ];
    }

    private static int Rank(Alert alert, string me) => alert.State switch
    {
        AlertState.Open or AlertState.Lapsed => 0,
        AlertState.Taken when alert.TakenBy == me => 1,
        AlertState.Taken => 2,
        _ => 3,
    };
}
