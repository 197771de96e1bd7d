using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Channels;
using Sirena.Storage;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>Messages of which Sirena wants to know whether they come back: tests by hand and echoes.</summary>
public sealed class MarkedMessages(IDbContextFactory<SirenaDb> factory, IClock clock)
{
    /// <summary>Notes one that is about to go.</summary>
    public async Task BeginAsync(Guid id, string gateway, bool echo, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        db.MarkedMessages.Add(
            new MarkedMessage
            {
                Id = id,
                Gateway = gateway,
                Echo = echo,
                SentAt = clock.GetCurrentInstant(),
            }
        );
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Notes the far end's id of one that was taken.</summary>
    public async Task TakenAsync(Guid id, string? farId, CancellationToken cancel)
    {
        if (farId is not null)
        {
            await using var db = await factory.CreateDbContextAsync(cancel);
            await db.MarkedMessages.Where(m => m.Id == id).ExecuteUpdateAsync(s => s.SetProperty(m => m.FarId, farId), cancel);
        }
    }

    /// <summary>Something was heard of a message that is no delivery.</summary>
    /// <param name="id">Its own id or the far end's.</param>
    /// <param name="gateway">The gateway that says so, or <see langword="null"/> where the news came by mail.</param>
    /// <param name="arrived">Whether it arrived.</param>
    /// <param name="words">The words.</param>
    /// <returns>Whether it is one of these.</returns>
    public async Task<bool> HeardAsync(string id, string? gateway, bool arrived, string words, CancellationToken cancel)
    {
        var own = Guid.TryParse(id, out var guid) ? guid : Guid.Empty;
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (
            await db.MarkedMessages.AsNoTracking().FirstOrDefaultAsync(m => (m.Id == own || m.FarId == id) && (gateway == null || m.Gateway == gateway), cancel)
            is not { } marked
        )
        {
            return false;
        }

        await db
            .MarkedMessages.Where(m => m.Id == marked.Id)
            .ExecuteUpdateAsync(s => s.SetProperty(m => m.BackAt, now).SetProperty(m => m.Arrived, arrived).SetProperty(m => m.Words, words), cancel);
        if (marked.Echo && arrived)
        {
            await db.Gateways.Where(g => g.Id == marked.Gateway).ExecuteUpdateAsync(s => s.SetProperty(g => g.EchoBackAt, now), cancel);
        }

        return true;
    }

    /// <summary>Waits for news of one.</summary>
    public async Task<ProbeNews> WaitAsync(Guid id, TimeSpan atMost, CancellationToken cancel)
    {
        for (var end = DateTime.UtcNow + atMost; DateTime.UtcNow < end; await Task.Delay(200, cancel))
        {
            await using var db = await factory.CreateDbContextAsync(cancel);
            if (await db.MarkedMessages.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id && m.Arrived != null, cancel) is { } marked)
            {
                return new ProbeNews(marked.Arrived, marked.Words ?? "");
            }
        }

        return new ProbeNews(null, $"nothing heard in {atMost.TotalSeconds:0} s");
    }
}
