using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Storage;

namespace Sirena.Engine.Schedules;

/// <summary>
/// Takes away what has been kept long enough, a small bite at a time, so that no other statement waits for it: the texts of messages, then what is known of
/// deliveries, then alerts and the events behind them, then what only repeats are told by.
/// </summary>
public sealed class Upkeep(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, IClock clock, ILogger<Upkeep> log)
{
    private const int Bite = 500;
    private const int MostBites = 40;

    // What goes is counted by day, rule, channel and state first, in the same statement.
    private const string Counted = """
        with gone as (
            delete from deliveries where id in (
                select d.id from deliveries d where d.created_at < {0} and d.state <> 'waiting'
                    and not exists (select from messages m where m.delivery_id = d.id) and not exists (select from message_files f where f.delivery_id = d.id)
                    and not exists (select from attempts a where a.delivery_id = d.id) and not exists (select from receipts r where r.delivery_id = d.id)
                order by d.created_at limit {1})
            returning (created_at at time zone 'UTC')::date as day, rule_id, channel, state),
        counted as (
            insert into daily_figures (day, rule_id, channel, state, count) select day, rule_id, channel, state, count(*) from gone group by 1, 2, 3, 4
            on conflict (day, rule_id, channel, state) do update set count = daily_figures.count + excluded.count)
        select count(*)::int as "Value" from gone
        """;

    // An alert that is over, and old enough.
    private const string Over = "a.raised_at < {0} and a.state not in ('open', 'taken')";

