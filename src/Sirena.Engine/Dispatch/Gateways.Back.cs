using System.Collections.Concurrent;
using NodaTime;

namespace Sirena.Engine.Dispatch;

/// <content>What was refused by a gateway that turned out to refuse everybody.</content>
public sealed partial class Gateways
{
    private static readonly Duration LongWritten = Duration.FromMinutes(10);
    private readonly ConcurrentDictionary<Guid, TakenBack> takenBack = [];

    /// <summary>
    /// After the outcome of a refused message was written: sends it again where the gateway that refused it turned out meanwhile to refuse everybody, and takes
    /// the mark from its address. What the next gateway says of it stands.
    /// </summary>
    /// <param name="message">The message.</param>
    /// <param name="gateway">The gateway that refused it.</param>
    /// <param name="cancel">Ends it.</param>
    /// <returns>Whether it goes again.</returns>
    public async Task<bool> TakeBackAsync(Guid message, string? gateway, CancellationToken cancel)
    {
        if (!takenBack.TryGetValue(message, out var back) || back.Gateway != gateway)
        {
            return false;
        }

        await queue.ReviveAsync([message], back.Gateway, back.Reason, clock.GetCurrentInstant(), cancel);
        signals.Raise(Topic.Deliveries);
        return true;
    }

    // Outcomes are written in their own time: one that is still on its way is taken back when it has been written.
    private async Task TakeBackAsync(IReadOnlyCollection<Guid> messages, TakenBack back, CancellationToken cancel)
    {
        foreach (var old in takenBack.Where(t => back.At - t.Value.At > LongWritten))
        {
            takenBack.TryRemove(old);
        }

        foreach (var message in messages)
        {
            takenBack[message] = back;
        }

        await queue.ReviveAsync(messages, back.Gateway, back.Reason, back.At, cancel);
    }

    private sealed record TakenBack(string Gateway, string Reason, Instant At);
}
