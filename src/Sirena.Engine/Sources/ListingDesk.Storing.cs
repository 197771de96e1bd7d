using System.IO.Compression;
using System.Text.Json.Nodes;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Sources;

public sealed partial class ListingDesk
{
    // What an ended run is looked at for: enough to see what it was.
    private static RunRows? Few(RunRows? rows) =>
        rows is null ? null : new([.. rows.New.Take(Kept)], [.. rows.Changed.Take(Kept)], [.. rows.Gone.Take(Kept)], [.. rows.Bad.Take(Kept)]);

    private async Task NoteAsync(ListingRun run, CancellationToken cancel)
    {
        await using var connection = await database.OpenConnectionAsync(cancel);
        await ListingRows.NoteAsync(connection, run, cancel);
    }

    private async Task StoreAsync(
        Source source,
        ListingPlan plan,
        ListingRun run,
        ListingWork work,
        IReadOnlyList<IncomingEvent> events,
        bool silent,
        CancellationToken cancel
    )
    {
        var now = clock.GetCurrentInstant();
        var words = (await surroundings.GetAsync(cancel)).Words;
        foreach (var one in events)
        {
            words.Apply(one.Data);
        }

        Arrival[] arrivals =
        [
            .. events.Select(e => new Arrival(e, source.Prefix, now)
            {
                Crowd = events.Count > 100,
                By = source.Id,
                Silent = silent,
            }),
        ];
        // A run of more than that would hold more locks than the server has: the events before the last part are taken in by themselves. Their ids are those of
        // the run before and of the row, so that a run which is broken
        // off and handed over again makes none of them twice.
        var from = 0;
        for (; arrivals.Length - from > EventIntake.Together; from += EventIntake.Together)
        {
            await intake.StoreAsync(arrivals[from..(from + EventIntake.Together)], cancel);
        }

        await intake.StoreAsync(arrivals[from..], cancel, async connection =>
        {
            await ListingRows.StoreAsync(connection, source.Id, work, cancel);
            await ListingRows.NoteAsync(connection, run, cancel);
        });
        if (events.Count > 0)
        {
            pulse.Note(source.Id, events.Count, now);
            signals.Raise(Topic.Events);
        }

        if (plan.Role == ListingRole.Check)
        {
            await missed.CompareAsync(source, plan, run, work.Listed(words, source.Prefix), cancel);
        }
    }

    private static List<IncomingEvent> Events(Source source, ListingPlan plan, string last, ListingWork work, IReadOnlyDictionary<string, JsonObject> before)
    {
        var events = new List<IncomingEvent>();
        var things = plan.Role == ListingRole.Things;
        IncomingEvent Made(string key, long digest, string type, JsonObject data) =>
            new(
                $"{last}-{key}-{digest:x16}",
                source.EventSource,
                type,
                things ? (data["stock"]?["sku"]?.ToString() ?? key) : data["order"]?["number"]?.ToString(),
                null,
                data
            );
        foreach (var row in work.New)
        {
            events.Add(Made(row.Key, row.Digest, things ? "stock.changed" : "order.placed", (JsonObject)row.Data.DeepClone()));
        }

        foreach (var row in work.Changed)
        {
            var status = !things && before.TryGetValue(row.Key, out var cells) && work.StatusOf(cells) is var was && was != work.StatusOf(row.Cells);
            events.Add(
                Made(
                    row.Key,
                    row.Digest,
                    things ? "stock.changed"
                        : status ? "order.status-changed"
                        : "order.changed",
                    (JsonObject)row.Data.DeepClone()
                )
            );
        }

        // The key is the order's number where a list is of orders.
        if (!things)
        {
            events.AddRange(
                work.Ended.Where(g => g.Status is not null)
                    .Select(g =>
                        Made(
                            "gone-" + g.Key,
                            0,
                            "order.status-changed",
                            new JsonObject
                            {
                                ["order"] = new JsonObject { ["number"] = g.Key, ["status"] = g.Status },
                            }
                        )
                    )
            );
        }

        return events;
    }

    private Task DoubtAsync(Source source, ListingRun run, CancellationToken cancel) =>
        own.TakeAsync(
            [OwnEvents.OfSource($"source.doubtful-{run.Id:N}", "source.doubtful", source, run.At, ("run", run.Id.ToString()), ("reason", run.Reason))],
            cancel
        );

    private static byte[] Packed(byte[] bytes)
    {
        using var kept = new MemoryStream();
        using (var packing = new BrotliStream(kept, CompressionLevel.Fastest, leaveOpen: true))
        {
            packing.Write(bytes);
        }

        return kept.ToArray();
    }

    internal static byte[] Unpacked(byte[] packed)
    {
        using var opened = new MemoryStream();
        using var reading = new BrotliStream(new MemoryStream(packed), CompressionMode.Decompress);
        reading.CopyTo(opened);
        return opened.ToArray();
    }
}
