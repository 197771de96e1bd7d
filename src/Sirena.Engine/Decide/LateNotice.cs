using System.Globalization;
using System.Text;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Channels;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine.Dispatch;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Decide;

/// <summary>
/// Gathers what came too late to tell anybody into one notice to the supervisors, once nothing more has come for a minute (or a quarter of an hour has gone
/// by). The rows are locked
/// while it is sent, so that two nodes never send it both; one that could not be handed over is sent again.
/// </summary>
public sealed class LateNotice(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, Gateways gateways, IClock clock, ILogger<LateNotice> log)
    : Worker(log)
{
    private const int Most = 2_000;
    private const int Listed = 40;
    private static readonly TimeSpan Poll = TimeSpan.FromSeconds(20);

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        await Task.Delay(Poll, stopping);
        await TurnsAsync(Poll, () => SendAsync(Duration.FromMinutes(1), stopping), stopping);
    }

    /// <summary>Sends the notice if there is anything to say and it has been quiet for that long.</summary>
    /// <returns>How many matches it told of.</returns>
    public async Task<int> SendAsync(Duration quiet, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var late = await db
            .Matches.FromSql($"select * from matches where outcome = 'too-late' and noticed_at is null order by at limit {Most} for update skip locked")
            .ToListAsync(cancel);
        var now = clock.GetCurrentInstant();
        if (late.Count == 0 || (now - late[^1].At < quiet && now - late[0].At < Duration.FromMinutes(15)))
        {
            return 0;
        }

        var supervisors = await db
            .Users.AsNoTracking()
            .Where(u => u.Role == Role.Supervisor && u.RemovedAt == null && u.EmailConfirmed)
            .Select(u => u.Email!)
            .ToListAsync(cancel);
        long[] ids = [.. late.Select(m => m.EventId)];
        var events = await db.Events.AsNoTracking().Where(e => ids.Contains(e.Id)).ToDictionaryAsync(e => e.Id, cancel);
        var around = await surroundings.GetAsync(cancel);
        var gateway = await gateways.MailAsync(cancel);
        var subject = $"{late.Count} {(late.Count == 1 ? "event" : "events")} came too late to tell anybody";
        var text = Text(late, events, around);
        foreach (var supervisor in supervisors)
        {
            var result = await gateway.HandOverAsync(new OutgoingMessage(Guid.CreateVersion7(), supervisor, null, subject, text, null), cancel);
            if (result.Outcome is not (AttemptOutcome.Accepted or AttemptOutcome.Permanent))
            {
                log.LogWarning("The notice of what came too late waits: {Reply}", result.Reply);
                return 0;
            }
        }

        late.ForEach(m => m.NoticedAt = now);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return late.Count;
    }

    private static string Text(List<Match> late, Dictionary<long, OrderEvent> events, Surroundings around)
    {
        var text = new StringBuilder("These matched a rule, and were older than the rule lets them be. Nobody was told of them.\r\n\r\n");
        foreach (var match in late.Take(Listed))
        {
            var happened = events[match.EventId];
            text.Append(happened.OrderNumber ?? happened.Subject ?? happened.EventId)
                .Append(": ")
                .Append(around.EventName(happened.Type))
                .Append(", rule '")
                .Append(around.RuleName(match.RuleId))
                .Append("', happened ")
                .Append(happened.Time.InZone(around.Business.Zone).ToString("ddd d MMM HH:mm", CultureInfo.InvariantCulture))
                .Append(", came ")
                .Append((match.At - happened.Time).InWords())
                .Append(" later\r\n");
            if (happened.OrderNumber is { } order)
            {
                text.Append("  ").Append(around.Business.BaseAddress).Append("/orders/").Append(Uri.EscapeDataString(order)).Append("\r\n");
            }
        }

        return text.Append(late.Count > Listed ? $"and {late.Count - Listed} more\r\n" : "")
            .Append("\r\n")
            .Append(around.Business.Name)
            .Append(", by Sirena\r\n")
            .ToString();
    }
}
