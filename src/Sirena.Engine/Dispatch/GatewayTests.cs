using System.Collections.Concurrent;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Channels;
using Sirena.Core.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>A test that runs, or ran.</summary>
public sealed class RunningTest(string gateway, string to, Instant since)
{
    private readonly List<ProbeStep> steps = [];

    /// <summary>The gateway's id, or <c>settings</c>.</summary>
    public string Gateway => gateway;

    /// <summary>Where it goes.</summary>
    public string To => to;

    /// <summary>Since when.</summary>
    public Instant Since => since;

    /// <summary>What it found; <see langword="null"/> while it runs.</summary>
    public ProbeResult? Result { get; set; }

    /// <summary>The stations so far.</summary>
    public IReadOnlyList<ProbeStep> Steps
    {
        get
        {
            lock (steps)
            {
                return [.. steps];
            }
        }
    }

    internal void Add(ProbeStep step)
    {
        lock (steps)
        {
            steps.Add(step);
        }
    }
}

/// <summary>Tests of gateways by hand: each runs by itself and can be looked at while it goes, for some minutes after too.</summary>
public sealed class GatewayTests(Gateways gateways, MarkedMessages marked, IClock clock, ILogger<GatewayTests> log)
{
    private static readonly Duration Kept = Duration.FromMinutes(10);
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(12);
    private readonly ConcurrentDictionary<Guid, RunningTest> running = [];

    /// <summary>Begins one.</summary>
    /// <param name="gateway">The gateway; <see langword="null"/> for the mail server of the settings.</param>
    /// <param name="to">An address of one's own.</param>
    /// <returns>Its id.</returns>
    public Guid Begin(Gateway? gateway, string to)
    {
        var now = clock.GetCurrentInstant();
        foreach (var old in running.Where(r => now - r.Value.Since > Kept))
        {
            running.TryRemove(old.Key, out _);
        }

        var (id, test) = (Guid.CreateVersion7(), new RunningTest(gateway?.Id ?? "settings", to, now));
        running[id] = test;
        _ = Task.Run(() => RunAsync(id, gateway, test));
        return id;
    }

    /// <summary>The test of that id, or <see langword="null"/>.</summary>
    public RunningTest? Of(Guid id) => running.GetValueOrDefault(id);

    private async Task RunAsync(Guid id, Gateway? gateway, RunningTest test)
    {
        try
        {
            await marked.BeginAsync(id, gateway?.Id ?? "", echo: false, CancellationToken.None);
            var named = false;
            var result = await gateways.TestAsync(gateway, id, test.To, new ProbeWays(test.Add, async far =>
                {
                    named = true;
                    await marked.TakenAsync(id, far, CancellationToken.None);
                    return await marked.WaitAsync(id, Patience, CancellationToken.None);
                }), CancellationToken.None);
            if (result.Good && !named)
            {
                // Taken, by a far end that gave it no number of its own: it counts as evidence all the same.
                await marked.TakenAsync(id, $"test {id:N}", CancellationToken.None);
            }

            test.Result = result;
        }
        catch (Exception e)
        {
            log.LogError(e, "A test of {Gateway} broke off.", test.Gateway);
            test.Result = new ProbeResult(test.Steps, "The test broke off.", e.GetBaseException().Message, ["Try it again."], []);
        }
    }
}
