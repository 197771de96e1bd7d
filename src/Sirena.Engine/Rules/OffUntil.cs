using Microsoft.Extensions.Logging;

namespace Sirena.Engine.Rules;

/// <summary>Turns rules on again whose time off is over.</summary>
public sealed class OffUntil(RuleDesk desk, ILogger<OffUntil> log) : Worker(log)
{
    private static readonly TimeSpan Poll = TimeSpan.FromSeconds(5);

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) =>
        TurnsAsync(
            Poll,
            async () =>
            {
                foreach (var id in await desk.TurnOnAsync(stopping))
                {
                    log.LogInformation("The rule {Rule} is on again: its time off is over.", id);
                }
            },
            stopping
        );
}
