using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Insight;
using Sirena.Core.Orders;
using Sirena.Engine.Decide;
using Sirena.Engine.Intake;
using Sirena.Engine.Sources;
using Sirena.Storage;
using Sirena.Storage.Orders;

namespace Sirena.Engine.FirstDay;

/// <summary>That a message went out.</summary>
/// <param name="At">When it was taken.</param>
/// <param name="Words">What was taken, by which gateway or for whom.</param>
public sealed record MailEvidence(Instant At, string Words);

/// <summary>That an order came and was understood.</summary>
/// <param name="Event">The newest.</param>
/// <param name="Count">How many came, at most a thousand.</param>
/// <param name="MadeUp">All of them are made up.</param>
public sealed record OrderEvidence(OrderEvent Event, int Count, bool MadeUp);

/// <summary>That a rule would tell somebody of what came.</summary>
/// <param name="Rule">The rule.</param>
/// <param name="Order">Of which order.</param>
/// <param name="Person">Whom.</param>
public sealed record RuleEvidence(string Rule, string? Order, string Person);

/// <summary>That an alert was told, landed and answered; the last two <see langword="null"/> while they are waited for.</summary>
/// <param name="Order">Of which order.</param>
/// <param name="Rule">By which rule.</param>
/// <param name="Raised">When it was raised.</param>
/// <param name="Landed">When the first message of it landed.</param>
/// <param name="Answered">When it was answered.</param>
/// <param name="By">By whom.</param>
public sealed record AlertEvidence(string? Order, string Rule, Instant Raised, Instant? Landed, Instant? Answered, string? By);

/// <summary>What an installation has proved so far.</summary>
public sealed record FirstDayFacts
{
    /// <summary>The newest message that was taken.</summary>
    public MailEvidence? Mail { get; init; }

    /// <summary>Why the newest one after it was not, or <see langword="null"/>.</summary>
    public string? MailBroken { get; init; }

    /// <summary>People who are not archived.</summary>
    public int People { get; init; }

    /// <summary>Those of them who have an address.</summary>
    public int Reachable { get; init; }

    /// <summary>Somebody who has none.</summary>
    public string? Unreachable { get; init; }

    /// <summary>What came.</summary>
    public OrderEvidence? Order { get; init; }

    /// <summary>Which rule tells whom.</summary>
    public RuleEvidence? Rule { get; init; }

    /// <summary>The event types that rules of people listen to.</summary>
    public IReadOnlyList<string> Listens { get; init; } = [];

    /// <summary>The alert that got furthest.</summary>
    public AlertEvidence? Alert { get; init; }

    /// <summary>How the stations stand.</summary>
    public IReadOnlyList<(Station Station, StationState State)> Stations
    {
        get
        {
            (Station Station, bool Proved)[] all =
            [
                (Station.Mail, Mail is not null),
                (Station.People, Reachable > 1),
                (Station.Orders, Order is not null),
                (Station.Rule, Rule is not null),
                (Station.Alert, Alert is { Answered: not null, Landed: not null }),
            ];
            return Core.Insight.FirstDay.Stations(
                all.Where(s => s.Proved).Select(s => s.Station).ToHashSet(),
                MailBroken is null ? new HashSet<Station>() : [Station.Mail]
            );
        }
    }
}

/// <summary>Reads what an installation has proved, from what really happened.</summary>
public sealed class FirstDayReader(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, WouldTell wouldTell, IntakeDesk intake, IClock clock)
{
    private const int Looked = 40;

