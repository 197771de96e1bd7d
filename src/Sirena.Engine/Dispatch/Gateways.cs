using System.Collections.Concurrent;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Channels;
using Sirena.Channels.Http;
using Sirena.Channels.Mail;
using Sirena.Channels.Push;
using Sirena.Channels.Ticket;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Storage;

namespace Sirena.Engine.Dispatch;

/// <summary>A gateway that can be used, with what this node knows of its health.</summary>
/// <param name="Id">Its id, or <see langword="null"/> for one that follows from the settings.</param>
/// <param name="Gateway">The connection.</param>
/// <param name="Trial">It rested because it failed: one message tries whether it works again.</param>
public sealed record Line(string? Id, IGateway Gateway, bool Trial = false)
{
    /// <summary>Its settings, where it has a row of its own.</summary>
    public Gateway? Settings { get; init; }

    /// <summary>Keeps to its rate; <see langword="null"/> when it has none.</summary>
    public System.Threading.RateLimiting.RateLimiter? Pace { get; init; }
}

/// <summary>The gateways as they are set, in order, made anew when the settings change. One that fails rests for a growing pause; then one message tries it again.</summary>
public sealed class Gateways(SurroundingsCache surroundings, IDbContextFactory<SirenaDb> factory, IServiceProvider services, TimeProvider time, IClock clock, Signals signals) : IAsyncDisposable
{
    private static readonly Duration[] Pauses = [Duration.FromSeconds(5), Duration.FromSeconds(20), Duration.FromMinutes(1), Duration.FromMinutes(5)];
    private readonly ConcurrentDictionary<string, (string Print, IGateway Gateway)> made = [];
    private readonly ConcurrentDictionary<string, (int Failures, Instant RetryAt)> failing = [];
    private readonly TicketGateway tickets = new();
    private readonly PushGateway push = services.GetRequiredService<PushGateway>();
    private Kept? kept;

    private readonly ConcurrentDictionary<string, (int PerMinute, System.Threading.RateLimiting.RateLimiter Limiter)> paces = [];

    /// <summary>Raised once when a gateway breaks, and once when it is back.</summary>
    public event Func<Gateway, bool, string, Task>? Changed;

    /// <summary>The gateways of a channel in order; worked out once for each reading of the settings.</summary>
    public async Task<IReadOnlyList<Line>> OfAsync(Channel channel, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var known = kept;
        if (known is null || !ReferenceEquals(known.Around, around))
        {
            kept = known = new Kept(around);
        }

        return known.Lines.GetOrAdd(channel, c => Of(c, around));
    }

    private IReadOnlyList<Line> Of(Channel channel, Surroundings around)
    {
        if (channel == Channel.Ticket)
        {
            return [new Line(null, tickets)];
        }

        if (channel == Channel.Push)
        {
            return [new Line(null, push)];
        }

        Line[] set = [.. around.Gateways.Where(g => g.Channel == channel && g.On).OrderBy(g => g.Position).ThenBy(g => g.Id, StringComparer.Ordinal).Select(g => new Line(g.Id, Make(g, around)) { Settings = g, Pace = Pace(g) })];
        return set.Length > 0 || channel != Channel.Mail ? set : [new Line(null, Make("", $"{around.Business.MailServer}|{around.Business.MailFrom}|{around.Business.Name}|{around.Business.BaseAddress}|{Takes(around.Business)}|{Print(around.Senders)}|{Print(around.Business.Logo)}", () => new MailGateway(OfSettings(around), time)))];
    }

    /// <summary>The gateway that is to take the next message: the first that does not rest; <see langword="null"/> when all do.</summary>
    public async Task<Line?> PickAsync(Channel channel, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        foreach (var line in await OfAsync(channel, cancel))
        {
            if (line.Id is null || !failing.TryGetValue(line.Id, out var rest))
            {
                return line;
            }

            // The pause is over: one message tries it, the others go on to the next until it is seen to work.
            if (rest.RetryAt <= now && failing.TryUpdate(line.Id, rest with { RetryAt = now + Pause(rest.Failures) }, rest))
            {
                return line with { Trial = true };
            }
        }

        return null;
    }

    /// <summary>It failed, and its pause is not over.</summary>
    public bool Rests(Line line) => line.Id is { } id && failing.ContainsKey(id);

    /// <summary>The first mail gateway that does not rest, else the first at all.</summary>
    public async Task<IGateway> MailAsync(CancellationToken cancel) => (await PickAsync(Channel.Mail, cancel) ?? (await OfAsync(Channel.Mail, cancel))[0]).Gateway;

    /// <summary>Notes how a try with a gateway went.</summary>
    /// <returns>Whether another gateway of the channel can take over at once.</returns>
    public async Task<bool> NoteAsync(Line line, Channel channel, HandOver result, CancellationToken cancel)
    {
        if (line.Id is not { } id)
        {
            return false;
        }

        if (result.Outcome != AttemptOutcome.Gateway)
        {
            if (result.Outcome is AttemptOutcome.Accepted or AttemptOutcome.Permanent && failing.TryRemove(id, out _))
            {
                await MarkAsync(id, null, cancel);
            }

            return false;
        }

        var now = clock.GetCurrentInstant();
        var first = !failing.ContainsKey(id);
        failing.AddOrUpdate(id, _ => (1, now + Pause(1)), (_, old) => (old.Failures + 1, now + Pause(old.Failures + 1)));
        if (first)
        {
            await MarkAsync(id, result.Reply, cancel);
        }

        return (await OfAsync(channel, cancel)).Any(l => l.Id is not null && !failing.ContainsKey(l.Id));
    }