    // Each takes a bite of what is older than its time; the time comes in by value.
    private static readonly (string What, string Sql, Func<Core.Business, Instant, Instant> Before)[] Bites =
    [
        (
            "texts of messages",
            "update messages set size = octet_length(text) + coalesce(octet_length(html), 0), hash = sha256(convert_to(text || coalesce(html, ''), "
                + "'UTF8')), text = '', html = null where delivery_id in (select m.delivery_id from messages m join deliveries d on d.id = "
                + "m.delivery_id where d.created_at < {0} and d.state <> 'waiting' and m.size is null order by d.created_at limit {1})",
            (b, now) => now - Duration.FromDays(b.BodyDays)
        ),
        (
            "attempts",
            "delete from attempts where (delivery_id, number) in (select a.delivery_id, a.number from attempts a join deliveries d on d.id = "
                + "a.delivery_id where d.created_at < {0} order by d.created_at limit {1})",
            Rows
        ),
        (
            "receipts",
            "delete from receipts where id in (select r.id from receipts r join deliveries d on d.id = r.delivery_id where d.created_at < {0} order by "
                + "d.created_at limit {1})",
            Rows
        ),
        (
            "contents of files",
            "update message_files set content = '' where (delivery_id, number) in (select f.delivery_id, f.number from message_files f join deliveries "
                + "d on d.id = f.delivery_id where d.created_at < {0} and d.state <> 'waiting' and length(f.content) > 0 order by d.created_at limit {1})",
            (b, now) => now - Duration.FromDays(b.BodyDays)
        ),
        (
            "files",
            "delete from message_files where (delivery_id, number) in (select f.delivery_id, f.number from message_files f join deliveries d on d.id = "
                + "f.delivery_id where d.created_at < {0} and d.state <> 'waiting' order by d.created_at limit {1})",
            Rows
        ),
        (
            "messages",
            "delete from messages where delivery_id in (select m.delivery_id from messages m join deliveries d on d.id = m.delivery_id where "
                + "d.created_at < {0} and d.state <> 'waiting' order by d.created_at limit {1})",
            Rows
        ),
        ("deliveries", Counted, Rows),
        ("answer links", "delete from answer_links where hash in (select hash from answer_links where expires_at < {0} limit {1})", (_, now) =>
            now - Duration.FromDays(7)
        ),
        ("answers", $"delete from answers where id in (select w.id from answers w join alerts a on a.id = w.alert_id where {Over} limit {{1}})", Rows),
        (
            "steps",
            "delete from alert_steps where (alert_id, index) in (select s.alert_id, s.index from alert_steps s join alerts a on a.id = s.alert_id "
                + $"where {Over} limit {{1}})",
            Rows
        ),
        (
            "matches",
            "delete from matches where (event_id, rule_id) in (select m.event_id, m.rule_id from matches m join events e on e.id = m.event_id where "
                + "e.received < {0} and not exists (select from alerts a where a.id = m.alert_id and a.state in ('open', 'taken')) order by m.event_id "
                + "limit {1})",
            Rows
        ),
        (
            "alerts",
            $"delete from alerts where id in (select a.id from alerts a where {Over} and not exists (select from deliveries d where d.alert_id = a.id) "
                + "and not exists (select from answer_links l where l.alert_id = a.id) and not exists (select from answers w where w.alert_id = a.id) "
                + "and not exists (select from alert_steps s where s.alert_id = a.id) and not exists (select from matches m where m.alert_id = "
                + $"a.id) order by a.raised_at limit {{1}})",
            Rows
        ),
        (
            "events",
            "delete from events where id in (select e.id from events e where e.received < {0} and e.decided_at is not null and e.set_aside_at is null "
                + "and not exists (select from matches m where m.event_id = e.id) and not exists (select from alerts a where a.event_id = e.id) order "
                + "by e.id limit {1})",
            Rows
        ),
        (
            "attempts of instructions",
            "delete from instruction_attempts where (instruction_id, number) in (select a.instruction_id, a.number from instruction_attempts a join "
                + "instructions i on i.id = a.instruction_id where i.asked_at < {0} and i.state not in ('asked', 'taken') limit {1})",
            Rows
        ),
        (
            "instructions",
            "delete from instructions where id in (select i.id from instructions i where i.asked_at < {0} and i.state not in ('asked', 'taken') and "
                + "not exists (select from instruction_attempts a where a.instruction_id = i.id) order by i.asked_at limit {1})",
            Rows
        ),
        ("ids of calls", "delete from seen_calls where (gateway, call_id) in (select gateway, call_id from seen_calls where at < {0} limit {1})", (_, now) =>
            now - Duration.FromDays(1)
        ),
        ("marked messages", "delete from marked_messages where id in (select id from marked_messages where sent_at < {0} limit {1})", (_, now) =>
            now - Duration.FromDays(30)
        ),
        (
            "receipts that came before their message was known",
            "delete from early_receipts where id in (select id from early_receipts where at < {0} limit {1})",
            (_, now) => now - Duration.FromDays(1)
        ),
        ("sessions that are over", "delete from sessions where hash in (select hash from sessions where expires_at < {0} limit {1})", (_, now) => now),
        ("bodies of calls", "delete from arrivals where id in (select id from arrivals where at < {0} and state <> 'waiting' order by id limit {1})", Bodies),
        (
            "files of lists",
            "update listing_runs set content = null, edits = '{{}}', shown = null where id in (select id from listing_runs where at < {0} and (content "
                + "is not null or shown is not null) and state <> 'waits' order by at limit {1})",
            Bodies
        ),
        ("hours of sources", "delete from source_hours where (source, hour) in (select source, hour from source_hours where hour < {0} limit {1})", (_, now) =>
            now - Duration.FromDays(7 * (Core.Sources.Rhythm.Weeks + 1))
        ),
        ("drafts", "delete from kept_drafts where (rule_id, by) in (select rule_id, by from kept_drafts where at < {0} limit {1})", (_, now) =>
            now - Duration.FromDays(90)
        ),
    ];

    /// <summary>Takes some bites.</summary>
    /// <returns>How many rows went.</returns>
    public async Task<int> RunAsync(CancellationToken cancel)
    {
        var (business, all) = ((await surroundings.GetAsync(cancel)).Business, 0);
        await using var db = await factory.CreateDbContextAsync(cancel);
        foreach (var (what, sql, before) in Bites)
        {
            var gone = 0;
            for (var bites = 0; bites < MostBites; bites++)
            {
                object[] values = [before(business, clock.GetCurrentInstant()), Bite];
                var now =
                    sql == Counted
                        ? (await db.Database.SqlQueryRaw<int>(sql, values).ToListAsync(cancel))[0]
                        : await db.Database.ExecuteSqlRawAsync(sql, values, cancel);
                gone += now;
                if (now < Bite)
                {
                    break;
                }

                await Task.Delay(20, cancel);
            }

            if (gone > 0)
            {
                log.LogInformation("{Count} {What} had been kept long enough and are gone.", gone, what);
            }

            all += gone;
        }

        return all;
    }

    private static Instant Bodies(Core.Business business, Instant now) => now - Duration.FromDays(business.ArrivalDays);

    private static Instant Rows(Core.Business business, Instant now) =>
        now.InZone(business.Zone).LocalDateTime.PlusMonths(-business.RowMonths).InZoneLeniently(business.Zone).ToInstant();
}
