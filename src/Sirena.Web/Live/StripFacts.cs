using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using Npgsql;
using Sirena.Engine;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Live;

/// <summary>What the watch strip says. What waits for an answer is counted as on the Watch: open, or lapsed not long ago.</summary>
public sealed record StripFacts(
    int Open,
    Instant? OldestOpen,
    int Failed,
    int Waiting,
    string? WaitingBecause,
    int NobodyTold,
    string? NextOrder,
    string? NextCustomer,
    Instant? NextDue,
    string? LastType,
    string? LastOrder,
    Instant? LastAt,
    IReadOnlyList<(string Id, string Name)> Gaps,
    DeskTime Clock
)
{
    /// <summary>The pauses that hold, in words, with how many alerts they hold back.</summary>
    public IReadOnlyList<(string What, Core.Ladders.Pause Pause, int Held)> Pauses { get; init; } = [];

    /// <summary>Gateways that fail, or whose marked messages do not come back.</summary>
    public IReadOnlyList<string> Failing { get; init; } = [];

    /// <summary>Teams whose rota cannot be read.</summary>
    public IReadOnlyList<(string Id, string Name)> Unreadable { get; init; } = [];

    /// <summary>Sources that are silent for longer than is usual, with since when.</summary>
    public IReadOnlyList<(string Id, string Name, Instant Since)> Silent { get; init; } = [];

    /// <summary>Bodies that were not understood and are kept.</summary>
    public int NotUnderstood { get; init; }

    /// <summary>Orders of which the order system knows what was not heard here.</summary>
    public int Missed { get; init; }

    /// <summary>Lists that look broken and wait for somebody.</summary>
    public int Doubtful { get; init; }

    /// <summary>Sources that take no orders for now, with until when.</summary>
    public IReadOnlyList<(string Id, string Name, Instant? Until)> Closed { get; init; } = [];

    /// <summary>Orders that wait in the first status while an intake is closed.</summary>
    public int Unaccepted { get; init; }

    /// <summary>Instructions that wait for somebody's yes.</summary>
    public int ToApprove { get; init; }

    /// <summary>Instructions of today that the order system refused, or of which nothing was seen.</summary>
    public int NotDone { get; init; }

    /// <summary>Events that could not be decided.</summary>
    public int Undecided { get; init; }

    /// <summary>When a marked message last came back, the oldest of the gateways that send any; <see langword="null"/> when none does.</summary>
    public Instant? Proof { get; init; }
}

