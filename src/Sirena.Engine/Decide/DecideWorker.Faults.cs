using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Storage;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Decide;

/// <content>Events that cannot be decided: alone, set aside, decided anew.</content>
public sealed partial class DecideWorker
{
    // One event that cannot be decided must not hold up the others: each is tried by itself, and one that fails for a reason of its own is set aside.
    private async Task<int> AloneAsync(bool crowd, CancellationToken cancel)
    {
        List<long> ids;
        await using (var db = await factory.CreateDbContextAsync(cancel))
        {
            ids = [.. (await db.ClaimAsync(AtOnce, crowd, clock.GetCurrentInstant(), cancel)).Select(e => e.Id)];
        }

        var decided = 0;
        foreach (var id in ids)
        {
            try
            {
                decided += await DecideAsync(db => db.ClaimOneAsync(id, cancel), cancel);
            }
            catch (Exception e) when (!DatabaseFault.OfSurroundings(e) && !cancel.IsCancellationRequested)
            {
                decided += await FailedAsync(id, e, cancel);
            }
        }

        return decided;
    }

    private async Task<int> FailedAsync(long id, Exception problem, CancellationToken cancel)
    {
        log.LogError(problem, "Event {Event} could not be decided.", id);
        OrderEvent? aside = null;
        await using (var db = await factory.CreateDbContextAsync(cancel))
        {
            if (await db.Events.FirstOrDefaultAsync(e => e.Id == id && (e.DecidedAt == null || e.SetAsideAt != null), cancel) is not { } happened)
            {
                return 0;
            }

            happened.Tries++;
            happened.Problem = FarText.Clean(problem.GetBaseException().Message, 500);
            if (happened.Tries >= MostTries && happened.SetAsideAt is null)
            {
                aside = happened;
                (happened.SetAsideAt, happened.DecidedAt) = (clock.GetCurrentInstant(), clock.GetCurrentInstant());
            }

            await db.SaveChangesAsync(cancel);
        }

        if (aside is not null)
        {
            NodeFigures.SetAside();
            await (aside.Type == EventTypes.Undecided ? Task.CompletedTask : news.UndecidedAsync(aside, cancel));
        }

        signals.Raise(Topic.Pages);
        return aside is null ? 0 : 1;
    }

    /// <summary>Decides anew what was set aside, by the rules as they are now.</summary>
    /// <param name="id">One event, or <see langword="null"/> for all that were set aside.</param>
    /// <returns>How many could be decided.</returns>
    public async Task<int> AgainAsync(long? id, CancellationToken cancel)
    {
        List<long> aside;
        await using (var db = await factory.CreateDbContextAsync(cancel))
        {
            aside = await db
                .Events.Where(e => e.SetAsideAt != null && (id == null || e.Id == id))
                .OrderBy(e => e.Id)
                .Select(e => e.Id)
                .Take(MostAgain)
                .ToListAsync(cancel);
        }

        var decided = 0;
        foreach (var one in aside)
        {
            try
            {
                decided += await DecideAsync(
                    async db =>
                    {
                        var events = await db.ClaimAsideAsync(one, cancel);
                        var book = (await db.RuleBook.AsNoTracking().SingleAsync(cancel)).Version;
                        events.ForEach(e => (e.Book, e.SetAsideAt, e.DecidedLate, e.Problem) = (book, null, true, null));
                        return events;
                    },
                    cancel
                );
            }
            catch (Exception e) when (!DatabaseFault.OfSurroundings(e) && !cancel.IsCancellationRequested)
            {
                await FailedAsync(one, e, cancel);
            }
        }

        return decided;
    }
}