    /// <summary>A gateway's secret in plain, or <see langword="null"/>.</summary>
    public string? Open(string? secret) => secret is null ? null : Protector?.Unprotect(secret);

    /// <summary>A secret as it is kept.</summary>
    public string? Close(string? plain) => string.IsNullOrEmpty(plain) ? null : (Protector ?? throw new InvalidOperationException("No key is set with which secrets are kept.")).Protect(plain);

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (var (_, gateway) in made.Values)
        {
            await gateway.DisposeAsync();
        }

        await tickets.DisposeAsync();
        await push.DisposeAsync();
        foreach (var (_, limiter) in paces.Values)
        {
            await limiter.DisposeAsync();
        }
    }

    private IDataProtector? Protector => services.GetService<IDataProtectionProvider>()?.CreateProtector("gateways");

    private static Duration Pause(int failures) => Pauses[Math.Min(failures, Pauses.Length) - 1];

    // One node of several sees the change first: only it tells of it.
    private async Task MarkAsync(string id, string? error, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var changed = error is not null
            ? await db.Gateways.Where(g => g.Id == id && g.FailingSince == null).ExecuteUpdateAsync(s => s.SetProperty(g => g.FailingSince, now).SetProperty(g => g.LastError, error), cancel)
            : await db.Gateways.Where(g => g.Id == id && g.FailingSince != null).ExecuteUpdateAsync(s => s.SetProperty(g => g.FailingSince, (Instant?)null).SetProperty(g => g.LastGoodAt, now), cancel);
        if (changed == 0)
        {
            return;
        }

        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Pages);
        if (Changed is { } told && await db.Gateways.AsNoTracking().FirstOrDefaultAsync(g => g.Id == id, cancel) is { } gateway)
        {
            await told(gateway, error is not null, error ?? "");
        }
    }

    /// <summary>The key of return addresses, of links that end a customer's mail, and of what push messages call back; <see langword="null"/> before the first start.</summary>
    public byte[]? LinkKey(Business business) => Open(business.ReportKey) is { } key ? Convert.FromBase64String(key) : null;

    // Reports are asked for only where somebody reads them: a node that listens, or a mailbox.
    private static bool Takes(Business business) => business.ReportsTaken || business.ReportMailbox is not null;

    private static string Print(byte[]? logo) => logo is null ? "" : Convert.ToHexString(System.Security.Cryptography.SHA256.HashData(logo))[..16];

    private static string Print(IEnumerable<Sender> senders) => string.Join(';', senders.Where(s => s.VerifiedAt is not null).Select(s => $"{s.Id},{s.Name},{s.Address},{s.ReplyTo},{string.Join(' ', s.Purposes)},{string.Join(' ', s.Gateways)}"));

    private System.Threading.RateLimiting.RateLimiter? Pace(Gateway g)
    {
        if (g.PerMinute is not { } rate)
        {
            return null;
        }

        return paces.AddOrUpdate(g.Id, _ => (rate, Limiter(rate)), (_, old) => old.PerMinute == rate ? old : (rate, Limiter(rate))).Limiter;

        // A tenth of a minute's worth at once, the rest as the minute goes.
        static System.Threading.RateLimiting.TokenBucketRateLimiter Limiter(int perMinute) => new(new()
        {
            TokenLimit = Math.Max(1, perMinute / 10),
            TokensPerPeriod = 1,
            ReplenishmentPeriod = TimeSpan.FromMinutes(1.0 / perMinute),
            QueueLimit = int.MaxValue,
            AutoReplenishment = true,
        });
    }

    private IGateway Make(Gateway g, Surroundings around)
    {
        var business = around.Business;
        var print = $"{g.Name}|{g.TokenAddress}|{g.ClientId}|{g.Scope}|{g.DkimSelector}|{g.DkimKey}|{Print(around.Senders)}|{g.Address}|{g.Width}|{g.Encryption}|{g.User}|{g.Sender}|{g.Body}|{g.IdAt}|{g.ErrorAt}|{g.Secret}|{string.Join(';', g.Headers.Select(h => $"{h.Key}={h.Value}"))}|{business.BaseAddress}|{business.MailFrom}|{business.Name}|{Takes(business)}|{Print(business.Logo)}";
        return Make(g.Id, print, () => g.Channel == Channel.Mail ? new MailGateway(Mail(g, around), time) : new HttpGateway(Http(g, business), time));
    }

    /// <summary>Sends a test message through a gateway, step by step.</summary>
    /// <param name="g">The gateway; <see langword="null"/> for the mail server of the settings.</param>
    /// <param name="id">The message's id.</param>
    /// <param name="to">An address of one's own.</param>
    /// <param name="ways">What it tells while it goes.</param>
    public async Task<ProbeResult> TestAsync(Gateway? g, Guid id, string to, ProbeWays ways, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var business = around.Business;
        var message = new OutgoingMessage(id, to, null, $"A test from {business.Name}", TestText(business), null);
        return g is null || g.Channel == Channel.Mail ? await MailProbe.RunAsync(g is null ? OfSettings(around) : Mail(g, around), message, time.GetUtcNow(), time, ways, cancel) : await HttpProbe.RunAsync(Http(g, business), message, time, ways, cancel);
    }

    /// <summary>Sends one message from a sender that may not be verified yet, by the first gateway that it may use.</summary>
    public async Task<HandOver> SendAsAsync(Sender sender, OutgoingMessage message, Surroundings around, CancellationToken cancel)
    {
        var g = around.Gateways.Where(x => x is { Channel: Channel.Mail, On: true } && (sender.Gateways.Count == 0 || sender.Gateways.Contains(x.Id))).MinBy(x => x.Position);
        var settings = (g is null ? OfSettings(around) : Mail(g, around)) with { From = sender.Address, FromName = sender.Name, Senders = new Dictionary<Audience, MailSender>() };
        await using var gateway = new MailGateway(settings, time);
        return await gateway.HandOverAsync(message, cancel);
    }

    /// <summary>A mail as it goes out, or went: the RFC 5322 message.</summary>
    /// <param name="gateway">The name of the gateway that took it, or <see langword="null"/>.</param>
    /// <param name="message">The message.</param>
    /// <param name="at">Its date.</param>
    public async Task<MimeKit.MimeMessage> LetterAsync(string? gateway, OutgoingMessage message, Instant at, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        return AlertMail.Make(message, around.Gateways.FirstOrDefault(g => g.Channel == Channel.Mail && g.Name == gateway) is { } g ? Mail(g, around) : OfSettings(around), at.ToDateTimeOffset());
    }

    private MailSettings Mail(Gateway g, Surroundings around) => MailSettings.Server(g.Address) is var (host, port)
        ? Common(new MailSettings(host, port, g.Sender ?? around.Business.MailFrom, around.Business.Name, g.Encryption, g.User, g.TokenAddress is null ? Open(g.Secret) : null, g.Width, g.Name), around, g.Id) with
        {
            Dkim = g.DkimSelector is { } selector && Open(g.DkimKey) is { } key ? new DkimSettings(selector, key) : null,
            Token = g.TokenAddress is { } token && g.ClientId is { } client ? new TokenSettings(new Uri(token), client, Open(g.Secret) ?? "", g.Scope) : null,
        }
        : OfSettings(around);

    private MailSettings Common(MailSettings mail, Surroundings around, string? gateway)
    {
        var key = LinkKey(around.Business);
        return mail with
        {
            Logo = around.Business.Logo,
            ReturnKey = Takes(around.Business) ? key : null,
            Unsubscribe = key is null ? null : to => $"{around.Business.BaseAddress}/u/{LinkMac.For(to.ToLowerInvariant(), key)}",
            Senders = Enum.GetValues<Audience>().Select(a => (Audience: a, Sender: Sender.For(around.Senders, a, gateway))).Where(s => s.Sender is not null).ToDictionary(s => s.Audience, s => new MailSender(s.Sender!.Address, s.Sender.Name, s.Sender.ReplyTo)),
        };
    }

    private HttpSettings Http(Gateway g, Business business) =>
        new(g.Channel, g.Name, new Uri(g.Address), g.Headers, g.Body ?? DefaultBody, g.IdAt, g.ErrorAt, Open(g.Secret), $"{business.BaseAddress}/api/receipts/{g.Id}", g.Width);

    /// <summary>What a test says.</summary>
    public static string TestText(Business business) => $"A test from {business.Name}, by Sirena. Nothing is to be done.";

    /// <summary>The body of a gateway that sets none.</summary>
    public const string DefaultBody = """{"id":"{{id}}","to":"{{to}}","text":"{{text}}","receipts":"{{receipts}}"}""";

    private MailSettings OfSettings(Surroundings around)
    {
        var (host, port) = MailSettings.Server(around.Business.MailServer) ?? ("127.0.0.1", 25);
        return Common(new MailSettings(host, port, around.Business.MailFrom, around.Business.Name), around, null);
    }

    // The one that a change replaced is not disposed of at once: messages may be on their way through it. A failing one is tried at once with its new settings.
    private IGateway Make(string id, string print, Func<IGateway> make) => made.AddOrUpdate(id, _ => (print, make()), (_, old) =>
    {
        if (old.Print == print)
        {
            return old;
        }

        if (failing.TryGetValue(id, out var rest))
        {
            failing.TryUpdate(id, rest with { RetryAt = Instant.MinValue }, rest);
        }

        return (print, make());
    }).Gateway;

    /// <summary>The lines as they follow from one reading of the settings.</summary>
    private sealed class Kept(Surroundings around)
    {
        public Surroundings Around => around;

        public ConcurrentDictionary<Channel, IReadOnlyList<Line>> Lines { get; } = [];
    }
}
