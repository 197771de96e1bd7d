using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Sources;

/// <summary>What the order system knows and Sirena has not heard: found by a check, taken over as an event of now, or set aside.</summary>
public sealed class MissedDesk(IDbContextFactory<SirenaDb> factory, IntakeDesk intake, WouldTell wouldTell, Signals signals, IClock clock)
{
    private const int Together = 10_000;

    /// <summary>
    /// Compares a run of a check with what is known here. A difference counts when it stands in as many runs as the source asks for; <c>orders.missed</c> is
    /// raised once a run.
    /// </summary>
    public async Task CompareAsync(Source source, ListingPlan plan, ListingRun run, IReadOnlyList<ListedOrder> listed, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var known = new Dictionary<string, KnownOrder>();
        await foreach (
            var order in db
                .Orders.AsNoTracking()
                .Where(o => o.Open && o.Number.StartsWith(source.Prefix))
                .Select(o => new KnownOrder(o.Number, o.Status, o.Open, o.ChangedAt))
                .AsAsyncEnumerable()
                .WithCancellation(cancel)
        )
        {
            known[order.Number] = order;
        }

        foreach (var numbers in listed.Select(l => l.Number).Where(n => !known.ContainsKey(n)).Chunk(Together))
        {
            foreach (
                var order in await db
                    .Orders.AsNoTracking()
                    .Where(o => numbers.Contains(o.Number))
                    .Select(o => new KnownOrder(o.Number, o.Status, o.Open, o.ChangedAt))
                    .ToListAsync(cancel)
            )
            {
                known[order.Number] = order;
            }
        }

        var found = CheckDifference.Of(listed, known, run.At);
        var there = await db.MissedOrders.Where(m => m.Source == source.Id).ToDictionaryAsync(m => m.Order, cancel);
        var still = found.Select(f => f.Order).ToHashSet();
        db.MissedOrders.RemoveRange(there.Values.Where(m => !still.Contains(m.Order)));

        var counted = 0;
        foreach (var (order, kind, status, here, thereAt, row) in found)
        {
            var one = there.GetValueOrDefault(order);
            var same = one is not null && one.Kind == kind && one.There == status;
            one ??= db
                .MissedOrders.Add(
                    new MissedOrder
                    {
                        Source = source.Id,
                        Order = order,
                        Since = run.At,
                    }
                )
                .Entity;
            (one.Kind, one.There, one.Here, one.ThereAt, one.Row, one.Runs) = (kind, status, here, thereAt, row, same ? one.Runs + 1 : 1);
            if (!same)
            {
                (one.Since, one.Aside, one.AsideBy) = (run.At, null, null);
            }

            one.Counts = one.Runs >= plan.Stands;
            counted += one.Counts && one.Aside is null ? 1 : 0;
        }

        await db.SaveChangesAsync(cancel);
        if (counted > 0)
        {
            await intake.TakeAsync([OwnEvents.OfSource($"orders.missed-{run.Id:N}", "orders.missed", source, run.At, ("missed", counted))], cancel);
        }

        signals.Raise(Topic.Pages);
    }

    /// <summary>What counts and is not set aside.</summary>
    public async Task<IReadOnlyList<MissedOrder>> OpenAsync(string? source, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var open = await db
            .MissedOrders.AsNoTracking()
            .Where(m => m.Counts && m.Aside == null && (source == null || m.Source == source))
            .OrderBy(m => m.Since)
            .ThenBy(m => m.Order)
            .Take(1_000)
            .ToListAsync(cancel);
        return [.. open.OrderBy(m => m.Kind).ThenBy(m => m.Since).ThenBy(m => m.Order, StringComparer.Ordinal)];
    }

    /// <summary>Whom the event would tell that was probably missed.</summary>
    public Task<IReadOnlyList<WouldBeTold>> WouldTellAsync(IEnumerable<MissedOrder> missed, CancellationToken cancel) =>
        wouldTell.OfAsync([.. missed.Select(m => EventOf(m, Data(m))).OfType<IncomingEvent>()], "", cancel);

    /// <summary>Makes the event that was missed, now; the rules decide.</summary>
    /// <returns>The event's id; <see langword="null"/> where the order is not missing any more.</returns>
    public async Task<string?> TakeOverAsync(string source, string order, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (
            await db.MissedOrders.FirstOrDefaultAsync(m => m.Source == source && m.Order == order, cancel) is not { } one
            || EventOf(one, Data(one)) is not { } made
        )
        {
            return null;
        }

        await intake.TakeAsync([new Arrival(made, "", clock.GetCurrentInstant()) { By = source }], cancel);
        db.MissedOrders.Remove(one);
        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                What = $"Took over what was missed of the order {order}: {one.Event}, by the list of '{source}'.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Pages);
        return made.EventId;
    }

    /// <summary>Sets a difference aside; it comes back when the order changes there again.</summary>
    /// <returns>Whether there was one.</returns>
    public async Task<bool> SetAsideAsync(string source, string order, string reason, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.MissedOrders.FirstOrDefaultAsync(m => m.Source == source && m.Order == order, cancel) is not { } one)
        {
            return false;
        }

        (one.Aside, one.AsideBy) = (reason, by);
        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                What = $"Set aside that the order {order} differs in the list of '{source}': {reason}",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Pages);
        return true;
    }

    private static JsonObject? Data(MissedOrder missed) =>
        missed.Kind == MissedKind.Gone ? null
        : missed.Row is { } row ? JsonNode.Parse(row) as JsonObject
        : null;

    // What is gone there has no event that could be made of it: nobody knows how it ended.
    private static IncomingEvent? EventOf(MissedOrder missed, JsonObject? order)
    {
        if (order is null)
        {
            return null;
        }

        order["number"] = missed.Order;
        return new IncomingEvent(
            $"check-{missed.Order}-{missed.There}-{missed.Since.ToUnixTimeMilliseconds()}",
            $"/sources/{missed.Source}",
            missed.Event,
            missed.Order,
            null,
            new JsonObject { ["order"] = order, ["fromCheck"] = true }
        );
    }
}
