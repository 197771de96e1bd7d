using System.Threading.Channels;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Storage;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// Writes how attempts ended, all that have gathered while the last were written in one statement. While the database does not answer they are kept, as long as
/// their leases may still hold.
/// </summary>
internal sealed class Outcomes(DeliveryQueue queue, IClock clock, ILogger log)
{
    private const int MostAtOnce = 256;
    private static readonly TimeSpan Linger = TimeSpan.FromMilliseconds(8);
    private static readonly Duration Hope = Duration.FromMinutes(2);
    private readonly Channel<(Ended Ended, TaskCompletionSource<bool> Written)> waiting = Channel.CreateUnbounded<(Ended, TaskCompletionSource<bool>)>(
        new UnboundedChannelOptions { SingleReader = true }
    );

    /// <summary>Notes an outcome.</summary>
    /// <returns>Whether the lease still held when it was written.</returns>
    public Task<bool> NoteAsync(Ended ended)
    {
        var written = new TaskCompletionSource<bool>(TaskCreationOptions.RunContinuationsAsynchronously);
        waiting.Writer.TryWrite((ended, written));
        return written.Task;
    }

    /// <summary>Writes until it is told that no more will come.</summary>
    public async Task RunAsync()
    {
        var batch = new List<(Ended Ended, TaskCompletionSource<bool> Written)>();
        while (await waiting.Reader.WaitToReadAsync())
        {
            // A commit costs more than a row: what ends within the next moment goes with it.
            await Task.Delay(Linger);
            while (batch.Count < MostAtOnce && waiting.Reader.TryRead(out var one))
            {
                batch.Add(one);
            }

            await WriteAsync(batch);
            batch.Clear();
        }
    }

    /// <summary>No more will come.</summary>
    public void Complete() => waiting.Writer.TryComplete();

    private async Task WriteAsync(List<(Ended Ended, TaskCompletionSource<bool> Written)> batch)
    {
        while (true)
        {
            try
            {
                var mine = await queue.FinishAsync([.. batch.Select(b => b.Ended)], CancellationToken.None);
                batch.ForEach(b => b.Written.TrySetResult(mine.Contains(b.Ended.Claimed.Id)));
                return;
            }
            catch (Exception e) when (DatabaseFault.OfSurroundings(e))
            {
                if (clock.GetCurrentInstant() - batch[0].Ended.At > Hope)
                {
                    log.LogError(e, "{Count} outcomes could not be written; the messages are tried again and marked.", batch.Count);
                    batch.ForEach(b => b.Written.TrySetResult(false));
                    return;
                }

                log.LogWarning("{Count} outcomes wait for the database: {Problem}", batch.Count, e.Message);
                await Task.Delay(200);
            }
            catch (Exception e) when (batch.Count > 1)
            {
                // One that cannot be written must not hold back the others.
                log.LogWarning("{Count} outcomes could not be written together, writing each alone: {Problem}", batch.Count, e.Message);
                foreach (var one in batch)
                {
                    await WriteAsync([one]);
                }

                return;
            }
            catch (Exception e)
            {
                log.LogError(
                    e,
                    "The outcome of delivery {Delivery} could not be written; it is tried again when its lease runs out.",
                    batch[0].Ended.Claimed.Id
                );
                batch[0].Written.TrySetResult(false);
                return;
            }
        }
    }
}
