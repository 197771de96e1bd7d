using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Engine.Intake;

namespace Sirena.Engine.Dispatch;

/// <summary>Makes the events <c>gateway.failing</c> and <c>gateway.restored</c>, once each, so that a rule can tell the supervisor.</summary>
public sealed class GatewayNews(Gateways gateways, IntakeDesk desk, IClock clock, ILogger<GatewayNews> log) : IHostedService
{
    /// <inheritdoc/>
    public Task StartAsync(CancellationToken cancellationToken)
    {
        gateways.Changed += TellAsync;
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public Task StopAsync(CancellationToken cancellationToken)
    {
        gateways.Changed -= TellAsync;
        return Task.CompletedTask;
    }

    private async Task TellAsync(Gateway gateway, bool failing, string error)
    {
        try
        {
            await desk.TakeAsync([OwnEvents.OfGateway(gateway, failing, error, clock.GetCurrentInstant())], CancellationToken.None);
        }
        catch (Npgsql.NpgsqlException e)
        {
            log.LogError(e, "The news that the gateway {Gateway} {State} could not be stored.", gateway.Id, failing ? "fails" : "works again");
        }
    }
}
