using System.Net;

namespace Sirena.Demo.StandIns;

/// <summary>The stand-ins, running: their web and their mail server. Used by the demo and by the tests.</summary>
public sealed class StandInHost : IAsyncDisposable
{
    private readonly WebApplication app;
    private readonly CancellationTokenSource stop = new();
    private readonly Task mail;

    private StandInHost(WebApplication app, MailCarrier carrier, Carrier phone, Carrier chat, Printers printers, Faults faults, int smtpPort)
    {
        (this.app, Mail, Phone, Chat, Printers, Faults, SmtpPort) = (app, carrier, phone, chat, printers, faults, smtpPort);
        mail = carrier.ServeAsync(new IPEndPoint(IPAddress.Loopback, smtpPort), stop.Token);
    }

    /// <summary>The mail carrier.</summary>
    public MailCarrier Mail { get; }

    /// <summary>The phone network.</summary>
    public Carrier Phone { get; }

    /// <summary>The team chat.</summary>
    public Carrier Chat { get; }

    /// <summary>The ticket printers.</summary>
    public Printers Printers { get; }

    /// <summary>Where their web answers.</summary>
    public string Url => app.Urls.First();

    /// <summary>The faults in force.</summary>
    public Faults Faults { get; }

    /// <summary>Where the mail carrier listens.</summary>
    public int SmtpPort { get; }

    /// <summary>Starts them.</summary>
    /// <param name="httpPort">The port of their web, 0 for any.</param>
    /// <param name="smtpPort">The port of the mail carrier, 0 for any.</param>
    public static async Task<StandInHost> StartAsync(int httpPort, int smtpPort)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls($"http://127.0.0.1:{httpPort}");
        var (faults, app) = (new Faults(), builder.Build());
        var carrier = new MailCarrier(faults);
        var (phone, chat, printers) = (new Carrier("phone", receipts: true, faults), new Carrier("chat", receipts: true, faults), new Printers(faults, "galley", "cold-store", "bonded-store"));
        app.MapStandIns(carrier, phone, chat, printers, faults);
        var host = new StandInHost(app, carrier, phone, chat, printers, faults, smtpPort == 0 ? FreePort() : smtpPort);
        await app.StartAsync();
        return host;
    }

    /// <summary>A port that was free a moment ago.</summary>
    public static int FreePort()
    {
        using var probe = new System.Net.Sockets.TcpListener(IPAddress.Loopback, 0);
        probe.Start();
        return ((IPEndPoint)probe.LocalEndpoint).Port;
    }

    /// <summary>Waits until it is told to stop.</summary>
    public Task WaitAsync(CancellationToken cancel) => Task.Delay(Timeout.Infinite, cancel).ContinueWith(_ => { }, CancellationToken.None, TaskContinuationOptions.None, TaskScheduler.Default);

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await stop.CancelAsync();
        Phone.Dispose();
        Chat.Dispose();
        Printers.Dispose();
        await app.DisposeAsync();
        try
        {
            await mail;
        }
        catch (OperationCanceledException)
        {
            // That is how it stops.
        }

        stop.Dispose();
    }
}