/// <summary>Reads the strip's facts, for all pages together: while nothing changes once a second at most, else five times a second.</summary>
public sealed class StripReader(LiveFeed feed, NpgsqlDataSource source, Engine.Ladders.PauseDesk pauses, SurroundingsCache surroundings, IClock clock)
    : IDisposable
{
    private static readonly Duration Age = Duration.FromSeconds(1);
    private static readonly TimeSpan Between = TimeSpan.FromMilliseconds(200);
    private readonly SemaphoreSlim one = new(1);
    private (StripFacts Facts, Instant At, string Stamp)? kept;

    /// <summary>The facts as of now: never older than what the page's stamp stands for.</summary>
    public async Task<StripFacts> ReadAsync(CancellationToken cancel)
    {
        await one.WaitAsync(cancel);
        try
        {
            var now = clock.GetCurrentInstant();
            if (kept is { } fresh && now - fresh.At < Age && now >= fresh.At)
            {
                if (fresh.Stamp == feed.Stamp)
                {
                    return fresh.Facts with { Clock = fresh.Facts.Clock with { Now = now } };
                }

                if (now - fresh.At < Duration.FromTimeSpan(Between))
                {
                    await Task.Delay(Between - (now - fresh.At).ToTimeSpan(), cancel);
                }
            }

            var stamp = feed.Stamp;
            var facts = await FactsAsync(clock.GetCurrentInstant(), cancel);
            kept = (facts, facts.Clock.Now, stamp);
            return facts;
        }
        finally
        {
            one.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose() => one.Dispose();

    private static IEnumerable<(string Id, string Name, Instant? At)> Sources(string? rows) =>
        JsonSerializer
            .Deserialize<JsonElement[]>(rows ?? "[]")!
            .Select(r =>
                (r[0].GetString()!, r[1].GetString()!, r[2].ValueKind == JsonValueKind.Number ? Instant.FromUnixTimeSeconds(r[2].GetInt64()) : (Instant?)null)
            );

    private async Task<StripFacts> FactsAsync(Instant now, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var local = new DeskTime(now, around.Business.Zone);
        (string Id, string Name)[] gaps =
        [
            .. around
                .Staff.Teams.Where(t => around.Staff.Rota.Has(t.Id) && around.Staff.Rota.Fault(t.Id) is null && !around.Staff.Rota.OnDuty(t.Id, now).Any())
                .OrderBy(t => t.Name, StringComparer.Ordinal)
                .Select(t => (t.Id, t.Name)),
        ];

        // Each part lives on an index of its own; the counts stop at 10,000.
        await using var command = source.CreateCommand(
            """
            select
              (select count(*) from (select from alerts where state = 'open' union all select from alerts where state = 'lapsed' and ended_at >= $3
                  limit 10000) x),
              least((select min(raised_at) from alerts where state = 'open'), (select min(raised_at) from alerts where state = 'lapsed' and ended_at >= $3)),
              (select count(*) from (select from deliveries where state in ('failed', 'expired') and created_at >= $1 limit 10000) x),
              (select count(*) from (select from deliveries where channel = 'mail' and state = 'waiting' and tries > 0 limit 10000) x),
              (select reason from deliveries where channel = 'mail' and state = 'waiting' and reason is not null order by due_at limit 1),
              (select count(*) from alerts where state = 'open' and (unreached > 0 or not reaches_somebody)),
              n.number, n.customer, n.due_at, l.type, coalesce(l.order_number, l.subject), l.received,
              (select count(*) from (select from events where set_aside_at is not null limit 10000) x),
              (select count(*) from (select from arrivals where state = 'not-understood' limit 10000) x),
              (select count(*) from (select from missed_orders where counts and aside is null limit 10000) x),
              (select count(*) from (select from listing_runs where state = 'waits' limit 10000) x),
              (select json_agg(json_build_array(id, name, extract(epoch from silent_since)::bigint) order by silent_since)::text from sources
                  where silent_since is not null and removed_at is null and "on" and coalesce((silence->>'notBefore')::timestamptz <= $2, true)),
              (select json_agg(json_build_array(id, name, extract(epoch from intake_until)::bigint) order by intake_since)::text
                  from sources where intake_closed and removed_at is null and "on"),
              (select count(*) from (select from orders where open and status = (select id from statuses order by position limit 1)
                  and exists (select from sources where intake_closed and removed_at is null) limit 10000) x),
              (select count(*) from (select from instructions where waits is not null and waits <> 'pause' and state = 'asked' limit 10000) x),
              (select count(*) from (select from instructions where state in ('refused', 'unseen', 'failed') and asked_at >= $1 and not trial limit 10000) x)
            from (select) one
            left join lateral (select number, customer, due_at from orders where open and due_at >= $2 order by due_at, number limit 1) n on true
            left join lateral (select type, order_number, subject, received from events order by id desc limit 1) l on true
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = local.Midnight });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        command.Parameters.Add(new NpgsqlParameter { Value = now - Pages.Watch.IndexModel.LongAgo });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        await reader.ReadAsync(cancel);
        T? Get<T>(int i) => reader.IsDBNull(i) ? default : reader.GetFieldValue<T>(i);
        var facts = new StripFacts(
            (int)reader.GetInt64(0),
            Get<Instant?>(1),
            (int)reader.GetInt64(2),
            (int)reader.GetInt64(3),
            Get<string>(4),
            (int)reader.GetInt64(5),
            Get<string>(6),
            Get<string>(7),
            Get<Instant?>(8),
            Get<string>(9),
            Get<string>(10),
            Get<Instant?>(11),
            gaps,
            local
        )
        {
            Undecided = (int)reader.GetInt64(12),
            NotUnderstood = (int)reader.GetInt64(13),
            Missed = (int)reader.GetInt64(14),
            Doubtful = (int)reader.GetInt64(15),
            Silent = [.. Sources(Get<string>(16)).Select(s => (s.Id, s.Name, s.At!.Value))],
            Closed = [.. Sources(Get<string>(17))],
            Unaccepted = (int)reader.GetInt64(18),
            ToApprove = (int)reader.GetInt64(19),
            NotDone = (int)reader.GetInt64(20),
            Unreadable =
            [
                .. around
                    .Staff.Teams.Where(t => around.Staff.Rota.Fault(t.Id) is not null)
                    .OrderBy(t => t.Name, StringComparer.Ordinal)
                    .Select(t => (t.Id, t.Name)),
            ],
            Failing = [.. around.AllGateways.Where(g => g.On && (g.FailingSince is not null || g.EchoMissedSince is not null)).Select(g => g.Name)],
            Proof = around.Gateways.Where(g => g.On && g.EchoMinutes is not null).Select(g => g.EchoBackAt).Min(),
        };
        if (around.Pauses.Count > 0)
        {
            var counts = await pauses.CountsAsync(cancel);
            facts = facts with
            {
                Pauses = [.. around.Pauses.Select(p => (Engine.Ladders.PauseDesk.Words(p.Scope, around), p, counts.GetValueOrDefault(p.Id)))],
            };
        }

        return facts;
    }
}

/// <summary>The strip as a part of every page.</summary>
[ViewComponent(Name = "Strip")]
public sealed class StripView(StripReader strip) : ViewComponent
{
    /// <summary>Draws it.</summary>
    public async Task<IViewComponentResult> InvokeAsync() => View("/Pages/Shared/_Strip.cshtml", await strip.ReadAsync(HttpContext.RequestAborted));
}
