using System.Text.Json.Nodes;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Engine.Intake;
using Sirena.Storage;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// Makes the event <c>delivery.failed</c>, once for each delivery that failed or expired, so that a rule can tell somebody. It looks for those that have none,
/// so that a node that dies loses nothing;
/// those of alerts that Sirena's own events raised are left out.
/// </summary>
public sealed class FailedNews(QueueSource queue, IntakeDesk desk, IClock clock, ILogger<FailedNews> log) : Worker(log)
{
    private static readonly TimeSpan Turn = TimeSpan.FromSeconds(2);
    private static readonly Duration Back = Duration.FromHours(30);

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping)
    {
        // What failed before this node started and has no event is told too, unless it is old.
        var from = clock.GetCurrentInstant() - Back;
        return TurnsAsync(
            Turn,
            () =>
            {
                var now = clock.GetCurrentInstant();
                return TellAsync(from > now - Back ? from : now - Back, stopping);
            },
            stopping
        );
    }

    // Plan: ix_deliveries_state for both states, the event by its unique key.
    private async Task TellAsync(Instant from, CancellationToken cancel)
    {
        await using var command = queue.Source.CreateCommand(
            """
            select d.id, d.order_number, d.channel, d."to", d.person, d.reason, d.rule_id, d.state from deliveries d
            where d.state in ('failed', 'expired') and d.created_at >= $1
                and not exists (select from events e where e.source = '/sirena' and e.event_id = 'delivery.failed-' || d.id)
                and not exists (select from alerts a join events e on e.id = a.event_id where a.id = d.alert_id and e.source = '/sirena')
            order by d.created_at limit 100
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = from });
        var arrivals = new List<Arrival>();
        var now = clock.GetCurrentInstant();
        await using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            while (await reader.ReadAsync(cancel))
            {
                string? Text(int i) => reader.IsDBNull(i) ? null : reader.GetString(i);
                var data = new JsonObject
                {
                    ["delivery"] = new JsonObject
                    {
                        ["id"] = reader.GetGuid(0).ToString(),
                        ["channel"] = Text(2),
                        ["to"] = Text(3),
                        ["person"] = Text(4),
                        ["reason"] = Text(5),
                        ["rule"] = Text(6),
                        ["state"] = Text(7),
                    },
                };
                arrivals.Add(OwnEvents.Make($"delivery.failed-{reader.GetGuid(0)}", "delivery.failed", Text(1) ?? Text(3), data, now, Text(1)));
            }
        }

        if (arrivals.Count > 0)
        {
            await desk.TakeAsync([.. arrivals], cancel);
        }
    }
}
