using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Engine;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Demo.World;

/// <summary>Settles Averil Quay Provisions in a database: who and what there is, its rules, 30 days of history, and the ways in.</summary>
public sealed class Settlement(IServiceProvider services, IClock clock)
{
    private static readonly (string Person, Role Role)[] SignIns =
    [
        ("maren.holt", Role.Supervisor),
        ("ines.calder", Role.Staff),
        ("tomas.reyle", Role.Staff),
        ("clara.bonnet", Role.Reader),
        ("dario.neves", Role.Staff),
    ];

    /// <summary>A service provider that knows the database and the rules, and works on nothing by itself.</summary>
    public static ServiceProvider Services(string database, IClock clock)
    {
        var services = new ServiceCollection();
        services.AddLogging();
        services.AddSirenaEngine(database, clock);
        return services.BuildServiceProvider();
    }

    /// <summary>Brings the database up to date and fills what is missing.</summary>
    /// <param name="baseAddress">Where the application answers.</param>
    /// <param name="mailServer">Where the mail carrier listens.</param>
    /// <param name="days">How many days of history an empty database gets.</param>
    /// <param name="aDay">Orders on a weekday.</param>
    /// <param name="seed">The seed of all chance.</param>
    public async Task SettleAsync(string baseAddress, string mailServer, int days, int aDay, int seed)
    {
        await Database.MigrateAsync(services);
        await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync();
        var empty = !await db.Statuses.AnyAsync();
        await SetAsync(db, baseAddress, mailServer);
        if (empty)
        {
            db.AddRange(Port.Teams());
            db.AddRange(Port.Sites());
            db.AddRange(Port.Statuses());
            var zone = (await db.Businesses.SingleAsync()).Zone;
            var people = Port.People();
            Duty.Wishes(people, clock.GetCurrentInstant(), zone);
            people.ToList().ForEach(p => p.NumberContacts());
            db.AddRange(people);
            db.AddRange(Duty.Shifts(people, clock.GetCurrentInstant(), zone));
            await db.SaveChangesAsync();
            await RulesAsync();
        }

        var last = await db.Events.MaxAsync(e => (Instant?)e.Received);
        var now = clock.GetCurrentInstant();
        if (empty && days > 0)
        {
            await HistoryAsync(db, now - Duration.FromDays(days), now, 16_001, aDay, seed);

            // The mailbox that refused all through the history is known as broken by now.
            await db.Database.ExecuteSqlAsync(
                $"""
                update contact_points set broken_at = {now - Duration.FromDays(1)}, broken_because = '5.1.1 The mailbox does not exist', verified = false
                    where address = 'kaia.lund@averilquay.example'
                """
            );
        }

        await EchoesWaitAsync(db, now);
        if (last is { } at && now - at > Duration.FromHours(1))
        {
            await CloseStaleAsync(db, now);
            var next = await db.Orders.Where(o => o.Number.StartsWith("AQ-")).Select(o => o.Number).ToListAsync();
            await HistoryAsync(
                db,
                Instant.Max(at, now - Duration.FromDays(30)),
                now,
                next.Select(n => int.TryParse(n[3..], out var i) && i < 90_000 ? i : 0).DefaultIfEmpty(16_000).Max() + 1,
                aDay,
                seed + (int)(now.ToUnixTimeSeconds() / 3600)
            );
        }
    }

    // The stand-ins come up after the application: echoes wait a minute for them.
    private static Task EchoesWaitAsync(SirenaDb db, Instant now) =>
        db.Database.ExecuteSqlAsync($"update schedules set next_at = greatest(next_at, {now + Duration.FromMinutes(1)}) where id = 'echo'");

    /// <summary>The ways in: those of the file where they still work, new ones where they do not.</summary>
    public async Task<DemoFile> OpenAsync(DemoFile? known, string url, string standIns, string smtp, string database)
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync();
        var now = clock.GetCurrentInstant();
        var users = new List<DemoUser>();
        foreach (var (person, role) in SignIns)
        {
            var who = await db.People.SingleAsync(p => p.Id == person);
            var email = $"{person}@averilquay.example";
            var user = await db.Users.FirstOrDefaultAsync(u => u.Email == email);
            var password = known?.Users.FirstOrDefault(u => u.Email == email)?.Password;
            if (user is null || password is null)
            {
                password = $"{person.Split('.')[0]}-{Convert.ToHexStringLower(System.Security.Cryptography.RandomNumberGenerator.GetBytes(5))}";
                user ??= db
                    .Users.Add(
                        new User
                        {
                            Id = Guid.CreateVersion7(),
                            Name = who.Name,
                            Person = person,
                            Role = role,
                            Email = email,
                            NormalizedEmail = email.ToUpperInvariant(),
                            UserName = email,
                            NormalizedUserName = email.ToUpperInvariant(),
                            EmailConfirmed = true,
                            LockoutEnabled = true,
                        }
                    )
                    .Entity;
                user.PasswordHash = new PasswordHasher<User>().HashPassword(user, password);
                user.SecurityStamp = Guid.NewGuid().ToString("N");
            }

            users.Add(new DemoUser(who.Name, email, password, role.Name()));
        }

