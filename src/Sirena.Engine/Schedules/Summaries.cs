using System.Globalization;
using System.Net;
using System.Text;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Channels;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Trail;
using Sirena.Storage;

namespace Sirena.Engine.Schedules;

/// <summary>The mails that sum a day, a week or a month up: what was sent, what landed, what failed, what nobody answered.</summary>
public sealed class Summaries(
    IDbContextFactory<SirenaDb> factory,
    NpgsqlDataSource source,
    SurroundingsCache surroundings,
    Gateways gateways,
    IClock clock,
    ILogger<Summaries> log
)
{
    private const int MostFailures = 25;

    /// <summary>The spans, with the times at which their mails go: at seven in the morning of the business.</summary>
    public static readonly IReadOnlyDictionary<string, string> Spans = new Dictionary<string, string>
    {
        ["daily"] = "0 7 * * *",
        ["weekly"] = "0 7 * * 1",
        ["monthly"] = "0 7 1 * *",
    };

    /// <summary>Everyone who wants one.</summary>
    public async Task<IReadOnlyList<(string Span, string To, Instant Next)>> AllAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return
        [
            .. (await db.Schedules.AsNoTracking().Where(s => s.Id.StartsWith("summary:")).OrderBy(s => s.Id).ToListAsync(cancel)).Select(s =>
                (s.Id.Split(':')[1], s.Id.Split(':')[2], s.NextAt)
            ),
        ];
    }

    /// <summary>Somebody wants one.</summary>
    /// <returns>A sentence on what is wrong, or <see langword="null"/>.</returns>
    public async Task<string?> AddAsync(string span, string to, CancellationToken cancel)
    {
        if (!Spans.TryGetValue(span, out var cron))
        {
            return $"'{span}' is none of {string.Join(", ", Spans.Keys)}.";
        }

        if (!MailAddress.TryParse(to, out var address, out var problem))
        {
            return $"'{to}' {problem}.";
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        var next = ScheduleWorker.Next(cron, clock.GetCurrentInstant(), (await surroundings.GetAsync(cancel)).Business.Zone);
        await db.Database.ExecuteSqlAsync(
            $"insert into schedules (id, cron, next_at) values ({$"summary:{span}:{address}"}, {cron}, {next}) on conflict (id) do nothing",
            cancel
        );
        return null;
    }

    /// <summary>Somebody wants it no more.</summary>
    public async Task RemoveAsync(string span, string to, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await db.Schedules.Where(s => s.Id == $"summary:{span}:{to}").ExecuteDeleteAsync(cancel);
    }

    /// <summary>Sends one.</summary>
    /// <param name="span">Daily, weekly or monthly.</param>
    /// <param name="to">To whom.</param>
    /// <param name="at">The moment up to whose day it sums.</param>
    public async Task SendAsync(string span, string to, Instant at, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var (subject, text, html) = await MakeAsync(span, at, around, cancel);
        var gateway = await gateways.MailAsync(cancel);
        for (var tries = 1; ; tries++)
        {
            var result = await gateway.HandOverAsync(new OutgoingMessage(Guid.CreateVersion7(), to, null, subject, text, html), cancel);
            if (result.Outcome == AttemptOutcome.Accepted || tries == 3)
            {
                if (result.Outcome != AttemptOutcome.Accepted)
                {
                    log.LogWarning("The {Span} summary did not reach {To}: {Problem}", span, to, result.Reply);
                }

                return;
            }

            await Task.Delay(TimeSpan.FromSeconds(5 * tries), cancel);
        }
    }

    /// <summary>The mail of the whole days before a moment.</summary>
    public async Task<(string Subject, string Text, string Html)> MakeAsync(string span, Instant at, Surroundings around, CancellationToken cancel)
    {
        var zone = around.Business.Zone;
        var today = at.InZone(zone).Date;
        var first = span switch
        {
            "daily" => today.PlusDays(-1),
            "weekly" => today.PlusDays(-7),
            _ => today.PlusMonths(-1),
        };
        var (from, to) = (zone.AtStartOfDay(first).ToInstant(), zone.AtStartOfDay(today).ToInstant());
        var filter = new LedgerFilter(from, to);
        var all = await Ledger.ReadAsync(source, filter, around, Duration.FromDays(1), Math.Max(1, (int)(to - from).TotalDays), cancel);
        var rows = new List<string[]> { new[] { "", "sent", "landed", "no evidence", "failed", "median to land", "90 in 100 within" } };
        foreach (var channel in new Channel?[] { null }.Concat(Enum.GetValues<Channel>().Cast<Channel?>()))
        {
            var of = channel is null ? all : await Ledger.ReadAsync(source, filter with { Channel = channel }, around, Duration.FromDays(1), 1, cancel);
            if (channel is null || of.Sent > 0)
            {
                rows.Add([
                    channel is { } c ? c.Traits().Word : "All channels",
                    Many(of.Sent),
                    Many(of.Landed),
                    Many(of.ByMark["handed-over"]),
                    Many(of.ByMark["failed"]),
                    of.MedianToLand.Took(),
                    of.NinetiethToLand.Took(),
                ]);
            }
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        var alerts = await db
            .Alerts.AsNoTracking()
            .Where(a => a.RaisedAt >= from && a.RaisedAt < to)
            .GroupBy(a => a.State)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToListAsync(cancel);
        var failed = await db
            .Deliveries.AsNoTracking()
            .Where(d => d.CreatedAt >= from && d.CreatedAt < to && (d.State == DeliveryState.Failed || d.State == DeliveryState.Expired))
            .OrderByDescending(d => d.CreatedAt)
            .Take(MostFailures)
            .ToListAsync(cancel);
        string[][] failures =
        [
            .. failed.Select(d =>
                new[]
                {
                    d.CreatedAt.InZone(zone).ToString("ddd d MMM HH:mm", CultureInfo.InvariantCulture),
                    d.OrderNumber ?? "",
                    d.Person is { } p ? around.NameOf(p) : d.To,
                    d.Channel.Traits().Word,
                    d.Reason ?? "",
                }
            ),
        ];
        var days =
            span == "daily"
                ? first.ToString("ddd d MMM yyyy", CultureInfo.InvariantCulture)
                : $"{first.ToString("d MMM", CultureInfo.InvariantCulture)} to {today.PlusDays(-1).ToString("d MMM yyyy", CultureInfo.InvariantCulture)}";
        var raised =
            $"{alerts.Sum(a => a.Count)} alerts were raised{string.Concat(alerts.OrderByDescending(a => a.Count).Select(a => $", {a.Count} {a.Key.Name()}"))}.";
        var subject = $"{around.Business.Name}, {days}: {Many(all.Sent)} sent, {Many(all.ByMark["failed"])} failed";
        return (subject, Plain(subject, raised, rows, failures, around), Html(subject, raised, rows, failures, around));
    }

    private static string Plain(string subject, string raised, List<string[]> rows, string[][] failures, Surroundings around)
    {
        var text = new StringBuilder(subject).Append("\r\n\r\n").Append(raised).Append("\r\n\r\n");
        foreach (var row in rows.Skip(1))
        {
            text.Append(row[0]).Append(": ").AppendJoin(", ", row.Skip(1).Select((v, i) => $"{v} {rows[0][i + 1]}")).Append("\r\n");
        }

        text.Append(
            failures.Length == 0 ? "\r\nNothing failed.\r\n" : $"\r\nWhat failed{(failures.Length == MostFailures ? $", the last {MostFailures}" : "")}:\r\n"
        );
        foreach (var f in failures)
        {
            text.AppendJoin("  ", f.Where(v => v.Length > 0)).Append("\r\n");
        }

        return text.Append($"\r\nThe ledger: {around.Business.BaseAddress}/proof\r\n{around.Business.Name}, by Sirena\r\n").ToString();
    }

    private static string Html(string subject, string raised, List<string[]> rows, string[][] failures, Surroundings around)
    {
        string Cell(string value, bool number, bool heads) =>
            $"<td style=\"border-bottom:1px solid #D9D4C7;{(number ? "text-align:right;" : "")}{(heads ? "color:#5C6B73;" : "")}\">"
            + $"{WebUtility.HtmlEncode(value)}</td>";
        string Row(string[] row, bool counts, bool heads) => $"<tr>{string.Concat(row.Select((v, c) => Cell(v, counts && c > 0, heads)))}</tr>";
        string Table(IEnumerable<string[]> rows, bool counts) =>
            $"<table cellpadding=\"6\" style=\"border-collapse:collapse\">{string.Concat(rows.Select((r, i) => Row(r, counts, counts && i == 0)))}</table>";
        return "<!doctype html><html lang=\"en\"><body style=\"font-family:sans-serif;font-size:15px;color:#1B2B34\">"
            + $"<h1 style=\"font-size:20px\">{WebUtility.HtmlEncode(subject)}</h1><p>{WebUtility.HtmlEncode(raised)}</p>{Table(rows, true)}"
            + $"<h2 style=\"font-size:17px\">{(failures.Length == 0 ? "Nothing failed" : "What failed")}</h2>"
            + (failures.Length == 0 ? "" : Table(failures, false))
            + $"<p><a href=\"{WebUtility.HtmlEncode(around.Business.BaseAddress)}/proof\">The ledger</a></p></body></html>";
    }

    private static string Many(int n) => n > Ledger.Most ? "over 10,000" : n.ToString("#,##0", CultureInfo.InvariantCulture);
}