    /// <summary>Nothing was ever proved to have landed with anybody.</summary>
    public async Task<bool> IsFirstAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return !await db.Answers.AnyAsync(cancel);
    }

    /// <summary>Reads it.</summary>
    public async Task<FirstDayFacts> ReadAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var around = await surroundings.GetAsync(cancel);
        var (mail, broken) = await MailAsync(db, around, cancel);
        var people = around.Staff.People.Where(p => p.ArchivedAt is null && !p.Outside).ToArray();
        var reachable = people.Where(p => p.Contacts.Count > 0).ToArray();
        var events = await db
            .Events.AsNoTracking()
            .Where(e => e.OrderNumber != null && e.DecidedAt != null && e.Source != OwnEvents.Source)
            .OrderByDescending(e => e.Id)
            .Take(Looked)
            .ToListAsync(cancel);
        var rules = (await db.RuleVersions.AsNoTracking().Where(v => v.BookTo == null).ToListAsync(cancel))
            .Where(v => OwnRules.NameOf(v.RuleId) is null)
            .ToArray();
        string[] listens =
        [
            .. rules
                .SelectMany(r => (JsonNode.Parse(r.Document)?["when"] as JsonArray ?? []).Select(t => t!.ToString()))
                .Where(t => t.StartsWith("order.", StringComparison.Ordinal))
                .Distinct(),
        ];
        return new FirstDayFacts
        {
            Mail = mail,
            MailBroken = broken,
            People = people.Length,
            Reachable = reachable.Length,
            Unreachable = people.Except(reachable).FirstOrDefault()?.Name,
            Order = await OrderAsync(db, events, cancel),
            Listens = listens,
            Rule = await RuleAsync(events, cancel),
            Alert = await AlertAsync(db, around, cancel),
        };
    }

    /// <summary>Makes an order up, by an event of a type; it proves the way in and the rules, not the order system.</summary>
    /// <returns>Its number.</returns>
    public async Task<string> MakeUpAsync(string type, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var around = await surroundings.GetAsync(cancel);
        var number = 1 + await db.Events.CountAsync(e => e.Source == MadeUpOrder.Source, cancel);
        var made = MadeUpOrder.Event(
            number,
            EventTypes.IsType(type) ? type : "order.placed",
            by,
            around.Business.Currency,
            around.Statuses.OrderBy(s => s.Position).FirstOrDefault()?.Id,
            clock.GetCurrentInstant()
        );
        await intake.TakeAsync([new Arrival(made, "", clock.GetCurrentInstant())], cancel);
        return made.OrderNumber!;
    }

    private static async Task<(MailEvidence? Mail, string? Broken)> MailAsync(SirenaDb db, Surroundings around, CancellationToken cancel)
    {
        var sent = await db
            .Deliveries.AsNoTracking()
            .Where(d => d.Channel == Channel.Mail && d.HandedOverAt != null && d.State != DeliveryState.Failed)
            .OrderByDescending(d => d.HandedOverAt)
            .Select(d => new MailEvidence(d.HandedOverAt!.Value, $"A message to {d.To} was taken by the mail server."))
            .FirstOrDefaultAsync(cancel);

        // A test of the settings' server has no gateway's name.
        var gateways = around.AllGateways.Where(g => g.Channel == Channel.Mail && g.Id != Gateway.OfSettings).ToDictionary(g => g.Id, g => g.Name);
        gateways[""] = "the mail server";
        var test = await db
            .MarkedMessages.AsNoTracking()
            .Where(m => m.FarId != null && !m.Echo && gateways.Keys.Contains(m.Gateway))
            .OrderByDescending(m => m.SentAt)
            .FirstOrDefaultAsync(cancel);
        var mail =
            test is null || sent?.At > test.SentAt
                ? sent
                : new MailEvidence(
                    test.BackAt ?? test.SentAt,
                    $"A test by {gateways[test.Gateway]} was taken{(test.BackAt is null ? "" : " and reported back")}."
                );
        var failed = mail is null
            ? null
            : await db
                .Deliveries.AsNoTracking()
                .Where(d => d.Channel == Channel.Mail && d.State == DeliveryState.Failed && d.DueAt > mail.At)
                .OrderByDescending(d => d.DueAt)
                .Select(d => d.Reason)
                .FirstOrDefaultAsync(cancel);
        return (mail, failed);
    }

    private static async Task<OrderEvidence?> OrderAsync(SirenaDb db, List<OrderEvent> events, CancellationToken cancel)
    {
        if (events.Count == 0)
        {
            return null;
        }

        var count = await db
            .Events.Where(e => e.OrderNumber != null && e.DecidedAt != null && e.Source != OwnEvents.Source)
            .OrderBy(e => e.Id)
            .Take(1_000)
            .CountAsync(cancel);
        return new OrderEvidence(
            events.FirstOrDefault(e => e.Source != MadeUpOrder.Source) ?? events[0],
            count,
            events.All(e => e.Source == MadeUpOrder.Source)
        );
    }

    private async Task<RuleEvidence?> RuleAsync(List<OrderEvent> events, CancellationToken cancel)
    {
        var told = await wouldTell.OfAsync(
            [.. events.Select(e => new IncomingEvent(e.EventId, e.Source, e.Type, e.OrderNumber, e.Time, JsonNode.Parse(e.Data) as JsonObject ?? []))],
            "",
            cancel
        );
        return told.Where(t => OwnRules.NameOf(t.Rule) is null).Select(t => new RuleEvidence(t.Rule, t.Order, t.Person)).FirstOrDefault();
    }

    private static async Task<AlertEvidence?> AlertAsync(SirenaDb db, Surroundings around, CancellationToken cancel)
    {
        var alerts = await db.Alerts.AsNoTracking().Where(a => a.OrderNumber != null).OrderByDescending(a => a.RaisedAt).Take(Looked).ToListAsync(cancel);
        Guid[] ids = [.. alerts.Select(a => a.Id)];
        var landed = (
            await db
                .Deliveries.AsNoTracking()
                .Where(d => ids.Contains(d.AlertId) && (d.LandedAt != null || d.HandedOverAt != null))
                .Select(d => new { d.AlertId, At = d.LandedAt ?? d.HandedOverAt!.Value })
                .ToListAsync(cancel)
        ).ToLookup(d => d.AlertId, d => d.At);
        var answers = (await db.Answers.AsNoTracking().Where(a => ids.Contains(a.AlertId)).OrderBy(a => a.Id).ToListAsync(cancel)).ToLookup(a => a.AlertId);
        return alerts
            .Where(a => OwnRules.NameOf(a.RuleId) is null)
            .Select(a => new AlertEvidence(
                a.OrderNumber,
                around.RuleName(a.RuleId),
                a.RaisedAt,
                landed[a.Id].Any() ? landed[a.Id].Min() : null,
                answers[a.Id].FirstOrDefault()?.At,
                answers[a.Id].FirstOrDefault()?.Person
            ))
            .OrderByDescending(a => (a.Answered is not null, a.Landed is not null, a.Raised))
            .FirstOrDefault();
    }
}