        await db.SaveChangesAsync();
        var supervisor = await db.Users.SingleAsync(u => u.Email == users[0].Email);
        var key = known?.SourceKey is { } k && await db.SourceKeys.AnyAsync(s => s.Hash == Secrets.Hash(k) && s.RevokedAt == null) ? k : null;
        if (key is null)
        {
            key = Secrets.New("sk-");
            if (!await db.Sources.AnyAsync(s => s.Id == "events"))
            {
                db.Sources.Add(
                    new Core.Sources.Source
                    {
                        Id = "events",
                        Name = "Events by key",
                        Kind = Core.Sources.SourceKind.Events,
                        Limit = 100_000,
                        CreatedAt = now,
                    }
                );
            }

            db.SourceKeys.Add(
                new SourceKey
                {
                    Id = Guid.CreateVersion7(),
                    Source = "events",
                    Hash = Secrets.Hash(key),
                    Start = key[..8],
                    CreatedAt = now,
                }
            );
        }

        var token = known?.Token is { } t && await db.ApiTokens.AnyAsync(s => s.Hash == Secrets.Hash(t) && s.RevokedAt == null) ? t : null;
        if (token is null)
        {
            token = Secrets.New("pt-");
            db.ApiTokens.Add(
                new ApiToken
                {
                    Id = Guid.CreateVersion7(),
                    UserId = supervisor.Id,
                    Name = "demo.json",
                    Hash = Secrets.Hash(token),
                    CreatedAt = now,
                }
            );
        }

        await db.SaveChangesAsync();
        return new DemoFile(url, key, token, standIns, smtp, database, users);
    }

    private static async Task SetAsync(SirenaDb db, string baseAddress, string mailServer)
    {
        var business = await db.Businesses.SingleAsync();
        (business.Name, business.BaseAddress, business.TimeZone, business.Currency) = ("Averil Quay Provisions", baseAddress, "Europe/Lisbon", "EUR");
        (business.MailServer, business.MailFrom) = (mailServer, "sirena@averilquay.example");
        business.OwnFields =
        [
            new("order.extra.vessel", "Vessel")
            {
                Names = { ["pt"] = "Navio" },
                InMessages = true,
                ForCustomers = true,
            },
            new("order.extra.berth", "Berth")
            {
                Names = { ["pt"] = "Cais" },
                InLists = true,
                InMessages = true,
                InShort = true,
                ForCustomers = true,
            },
        ];
        await db.SaveChangesAsync();
    }

    private async Task RulesAsync()
    {
        await using (var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync())
        {
            db.Ladders.Add(
                new SharedLadder
                {
                    Id = "kitchen",
                    Name = "Kitchen: the head cook, then the desk",
                    Steps = """
                    [{"after":"PT20M","tell":[{"person":"tomas.reyle"}],"by":{"allAtOnce":["mail","ticket"]}},
                    {"after":"PT40M","tell":[{"person":"maren.holt"}]}]
                    """,
                    SavedBy = "Maren Holt",
                    SavedAt = clock.GetCurrentInstant(),
                }
            );
            await db.SaveChangesAsync();
        }

        var desk = services.GetRequiredService<RuleDesk>();
        var assembly = typeof(Settlement).Assembly;
        foreach (var name in assembly.GetManifestResourceNames().Where(n => n.Contains(".Rules.", StringComparison.Ordinal)).Order())
        {
            using var reader = new StreamReader(assembly.GetManifestResourceStream(name)!);
            var saved = await desk.SaveAsync(await reader.ReadToEndAsync(), yaml: true, null, "Maren Holt", CancellationToken.None);
            if (saved.Saved is null)
            {
                throw new InvalidOperationException(
                    $"The demo's rule {name} has a mistake: {string.Join("; ", saved.Errors.Select(e => $"{e.Path} {e.Problem}"))}{saved.Conflict}"
                );
            }
        }
    }

    private async Task HistoryAsync(SirenaDb db, Instant from, Instant to, int firstNumber, int aDay, int seed)
    {
        var around = (await services.GetRequiredService<SurroundingsCache>().GetAsync(CancellationToken.None)) with
        {
            // The stand-ins' gateways are connected when the application runs; the past had them.
            Gateways =
            [
                new Gateway
                {
                    Id = "phone",
                    Channel = Channel.Sms,
                    Name = "Averil phone network",
                    Address = "",
                },
                new Gateway
                {
                    Id = "chat",
                    Channel = Channel.Chat,
                    Name = "Quay team chat",
                    Address = "",
                },
            ],
        };
        var book = await services.GetRequiredService<RuleShelf>().BookAsync((await db.RuleBook.SingleAsync()).Version);
        var history = new History(new Random(seed), around, book);
        history.Fill(from, to, firstNumber, (await db.Events.MaxAsync(e => (long?)e.Id) ?? 0) + 1, aDay);
        await HistoryCopy.WriteAsync(services.GetRequiredService<NpgsqlDataSource>(), history, [.. around.Statuses.Where(s => s.Closed).Select(s => s.Id)]);
        await services.GetRequiredService<FieldWatch>().CatchUpAsync(CancellationToken.None);
    }

    // A demo that stood still for a while: what was open then has been dealt with meanwhile.
    private static async Task CloseStaleAsync(SirenaDb db, Instant now)
    {
        await db.Database.ExecuteSqlAsync($"update alerts set state = 'lapsed', ended_at = raised_at + interval '45 minutes' where state in ('open', 'taken')");
        await db.Database.ExecuteSqlAsync(
            $"update deliveries set state = 'expired', reason = 'the demo stood still', lease = null where state = 'waiting' and deadline < {now}"
        );
        await db.Database.ExecuteSqlAsync(
            $"""
            update orders set open = false, status = 'signed-for', document = jsonb_set(document::jsonb, array['status'], '"signed-for"')::json
                where open and due_at < {now}
            """
        );
    }
}
