using System.Net;

namespace Sirena.Demo.StandIns;

/// <summary>The stand-ins, running: their web and their mail server. Used by the demo and by the tests.</summary>
public sealed class StandInHost : IAsyncDisposable
{
    private readonly WebApplication app;
    private readonly CancellationTokenSource stop = new();
    private readonly Task mail;
    private readonly Task relay;

    private StandInHost(
        WebApplication app,
        MailCarrier carrier,
        Carrier phone,
        Carrier chat,
        Printers printers,
        Browsers browsers,
        Faults faults,
        int smtpPort,
        int relayPort,
        NameServer names
    )
    {
        (this.app, Mail, Phone, Chat, Printers, Browsers, Faults, SmtpPort, RelayPort, Names) = (
            app,
            carrier,
            phone,
            chat,
            printers,
            browsers,
            faults,
            smtpPort,
            relayPort,
            names
        );
        mail = carrier.ServeAsync(new IPEndPoint(IPAddress.Loopback, smtpPort), "mail", stop.Token);
        relay = carrier.ServeAsync(new IPEndPoint(IPAddress.Loopback, relayPort), "relay", stop.Token);
    }

    /// <summary>The mail carrier.</summary>
    public MailCarrier Mail { get; }

    /// <summary>The phone network.</summary>
    public Carrier Phone { get; }

    /// <summary>The team chat.</summary>
    public Carrier Chat { get; }

    /// <summary>The ticket printers.</summary>
    public Printers Printers { get; }

    /// <summary>What the order system is told to do.</summary>
    public OrderSystem.Moods Moods { get; } = new(NodaTime.SystemClock.Instance);

    /// <summary>Where their web answers.</summary>
    public string Url => app.Urls.First();

    /// <summary>The faults in force.</summary>
    public Faults Faults { get; }

    /// <summary>The push service and the browsers behind it.</summary>
    public Browsers Browsers { get; }

    /// <summary>The name server.</summary>
    public NameServer Names { get; }

    /// <summary>Where the mail carrier listens.</summary>
    public int SmtpPort { get; }

    /// <summary>Where its second server listens.</summary>
    public int RelayPort { get; }

    /// <summary>Starts them.</summary>
    /// <param name="httpPort">The port of their web, 0 for any.</param>
    /// <param name="smtpPort">The port of the mail carrier, 0 for any.</param>
    /// <param name="namePort">The port of the name server, 0 for any.</param>
    public static async Task<StandInHost> StartAsync(int httpPort, int smtpPort, int namePort = 0)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls($"http://127.0.0.1:{httpPort}");
        var (faults, app) = (new Faults(), builder.Build());
        var carrier = new MailCarrier(faults);
        var (phone, chat, printers) = (
            new Carrier("phone", receipts: true, faults),
            new Carrier("chat", receipts: true, faults),
            new Printers(faults, "galley", "cold-store", "bonded-store")
        );
        var browsers = new Browsers(faults);
        var names = new NameServer(namePort);
        names.Texts["averilquay.example"] = ["v=spf1 mx a:mail.port-averil.example -all"];
        names.Texts["_dmarc.averilquay.example"] = ["v=DMARC1; p=quarantine; rua=mailto:postmaster@averilquay.example"];
        app.MapStandIns(carrier, phone, chat, printers, browsers, faults);
        var host = new StandInHost(app, carrier, phone, chat, printers, browsers, faults, smtpPort == 0 ? FreePort() : smtpPort, FreePort(), names);
        app.MapPost("/order-system", async (HttpRequest request) =>
        {
            using var reader = new StreamReader(request.Body);
            return host.Moods.Read(await reader.ReadToEndAsync()) is { } problem
                ? Results.Problem(problem, statusCode: 422, title: "The order system cannot do that.")
                : Results.NoContent();
        });
        app.MapGet("/order-system/list.csv", async (CancellationToken cancel) =>
            host.Moods.List is { } list ? Results.Text(await list(cancel), "text/csv") : Results.Problem("No order system runs here.", statusCode: 503)
        );
        app.MapPost("/order-system/instructions/{source}", async (string source, HttpRequest request, CancellationToken cancel) =>
        {
            using var reader = new StreamReader(request.Body);
            var text = await reader.ReadToEndAsync(cancel);
            var (status, body) = await host.TakeAsync(source, text, cancel);
            host.Moods.Calls.Enqueue(
                new OrderSystem.InstructionCall(
                    NodaTime.SystemClock.Instance.GetCurrentInstant(),
                    source,
                    request.Headers.ToDictionary(h => h.Key.ToLowerInvariant(), h => h.Value.ToString()),
                    text,
                    status
                )
            );
            while (host.Moods.Calls.Count > 500 && host.Moods.Calls.TryDequeue(out _)) { }

            return Results.Json(body, statusCode: status, contentType: status >= 400 ? "application/problem+json" : "application/json");
        });
        app.MapGet("/order-system/calls", () => Results.Json(
                host.Moods.Calls.Select(c => new
                {
                    at = c.At.ToString(),
                    source = c.Source,
                    headers = c.Headers,
                    body = c.Body,
                    status = c.Status,
                })
            ));
        app.MapDelete("/order-system/calls", () =>
        {
            host.Moods.Calls.Clear();
            return Results.NoContent();
        });
        app.MapGet("/order-system", () => Results.Json(
                host.Moods.All.Select(m => new
                {
                    @do = m.Key,
                    times = m.Value.Times,
                    until = m.Value.Until?.ToString(),
                })
            ));
        await app.StartAsync();
        return host;
    }

    private async Task<(int Status, System.Text.Json.Nodes.JsonObject Body)> TakeAsync(string source, string text, CancellationToken cancel)
    {
        System.Text.Json.Nodes.JsonObject? call = null;
        try
        {
            call = System.Text.Json.Nodes.JsonNode.Parse(text) as System.Text.Json.Nodes.JsonObject;
        }
        catch (System.Text.Json.JsonException)
        {
            // Said below.
        }

        return call is null ? (400, new() { ["title"] = "This is no CloudEvent." })
            : Moods.Do is { } work ? await work(source, call, cancel)
            : (503, new() { ["title"] = "No order system runs here." });
    }

    /// <summary>A port that was free a moment ago.</summary>
    public static int FreePort()
    {
        // Below the ports that the system gives to connections: one that is free now could be taken by any of them before it is used.
        lock (Given)
        {
            while (true)
            {
                var port = Random.Shared.Next(12_000, 32_000);
                try
                {
                    using var probe = new System.Net.Sockets.TcpListener(IPAddress.Loopback, port);
                    probe.Start();
                    if (Given.Add(port))
                    {
                        return port;
                    }
                }
                catch (System.Net.Sockets.SocketException)
                {
                    // Taken: another one.
                }
            }
        }
    }

    private static readonly HashSet<int> Given = [];

    /// <summary>Waits until it is told to stop.</summary>
    public Task WaitAsync(CancellationToken cancel) =>
        Task.Delay(Timeout.Infinite, cancel).ContinueWith(_ => { }, CancellationToken.None, TaskContinuationOptions.None, TaskScheduler.Default);

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await stop.CancelAsync();
        Phone.Dispose();
        Chat.Dispose();
        Printers.Dispose();
        Browsers.Dispose();
        Names.Dispose();
        await app.DisposeAsync();
        try
        {
            await mail;
            await relay;
        }
        catch (OperationCanceledException)
        {
            // That is how it stops.
        }

        stop.Dispose();
    }
}
