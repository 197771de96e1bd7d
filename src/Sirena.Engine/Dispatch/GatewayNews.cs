using System.Text.Json.Nodes;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Engine.Intake;
using Sirena.Storage.Orders;

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
        var now = clock.GetCurrentInstant();
        var type = failing ? "gateway.failing" : "gateway.restored";
        var data = new JsonObject { ["gateway"] = new JsonObject { ["id"] = gateway.Id, ["name"] = gateway.Name, ["channel"] = gateway.Channel.Name(), ["error"] = error } };
        try
        {
            await desk.TakeAsync([OwnEvents.Make($"{type}-{gateway.Id}-{now.ToUnixTimeMilliseconds()}", type, gateway.Id, data, now)], CancellationToken.None);
        }
        catch (Npgsql.NpgsqlException e)
        {
            log.LogError(e, "The news that the gateway {Gateway} {State} could not be stored.", gateway.Id, failing ? "fails" : "works again");
        }
    }
}
