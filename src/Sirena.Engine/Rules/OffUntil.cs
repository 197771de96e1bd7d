using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Sirena.Engine.Rules;

/// <summary>Turns rules on again whose time off is over.</summary>
public sealed class OffUntil(RuleDesk desk, ILogger<OffUntil> log) : BackgroundService
{
    private static readonly TimeSpan Poll = TimeSpan.FromSeconds(5);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (true)
        {
            try
            {
                foreach (var id in await desk.TurnOnAsync(stoppingToken))
                {
                    log.LogInformation("The rule {Rule} is on again: its time off is over.", id);
                }
            }
            catch (Exception e) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning("Rules whose time off is over could not be turned on, it is tried again: {Problem}", e.Message);
            }

            await Task.Delay(Poll, stoppingToken);
        }
    }
}
