using System.Diagnostics;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Insight;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Calendars;
using Sirena.Shots;
using Sirena.Storage;

namespace Sirena.Bench;

/// <summary>Who is told, and coverage, in the core; the Rota page. 1,000 people, 50 teams, a year of weekly shifts.</summary>
public static class WhoBench
{
    private static readonly DateTimeZone Zone = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 14, 32);

    /// <summary>Measures; the median of three runs each.</summary>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say)
    {
        var (people, teams, shifts) = Crowd();
        var staff = new StaffDirectory(
            people,
            teams,
            [
                new Site
                {
                    Id = "s0",
                    Name = "Site",
                    Manager = "p3",
                    Team = "t0",
                },
            ],
            new Rota(shifts, Zone)
        );
        var (resolve, coverage, page) = (new double[3], new double[3], new double[3]);
        for (var run = 0; run < 3; run++)
        {
            say($"who, run {run + 1} of 3");
            resolve[run] = Resolve(staff);
            coverage[run] = Week(staff);
        }

        say("the Rota page with 1,000 people and 50 teams");
        await using var world = await World.MakeAsync(server, days: 0, aDay: 0);
        await FillAsync(world, people, teams, shifts);
        using var http = await PagesBench.SignInAsync(world);
        for (var i = 0; i < 50; i++)
        {
            await http.GetByteArrayAsync($"{world.Url}/people/rota?team=t{i}");
        }

        for (var run = 0; run < 3; run++)
        {
            var times = new List<double>();
            for (var i = 0; i < 100; i++)
            {
                var begin = Stopwatch.GetTimestamp();
                await http.GetByteArrayAsync($"{world.Url}/people/rota?team=t{i % 50}");
                times.Add(Stopwatch.GetElapsedTime(begin).TotalMilliseconds);
            }

            page[run] = Figure.At(times, .95);
        }

        return
        [
            new Figure("one alert's recipients resolved, median", Figure.Median(resolve), "µs", 100),
            new Figure("coverage of one rule for a week", Figure.Median(coverage), "ms", 50),
            new Figure("Rota page, p95", Figure.Median(page), "ms", 80),
        ];
    }

    private static double Resolve(StaffDirectory staff)
    {
        var facts = new Facts(
            new OrderEvent
            {
                EventId = "e",
                Source = "/bench",
                Type = "order.held",
                Time = Now,
                Received = Now,
                Data = "{}",
                OrderAfter = """{"salesperson":"p77","site":"s0"}""",
            },
            Zone,
            "EUR"
        );
        var who = new WhoIsTold(staff, new Business(), facts);
        var times = new List<double>();
        for (var i = 0; i < 20_000; i++)
        {
            // Another instant and another team each time, within the year of the rota.
            var question = new TellQuestion(
                [new DutyRecipient($"t{i % 50}"), new RoleRecipient(OrderRole.Salesperson), new RoleRecipient(OrderRole.SiteManager)],
                Ways.AllAtOnce(Channel.Mail, Channel.Sms),
                Urgency.Prompt,
                "order.held",
                "held",
                true,
                Now + Duration.FromMinutes(i * 17 % 400_000)
            );
            var begin = Stopwatch.GetTimestamp();
            who.Resolve(question);
            times.Add(Stopwatch.GetElapsedTime(begin).TotalMicroseconds);
        }

        return Figure.At(times, .5);
    }

    private static double Week(StaffDirectory staff)
    {
        var times = new List<double>();
        for (var i = 0; i < 40; i++)
        {
            var facts = new Facts(
                new OrderEvent
                {
                    EventId = "e",
                    Source = "/bench",
                    Type = "order.held",
                    Time = Now,
                    Received = Now,
                    Data = "{}",
                    OrderAfter = "{}",
                },
                Zone,
                "EUR"
            );
            var who = new WhoIsTold(staff, new Business(), facts);
            var question = new TellQuestion(
                [new DutyRecipient($"t{i % 50}"), new RoleRecipient(OrderRole.Salesperson)],
                null,
                Urgency.Prompt,
                "order.held",
                "held",
                true,
                Now
            );
            var begin = Stopwatch.GetTimestamp();
            Coverage.Of(new LocalDate(2026, 11, 23), Zone, at => who.Resolve(question with { At = at })).DarkTimes();
            times.Add(Stopwatch.GetElapsedTime(begin).TotalMilliseconds);
        }

        return Figure.At(times, .5);
    }

    private static (Person[] People, Team[] Teams, Shift[] Shifts) Crowd()
    {
        Team[] teams = [.. Enumerable.Range(0, 50).Select(t => new Team { Id = $"t{t}", Name = $"Team {t}" })];
        Person[] people =
        [
            .. Enumerable
                .Range(0, 1000)
                .Select(n => new Person
                {
                    Id = $"p{n}",
                    Name = $"Person {n}",
                    Email = $"p{n}@a.example",
                    Teams = [$"t{n % 50}"],
                    Contacts =
                    {
                        new ContactPoint
                        {
                            Channel = Channel.Mail,
                            Address = $"p{n}@a.example",
                            Verified = true,
                        },
                        new ContactPoint
                        {
                            Channel = Channel.Sms,
                            Address = $"+4477009{n:00000}",
                            Verified = n % 3 == 0,
                        },
                    },
                    Quiet = n % 4 == 0 ? [new WeeklySpan([], new LocalTime(22, 0), new LocalTime(6, 0))] : [],
                    OptOuts = n % 5 == 0 ? [new OptOut("order.note-added", null, null)] : [],
                    Away = n % 20 == 0 ? [Leave.Of(new LocalDate(2026, 12, 1), new LocalDate(2026, 12, 14), $"p{(n + 50) % 1000}", Zone)] : [],
                }),
        ];
        Shift[] shifts =
        [
            .. people.Select(
                (p, n) =>
                {
                    var begin = new LocalDate(2026, 1, 5).At(new LocalTime(n / 50 * 8 % 24, 0));
                    IsoDayOfWeek[] days = [.. Enumerable.Range(0, 5).Select(d => (IsoDayOfWeek)(((n / 50) + d) % 7 + 1))];
                    return ShiftText.Make(p.Teams[0], new(p.Id, p.Name, p.Email!), begin, begin.PlusHours(8), days, Zone, null, Now);
                }
            ),
        ];
        return (people, teams, shifts);
    }

    private static async Task FillAsync(World world, Person[] people, Team[] teams, Shift[] shifts)
    {
        await using var services = Demo.World.Settlement.Services(world.Database, SystemClock.Instance);
        await using var db = await Microsoft
            .Extensions.DependencyInjection.ServiceProviderServiceExtensions.GetRequiredService<Microsoft.EntityFrameworkCore.IDbContextFactory<SirenaDb>>(
                services
            )
            .CreateDbContextAsync();
        db.AddRange(people);
        db.AddRange(teams);
        db.AddRange(shifts);
        await db.SaveChangesAsync();
        await world.ExecuteAsync("update business set rota_version = rota_version + 1");
        await Task.Delay(6000);
    }
}
