using System.Threading.Channels;
using Microsoft.Extensions.Logging;
using Sirena.Engine.Sources;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Intake;

/// <summary>
/// Takes requests' events and stores them, several requests in one transaction when they come at once: a commit then serves many. A request is answered after the
/// commit that holds all its events. A lone request is stored at once.
/// </summary>
public sealed class IntakeDesk(EventIntake intake, SurroundingsCache surroundings, SourcePulse pulse, Signals signals, ILogger<IntakeDesk> log) : Worker(log)
{
    private const int Writers = 4;
    private const int Together = 256;
    private readonly Channel<Parcel> parcels = Channel.CreateBounded<Parcel>(new BoundedChannelOptions(4096));

    /// <summary>Stores a request's events.</summary>
    /// <returns>For each whether it was new.</returns>
    /// <exception cref="Npgsql.NpgsqlException">The database did not take them; none is stored.</exception>
    public async Task<bool[]> TakeAsync(IReadOnlyList<Arrival> arrivals, CancellationToken cancel)
    {
        if (arrivals.Count == 0)
        {
            return [];
        }

        var parcel = new Parcel(arrivals, new TaskCompletionSource<bool[]>(TaskCreationOptions.RunContinuationsAsynchronously));
        await parcels.Writer.WriteAsync(parcel, cancel);
        return await parcel.Done.Task.WaitAsync(cancel);
    }

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) =>
        Task.WhenAll(Enumerable.Range(0, Writers).Select(_ => Task.Run(() => WriteAsync(stopping), stopping)));

    private async Task WriteAsync(CancellationToken cancel)
    {
        while (await parcels.Reader.WaitToReadAsync(cancel))
        {
            var together = new List<Parcel>();
            var count = 0;
            while (count < Together && parcels.Reader.TryRead(out var parcel))
            {
                together.Add(parcel);
                count += parcel.Arrivals.Count;
            }

            if (together.Count > 0)
            {
                await StoreAsync(together, cancel);
            }
        }
    }

    private async Task StoreAsync(List<Parcel> together, CancellationToken cancel)
    {
        try
        {
            var words = (surroundings.Last ?? await surroundings.GetAsync(cancel)).Words;
            foreach (var arrival in together.SelectMany(p => p.Arrivals))
            {
                words.Apply(arrival.Event.Data);
            }

            var taken = await intake.StoreAsync([.. together.SelectMany(p => p.Arrivals)], cancel);
            NodeFigures.Taken(taken.Count(t => t));
            foreach (var (source, at) in together.SelectMany(p => p.Arrivals).Where((a, i) => taken[i] && a.By is not null && !a.Again).GroupBy(a => a.By!).Select(g => (g.Key, g)))
            {
                pulse.Note(source, at.Count(), at.Max(a => a.Received));
            }

            var from = 0;
            foreach (var parcel in together)
            {
                parcel.Done.TrySetResult(taken[from..(from += parcel.Arrivals.Count)]);
            }

            signals.Raise(Topic.Events);
        }
        catch (Exception e) when (together.Count > 1 && !cancel.IsCancellationRequested)
        {
            // One request's trouble is not the others': each gets a transaction of its own.
            log.LogWarning("Events of {Count} requests could not be stored together, storing each alone: {Problem}", together.Count, e.Message);
            foreach (var parcel in together)
            {
                await StoreAsync([parcel], cancel);
            }
        }
        catch (Exception e)
        {
            together[0].Done.TrySetException(e);
        }
    }

    private sealed record Parcel(IReadOnlyList<Arrival> Arrivals, TaskCompletionSource<bool[]> Done);
}
