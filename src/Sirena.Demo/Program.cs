using NodaTime;
using NodaTime.Text;
using Sirena.Demo.OrderSystem;
using Sirena.Demo.StandIns;
using Sirena.Demo.World;

var settings = new ConfigurationBuilder().AddCommandLine(args.Skip(1).ToArray()).Build();
string Setting(string name) => settings[name] ?? throw new InvalidOperationException($"--{name} is missing.");
switch (args.FirstOrDefault())
{
    case "settle":
        // settle --database … --file demo.json --url … --stand-ins … --smtp host:port [--days 30] [--clock …]
        IClock clock = settings["clock"] is { } at ? new StandingClock(InstantPattern.ExtendedIso.Parse(at).Value) : SystemClock.Instance;
        await using (var services = Settlement.Services(Setting("database"), clock))
        {
            var settlement = new Settlement(services, clock);
            await settlement.SettleAsync(
                Setting("url"),
                Setting("smtp"),
                int.Parse(settings["days"] ?? "30"),
                int.Parse(settings["a-day"] ?? "80"),
                seed: 20_418
            );
            var file = await settlement.OpenAsync(DemoFile.Read(Setting("file")), Setting("url"), Setting("stand-ins"), Setting("smtp"), Setting("database"));
            file.Write(Setting("file"));
        }

        return 0;
    case "run":
        // run --file demo.json [--quiet true]: the stand-ins, and the order system beside them
        var demo = DemoFile.Read(Setting("file")) ?? throw new InvalidOperationException($"{Setting("file")} is not there; run './sirena demo'.");
        using (var stop = new CancellationTokenSource())
        {
            Console.CancelKeyPress += (_, e) => (e.Cancel, _) = (true, stop.CancelAsync());
            AppDomain.CurrentDomain.ProcessExit += (_, _) => stop.Cancel();
            await using var host = await StandInHost.StartAsync(
                new Uri(demo.StandIns).Port,
                int.Parse(demo.Smtp.Split(':')[1]),
                int.Parse(settings["names"] ?? "0")
            );
            host.Mail.ReportsTo = settings["reports"] is { } reports ? System.Net.IPEndPoint.Parse(reports) : null;
            await using var services = Settlement.Services(demo.Database, SystemClock.Instance);
            using var http = new HttpClient();
            await using (
                var db = await services.GetRequiredService<Microsoft.EntityFrameworkCore.IDbContextFactory<Sirena.Storage.SirenaDb>>().CreateDbContextAsync()
            )
            {
                await GatewaySetup.ConnectAsync(demo.Url, demo.Token, host, db, whole: true, stop.Token);
                if (await SourceSetup.ConnectAsync(demo, db, stop.Token, settings["folder"]) && settings["quiet"] != "true")
                {
                    // Two bodies of the first minute are of a shape that nobody has described yet.
                    host.Moods.Read("""{ "do": "other-shape", "times": 2 }""");
                }
            }

            try
            {
                var system = new OrderSystem(
                    http,
                    services.GetRequiredService<Microsoft.EntityFrameworkCore.IDbContextFactory<Sirena.Storage.SirenaDb>>(),
                    demo,
                    host.Moods
                );
                (host.Moods.List, host.Moods.Do) = (system.ListAsync, system.DoAsync);
                await (settings["quiet"] == "true" ? host.WaitAsync(stop.Token) : system.RunAsync(stop.Token));
            }
            catch (OperationCanceledException)
            {
                // That is how it stops.
            }
        }

        return 0;
    default:
        Console.Error.WriteLine("Usage: settle … | run … ; './sirena demo' does both.");
        return 2;
}

/// <summary>A clock that stands still, for pictures.</summary>
internal sealed class StandingClock(Instant at) : IClock
{
    public Instant GetCurrentInstant() => at;
}
