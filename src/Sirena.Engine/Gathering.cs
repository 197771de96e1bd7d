using System.Threading.Channels;
using Microsoft.Extensions.Logging;

namespace Sirena.Engine;

/// <summary>
/// Takes what callers bring and stores it, of several callers in one transaction when they come at once: a commit then serves many. Whoever brings something is
/// answered after the commit that holds it; a lone one
/// is stored at once.
/// </summary>
/// <typeparam name="TItem">What a caller brings.</typeparam>
/// <typeparam name="TDone">What the caller is answered.</typeparam>
/// <param name="writers">How many transactions go on at once.</param>
/// <param name="most">From which weight on a transaction takes no more.</param>
/// <param name="weight">What one weighs.</param>
/// <param name="store">Stores them all or none, and gives the answers in their order.</param>
/// <param name="log">The log.</param>
public sealed class Gathering<TItem, TDone>(
    int writers,
    int most,
    Func<TItem, int> weight,
    Func<IReadOnlyList<TItem>, CancellationToken, Task<IReadOnlyList<TDone>>> store,
    ILogger log
)
{
    private readonly Channel<Parcel> parcels = Channel.CreateBounded<Parcel>(new BoundedChannelOptions(4_096));

    /// <summary>Stores what a caller brings.</summary>
    /// <exception cref="Exception">What the store threw; then nothing of it is stored.</exception>
    public async Task<TDone> TakeAsync(TItem item, CancellationToken cancel)
    {
        var parcel = new Parcel(item, new TaskCompletionSource<TDone>(TaskCreationOptions.RunContinuationsAsynchronously));
        await parcels.Writer.WriteAsync(parcel, cancel);
        return await parcel.Done.Task.WaitAsync(cancel);
    }

    /// <summary>Stores for as long as the node works.</summary>
    public Task RunAsync(CancellationToken stopping) => Task.WhenAll(Enumerable.Range(0, writers).Select(_ => Task.Run(() => WriteAsync(stopping), stopping)));

    private async Task WriteAsync(CancellationToken cancel)
    {
        while (await parcels.Reader.WaitToReadAsync(cancel))
        {
            var together = new List<Parcel>();
            var weighs = 0;
            while (weighs < most && parcels.Reader.TryRead(out var parcel))
            {
                together.Add(parcel);
                weighs += weight(parcel.Item);
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
            var done = await store([.. together.Select(p => p.Item)], cancel);
            for (var i = 0; i < together.Count; i++)
            {
                together[i].Done.TrySetResult(done[i]);
            }
        }
        catch (Exception e) when (together.Count > 1 && !cancel.IsCancellationRequested)
        {
            // One caller's trouble is not the others': each gets a transaction of its own.
            log.LogWarning("What {Count} callers brought could not be stored together, storing each alone: {Problem}", together.Count, e.Message);
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

    private sealed record Parcel(TItem Item, TaskCompletionSource<TDone> Done);
}
