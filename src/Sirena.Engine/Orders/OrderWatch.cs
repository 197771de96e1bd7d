using System.Text.Json.Nodes;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Engine.Intake;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Orders;

/// <summary>
/// Makes events of what an order did not do: <c>order.overdue</c> when it is not final by its due time, or stands longer in its status than is allowed, and
/// <c>order.backlog</c> when too many stand in a status that nobody has
/// accepted. Ids come from what happened, so that each is told once, whichever node looks; what fell due while nothing ran is told later, up to twelve hours.
/// </summary>
public sealed class OrderWatch(
    NpgsqlDataSource source,
    IntakeDesk intake,
    SurroundingsCache surroundings,
    Signals signals,
    IClock clock,
    ILogger<OrderWatch> log
) : Worker(log)
{
    private const int AtOnce = 200;
    private static readonly TimeSpan Turn = TimeSpan.FromSeconds(2);
    private static readonly Duration Usual = Duration.FromMinutes(15);
    private static readonly Duration Most = Duration.FromHours(12);

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping)
    {
        var (next, back) = (0, Usual);
        return TurnsAsync(
            Turn,
            async () =>
            {
                var round = next++;
                if (round % 30 == 0)
                {
                    var away = await LookedAsync(stopping);
                    back = round == 0 ? Duration.Min(Most, Duration.Max(Usual, away)) : Usual;
                }

                await DueAsync(back, stopping);
                if (round % 5 == 0)
                {
                    await StandingAsync(back, stopping);
                    await BacklogAsync(stopping);
                }
            },
            stopping
        );
    }

    /// <summary>Orders that are due now or were within a span, and are not final.</summary>
    /// <returns>How many events were made.</returns>
    public async Task<int> DueAsync(Duration back, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();

        // Plan: ix_orders_open_due over the span, then the event by its unique key.
        await using var command = source.CreateCommand(
            $"""
            select x.number, x.due_at, x.id from (
              select o.number, o.due_at, 'overdue-due-' || o.number || '-' || floor(extract(epoch from o.due_at))::bigint as id
              from orders o left join statuses s on s.id = o.status
              where o.open and o.due_at > $1 and o.due_at <= $2 and coalesce(s.kind, 'open') not in ('final', 'void')) x
            where not exists (select from events e where e.source = '{OwnEvents.Source}' and e.event_id = x.id)
            order by x.due_at limit {AtOnce}
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = now - back });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        return await TakeAsync(
            command,
            reader => new JsonObject
            {
                ["overdue"] = new JsonObject { ["by"] = "due", ["since"] = reader.GetFieldValue<Instant>(1).ToString() },
            },
            cancel
        );
    }

    /// <summary>Orders that have stood longer in their status than is allowed, since a moment within a span.</summary>
    /// <returns>How many events were made.</returns>
    public async Task<int> StandingAsync(Duration back, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var command = source.CreateCommand(
            $"""
            select x.number, x.over, x.id, x.status, x.allowed_minutes from (
              select o.number, o.status, s.allowed_minutes, {EnteredAt} + s.allowed_minutes * interval '1 minute' as over,
                  'overdue-' || o.status || '-' || o.number || '-' || floor(extract(epoch from {EnteredAt}))::bigint as id
              from orders o join statuses s on s.id = o.status where o.open and s.allowed_minutes is not null) x
            where x.over <= $2 and x.over > $1 and not exists (select from events e where e.source = '{OwnEvents.Source}' and e.event_id = x.id)
            order by x.over limit {AtOnce}
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = now - back });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        return await TakeAsync(
            command,
            reader => new JsonObject
            {
                ["overdue"] = new JsonObject
                {
                    ["by"] = "status",
                    ["status"] = reader.GetString(3),
                    ["allowedMinutes"] = reader.GetInt32(4),
                    ["since"] = reader.GetFieldValue<Instant>(1).ToString(),
                },
            },
            cancel
        );
    }

    /// <summary>
    /// Statuses in which more orders stand than their limit, none of whose alerts anybody took. Told once, until the number has fallen to the limit again.
    /// </summary>
    public async Task BacklogAsync(CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        if (around.Statuses.All(s => s.BacklogLimit is null))
        {
            return;
        }

        var now = clock.GetCurrentInstant();
        await using var command = source.CreateCommand(
            """
            with waiting as (
              select s.id, (select count(*) from orders o where o.open and o.status = s.id
                  and not exists (select from alerts a where a.order_number = o.number and a.state in ('taken', 'done')))::int as count
              from statuses s where s.backlog_limit is not null and s.kind = 'open')
            update statuses s set backlog_since = case when w.count > s.backlog_limit then $1 end
            from waiting w where w.id = s.id and (w.count > s.backlog_limit) = (s.backlog_since is null)
            returning s.id, s.name, w.count, s.backlog_limit
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        var arrivals = new List<Arrival>();
        await using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            while (await reader.ReadAsync(cancel))
            {
                if (reader.GetInt32(2) > reader.GetInt32(3))
                {
                    var data = new JsonObject
                    {
                        ["backlog"] = new JsonObject
                        {
                            ["status"] = reader.GetString(0),
                            ["statusName"] = reader.GetString(1),
                            ["count"] = reader.GetInt32(2),
                            ["limit"] = reader.GetInt32(3),
                        },
                    };
                    arrivals.Add(
                        OwnEvents.Make($"backlog-{reader.GetString(0)}-{now.ToUnixTimeMilliseconds()}", "order.backlog", reader.GetString(0), data, now)
                    );
                }
            }
        }

        await intake.TakeAsync(arrivals, cancel);
    }

    /// <summary>When an order came into its status: the time of that member, ticks of 100 ns since 1970 (OrderState.TimesJson).</summary>
    public const string EnteredAt = "to_timestamp(coalesce(times ->> 'status', times ->> '')::bigint / 10000000.0)";

    private async Task<int> TakeAsync(NpgsqlCommand command, Func<NpgsqlDataReader, JsonObject> data, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        var arrivals = new List<Arrival>();
        await using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            while (await reader.ReadAsync(cancel))
            {
                arrivals.Add(OwnEvents.Make(reader.GetString(2), "order.overdue", reader.GetString(0), data(reader), now, reader.GetString(0)));
            }
        }

        await intake.TakeAsync(arrivals, cancel);
        if (arrivals.Count > 0)
        {
            signals.Raise(Topic.Pages);
        }

        return arrivals.Count;
    }

    // Notes the look, and answers how long ago the last one was.
    private async Task<Duration> LookedAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var command = source.CreateCommand(
            """
            with last as (select last_at from schedules where id = 'order-watch'),
            noted as (insert into schedules (id, cron, next_at, last_at) values ('order-watch', '* * * * *', 'infinity', $1)
                on conflict (id) do update set last_at = $1)
            select last_at from last
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        return await command.ExecuteScalarAsync(cancel) is Instant last ? now - last : Usual;
    }
}
