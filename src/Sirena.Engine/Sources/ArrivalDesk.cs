using System.Threading.Channels;
using Microsoft.Extensions.Logging;
using Sirena.Core.Sources;
using Sirena.Storage.Sources;

namespace Sirena.Engine.Sources;

/// <summary>Puts bodies on disk, several in one transaction when they come at once: a commit then serves many. A call is answered after the commit that holds its body; a lone one is stored at once.</summary>
public sealed class ArrivalDesk(ArrivalQueue queue, Signals signals, ILogger<ArrivalDesk> log) : Worker(log)
{
    private const int Writers = 2;
    private const int Together = 200;
    private readonly Channel<(ArrivedBody Body, TaskCompletionSource<long> Done)> waiting = Channel.CreateBounded<(ArrivedBody, TaskCompletionSource<long>)>(new BoundedChannelOptions(4_096));

    /// <summary>Stores a body.</summary>
    /// <returns>Its number.</returns>
    /// <exception cref="Npgsql.NpgsqlException">The database did not take it.</exception>
    public async Task<long> StoreAsync(ArrivedBody body, CancellationToken cancel)
    {
        var done = new TaskCompletionSource<long>(TaskCreationOptions.RunContinuationsAsynchronously);
        await waiting.Writer.WriteAsync((body, done), cancel);
        return await done.Task.WaitAsync(cancel);
    }

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => Task.WhenAll(Enumerable.Range(0, Writers).Select(_ => Task.Run(() => WriteAsync(stopping), stopping)));

    private async Task WriteAsync(CancellationToken cancel)
    {
        while (await waiting.Reader.WaitToReadAsync(cancel))
        {
            var together = new List<(ArrivedBody Body, TaskCompletionSource<long> Done)>();
            while (together.Count < Together && waiting.Reader.TryRead(out var one))
            {
                together.Add(one);
            }

            if (together.Count > 0)
            {
                await StoreAsync(together, cancel);
            }
        }
    }

    private async Task StoreAsync(List<(ArrivedBody Body, TaskCompletionSource<long> Done)> together, CancellationToken cancel)
    {
        try
        {
            var ids = await queue.StoreAsync([.. together.Select(t => t.Body)], cancel);
            for (var i = 0; i < ids.Count; i++)
            {
                together[i].Done.TrySetResult(ids[i]);
            }

            signals.Raise(Topic.Arrivals);
        }
        catch (Exception e) when (together.Count > 1 && !cancel.IsCancellationRequested)
        {
            // One call's trouble is not the others'.
            log.LogWarning("Bodies of {Count} calls could not be stored together, storing each alone: {Problem}", together.Count, e.Message);
            foreach (var one in together)
            {
                await StoreAsync([one], cancel);
            }
        }
        catch (Exception e)
        {
            together[0].Done.TrySetException(e);
        }
    }
}
