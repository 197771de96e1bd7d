using Microsoft.Extensions.Logging;

namespace Sirena.Engine.Rules;

/// <summary>Turns rules on again whose time off is over.</summary>
public sealed class OffUntil(RuleDesk desk, ILogger<OffUntil> log) : Worker(log)
{
    private static readonly TimeSpan Poll = TimeSpan.FromSeconds(5);

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        while (true)
        {
            try
            {
                foreach (var id in await desk.TurnOnAsync(stopping))
                {
                    log.LogInformation("The rule {Rule} is on again: its time off is over.", id);
                }
            }
            catch (Exception e) when (!stopping.IsCancellationRequested)
            {
                await Task.Delay(Broke(e), stopping);
            }

            await Task.Delay(Poll, stopping);
        }
    }
}
