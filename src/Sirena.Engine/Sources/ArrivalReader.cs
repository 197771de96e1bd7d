using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Formats.Sources;
using Sirena.Storage;
using Sirena.Storage.Orders;
using Sirena.Storage.Sources;

namespace Sirena.Engine.Sources;

/// <summary>
/// Turns bodies into events: of each source in the order in which they came, by the reading in force. The events are taken in before the body is marked; a node
/// that dies between the two reads the body again, and
/// its events are known by their ids.
/// </summary>
public sealed class ArrivalReader(
    ArrivalQueue queue,
    ArrivalDesk desk,
    SourceShelf shelf,
    IntakeDesk intake,
    IDbContextFactory<SirenaDb> factory,
    Signals signals,
    ILogger<ArrivalReader> log
) : Worker(log)
{
    private const int Together = 400;
    private const int Many = 100;
    private static readonly TimeSpan Breath = TimeSpan.FromMilliseconds(200);
    private static readonly TimeSpan CrowdBreath = TimeSpan.FromMilliseconds(1_500);
    private static readonly Duration Poll = Duration.FromSeconds(1);

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        while (true)
        {
            await signals.WaitAsync(Topic.Arrivals, Poll, stopping);
            foreach (var source in await queue.WaitingAsync(stopping))
            {
                await ReadAsync(source, stopping);
            }
        }
    }

    /// <summary>Reads what waits of a source, unless another node does.</summary>
    public async Task ReadAsync(string sourceId, CancellationToken cancel)
    {
        await using var hold = await queue.HoldAsync(sourceId, cancel);
        if (hold is null || await shelf.FindAsync(sourceId, cancel) is not { } source)
        {
            return;
        }

        while (await hold.NextAsync(Together, cancel) is { Count: > 0 } bodies)
        {
            await ReadAsync(hold, source, bodies, cancel);
            // A crowd: the calls that bring it go before their reading, which catches up when they let up.
            if (desk.IsCrowded || bodies.Count == Together)
            {
                await Task.Delay(desk.IsCrowded ? CrowdBreath : Breath, cancel);
            }

            source = await shelf.FindAsync(sourceId, cancel) ?? source;
            signals.Raise(Topic.Pages);
        }
    }

    private async Task ReadAsync(ArrivalQueue.Hold hold, LiveSource source, IReadOnlyList<ArrivedBody> bodies, CancellationToken cancel)
    {
        var same = await hold.SameAsync(bodies, cancel);
        var (results, arrivals) = (new List<(ArrivedBody Body, BodyResult Result, string[] Ids)>(), new List<Arrival>());
        var here = new Dictionary<string, long>();
        foreach (var body in bodies)
        {
            var result =
                source.Source.Kind == SourceKind.Documents && body.Content is { } document
                    ? UblReader.Read(document, source.Zone)
                    : ReadingTrial.Read(source.Reader, body);
            var first = same.TryGetValue(body.Id, out var earlier) ? earlier : here.GetValueOrDefault(Convert.ToHexString(body.Hash!), body.Id);
            if (result.Events.Count > 0)
            {
                here.TryAdd(Convert.ToHexString(body.Hash!), first);
            }

            string[] ids =
            [
                .. result.Events.Select((e, i) => e.Id ?? $"{Convert.ToHexStringLower(body.Hash!)[..32]}-{first}{(result.Events.Count > 1 ? $"#{i}" : "")}"),
            ];
            results.Add((body, result, ids));
            arrivals.AddRange(result.Events.Zip(ids, (e, id) => ArrivalOf(source.Source, body, e, id, result.Events.Count > Many)));
        }

        await TakeAsync(arrivals, cancel);
        await hold.NoteAsync(
            [.. results.Select(r => new ReadArrival(r.Body.Id, StateOf(r.Result), r.Result.Problems is [var first, ..] ? first : null, r.Ids))],
            source.Source.ReadingVersion,
            cancel
        );
    }

    private async Task TakeAsync(List<Arrival> arrivals, CancellationToken cancel)
    {
        for (var from = 0; from < arrivals.Count; from += 1_000)
        {
            await intake.TakeAsync([.. arrivals.Skip(from).Take(1_000)], cancel);
        }
    }

    private static Arrival ArrivalOf(Source source, ArrivedBody body, BodyEvent made, string id, bool crowd)
    {
        var number = (made.Data["order"]?["number"] as System.Text.Json.Nodes.JsonValue)?.GetValue<string>();
        var subject = number ?? Subject(made.Data, "stock", "sku") ?? Subject(made.Data, "contact", "email");
        return new Arrival(
            new IncomingEvent(id.Length > 500 ? id[..500] : id, source.EventSource, made.Type, subject, made.Time, made.Data),
            source.Prefix,
            body.At
        )
        {
            Crowd = crowd || body.Again,
            Again = body.Again,
            By = source.Id,
        };
    }

    private static string? Subject(System.Text.Json.Nodes.JsonObject data, string part, string member) =>
        (data[part]?[member] as System.Text.Json.Nodes.JsonValue)?.ToString();

    private static ArrivalState StateOf(BodyResult result) =>
        result.Problems.Count > 0 ? ArrivalState.NotUnderstood
        : result.Ignored ? ArrivalState.Ignored
        : ArrivalState.Understood;

    /// <summary>Reads bodies anew, in the order in which they came, with the time of receipt that they had.</summary>
    /// <param name="sourceId">The source.</param>
    /// <param name="ids">Which, or <see langword="null"/> for all that are in the state.</param>
    /// <param name="state">The state, where no ids are given.</param>
    /// <param name="cancel">Breaks it off; what was begun is read later.</param>
    /// <returns>How many are understood now, and how many are not.</returns>
    public async Task<(int Understood, int NotUnderstood)> AgainAsync(string sourceId, IReadOnlyList<long>? ids, ArrivalState state, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var which = db.Arrivals.Where(a =>
            a.Source == sourceId && a.Content != null && (a.State == ArrivalState.NotUnderstood || a.State == ArrivalState.Ignored)
        );
        which = ids is null ? which.Where(a => a.State == state) : which.Where(a => ids.Contains(a.Id));
        var chosen = await which.OrderBy(a => a.Id).Select(a => a.Id).Take(10_000).ToListAsync(cancel);
        await db
            .Arrivals.Where(a => chosen.Contains(a.Id))
            .ExecuteUpdateAsync(u => u.SetProperty(a => a.State, ArrivalState.Waiting).SetProperty(a => a.Again, true), cancel);
        signals.Raise(Topic.Arrivals);
        var states = new List<ArrivalState>();
        for (var turn = 0; turn < 400; turn++)
        {
            await ReadAsync(sourceId, cancel);
            states = await db.Arrivals.AsNoTracking().Where(a => chosen.Contains(a.Id)).Select(a => a.State).ToListAsync(cancel);
            if (states.All(s => s != ArrivalState.Waiting))
            {
                break;
            }

            // Another node has them in hand.
            await Task.Delay(50, cancel);
        }

        return (states.Count(s => s is ArrivalState.Understood or ArrivalState.Ignored), states.Count(s => s == ArrivalState.NotUnderstood));
    }
}
