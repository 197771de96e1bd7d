using System.Collections.Concurrent;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Channels;
using Sirena.Channels.Http;
using Sirena.Channels.Push;
using Sirena.Channels.Ticket;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Storage;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>What a try says of its gateway.</summary>
/// <param name="Before">What was known before.</param>
/// <param name="After">What is known now.</param>
/// <param name="OthersWork">Another gateway of the channel can take over at once.</param>
public sealed record Noted(GatewayHealth Before, GatewayHealth After, bool OthersWork);

/// <summary>
/// The gateways as they are set, in order, made anew when the settings change. One that fails rests for a growing pause; then a few messages try it again.
/// </summary>
public sealed partial class Gateways(
    SurroundingsCache surroundings,
    IDbContextFactory<SirenaDb> factory,
    IServiceProvider services,
    OutsideHosts hosts,
    DeliveryQueue queue,
    TimeProvider time,
    IClock clock,
    Signals signals
) : IAsyncDisposable
{
    private readonly ConcurrentDictionary<string, (string Print, IGateway Gateway)> made = [];
    private readonly ConcurrentDictionary<string, GatewayHealth> health = [];
    private readonly TicketGateway tickets = new();
    private readonly PushGateway push = services.GetRequiredService<PushGateway>();
    private const string Closed = "closed:";
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

        return
        [
            .. around
                .AllGateways.Where(g => g.Channel == channel && g.On)
                .OrderBy(g => g.Position)
                .ThenBy(g => g.Id, StringComparer.Ordinal)
                .Select(g => new Line(g.Id, Make(g, around)) { Settings = g, Pace = Pace(g) }),
        ];
    }

    /// <summary>The gateway that is to take the next message: the first that works; <see langword="null"/> when all rest.</summary>
    /// <param name="channel">The channel.</param>
    /// <param name="without">The ids of those that are not to be asked.</param>
    public async Task<Line?> PickAsync(Channel channel, CancellationToken cancel, IReadOnlyCollection<string>? without = null)
    {
        var now = clock.GetCurrentInstant();
        foreach (var line in await OfAsync(channel, cancel))
        {
            if (line.Id is null)
            {
                return line;
            }

            var known = HealthOf(line.Id);
            if (without?.Contains(line.Id) == true || known.RestsUntil > now)
            {
                continue;
            }

            if (known.Works)
            {
                return line;
            }

            // The pause is over: a few messages try it, the others go on to the next until it is seen to work.
            if (known.Tried(now) is { } tried && health.TryUpdate(line.Id, tried, known))
            {
                return line with { Trial = true };
            }
        }

        return null;
    }

    /// <summary>It failed, or asked to be left alone.</summary>
    public bool Rests(Line line) => line.Id is { } id && HealthOf(id) is var known && (!known.Works || known.RestsUntil > clock.GetCurrentInstant());

    /// <summary>What is known of a gateway.</summary>
    public GatewayHealth HealthOf(string id) => health.GetOrAdd(id, GatewayHealth.New);

    /// <summary>The first mail gateway that does not rest, else the first at all.</summary>
    public async Task<IGateway> MailAsync(CancellationToken cancel) =>
        (await PickAsync(Channel.Mail, cancel) ?? (await OfAsync(Channel.Mail, cancel))[0]).Gateway;

    /// <summary>Notes how a try with a gateway went.</summary>
    /// <param name="line">The gateway.</param>
    /// <param name="channel">The channel.</param>
    /// <param name="message">The message that was tried.</param>
    /// <param name="address">Its address.</param>
    /// <param name="result">What the far end said.</param>
    public async Task<Noted> NoteAsync(Line line, Channel channel, Guid message, string address, HandOver result, CancellationToken cancel)
    {
        if (line.Id is not { } id)
        {
            return new Noted(GatewayHealth.New, GatewayHealth.New, false);
        }

        GatewayHealth before,
            after;
        do
        {
            before = HealthOf(id);
            after = before.After(message, address, result, clock.GetCurrentInstant());
        } while (!health.TryUpdate(id, after, before));
        var now = clock.GetCurrentInstant();
        var others = (await OfAsync(channel, cancel)).Any(l =>
            l.Id is not null && l.Id != id && HealthOf(l.Id) is var other && other.Works && other.RestsUntil <= now
        );
        if (!after.Works && (before.Works || before.Because != after.Because))
        {
            await MarkAsync(id, after.Because ?? result.Reply, cancel);
            if (before.Works && !after.Refused.IsEmpty)
            {
                await TakeBackAsync(after.Refused.Values.ToArray(), new TakenBack(id, $"{line.Gateway.Name} refuses everybody; it is sent again", now), cancel);
            }
        }
        else if (after.Works && (!before.Works || (result.Outcome == AttemptOutcome.Accepted && line.Settings?.FailingSince is not null)))
        {
            await MarkAsync(id, null, cancel);
        }

        if (before.Works != after.Works)
        {
            // What waits behind its pauses goes by the next at once, or by this one that works again.
            await queue.HurryAsync(channel, now, cancel);
            signals.Raise(Topic.Deliveries);
        }

        return new Noted(before, after, others);
    }

    /// <summary>A gateway's secret in plain, or <see langword="null"/>.</summary>
    public string? Open(string? secret) => secret is null ? null : Protector?.Unprotect(secret);

    /// <summary>A header's value in plain.</summary>
    public string OpenHeader(string kept) => kept.StartsWith(Closed, StringComparison.Ordinal) ? Open(kept[Closed.Length..]) ?? "" : kept;

    /// <summary>A header's value as it is kept: it may be a key.</summary>
    public string CloseHeader(string plain) => Close(plain) is { } closed ? Closed + closed : "";

    /// <summary>A secret as it is kept.</summary>
    public string? Close(string? plain) =>
        string.IsNullOrEmpty(plain) ? null : (Protector ?? throw new InvalidOperationException("No key is set with which secrets are kept.")).Protect(plain);

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

    // One node of several sees the change first: only it tells of it.
    private async Task MarkAsync(string id, string? error, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var (first, again) = id == Gateway.OfSettings ? await MarkSettingsAsync(db, error, now, cancel) : await MarkRowAsync(db, id, error, now, cancel);
        if (first == 0 && again == 0)
        {
            return;
        }

        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Pages);
        if (first > 0 && Changed is { } told && (await surroundings.GetAsync(cancel)).AllGateways.FirstOrDefault(g => g.Id == id) is { } gateway)
        {
            await told(gateway, error is not null, error ?? "");
        }
    }

    private static async Task<(int First, int Again)> MarkRowAsync(SirenaDb db, string id, string? error, Instant now, CancellationToken cancel) =>
        error is null
            ? (
                await db
                    .Gateways.Where(g => g.Id == id && g.FailingSince != null)
                    .ExecuteUpdateAsync(s => s.SetProperty(g => g.FailingSince, (Instant?)null).SetProperty(g => g.LastGoodAt, now), cancel),
                0
            )
            : (
                await db
                    .Gateways.Where(g => g.Id == id && g.FailingSince == null)
                    .ExecuteUpdateAsync(s => s.SetProperty(g => g.FailingSince, now).SetProperty(g => g.LastError, error), cancel),
                await db.Gateways.Where(g => g.Id == id && g.LastError != error).ExecuteUpdateAsync(s => s.SetProperty(g => g.LastError, error), cancel)
            );

    private static async Task<(int First, int Again)> MarkSettingsAsync(SirenaDb db, string? error, Instant now, CancellationToken cancel) =>
        error is null
            ? (
                await db
                    .Businesses.Where(b => b.MailFailingSince != null)
                    .ExecuteUpdateAsync(s => s.SetProperty(b => b.MailFailingSince, (Instant?)null).SetProperty(b => b.MailLastGoodAt, now), cancel),
                0
            )
            : (
                await db
                    .Businesses.Where(b => b.MailFailingSince == null)
                    .ExecuteUpdateAsync(s => s.SetProperty(b => b.MailFailingSince, now).SetProperty(b => b.MailLastError, error), cancel),
                await db.Businesses.Where(b => b.MailLastError != error).ExecuteUpdateAsync(s => s.SetProperty(b => b.MailLastError, error), cancel)
            );

    /// <summary>
    /// The key of return addresses, of links that end a customer's mail, and of what push messages call back; <see langword="null"/> before the first start.
    /// </summary>
    public byte[]? LinkKey(Business business) => Open(business.ReportKey) is { } key ? Convert.FromBase64String(key) : null;

    // Reports are asked for only where somebody reads them: a node that listens, or a mailbox.
    private static bool Takes(Business business) => business.ReportsTaken || business.ReportMailbox is not null;

    private static string Print(byte[]? logo) => logo is null ? "" : Convert.ToHexString(System.Security.Cryptography.SHA256.HashData(logo))[..16];

    private static string Print(IEnumerable<Sender> senders) =>
        string.Join(
            ';',
            senders
                .Where(s => s.VerifiedAt is not null)
                .Select(s => $"{s.Id},{s.Name},{s.Address},{s.ReplyTo},{string.Join(' ', s.Purposes)},{string.Join(' ', s.Gateways)}")
        );

    private System.Threading.RateLimiting.RateLimiter? Pace(Gateway g)
    {
        if (g.PerMinute is not { } rate)
        {
            return null;
        }

        return paces.AddOrUpdate(g.Id, _ => (rate, Limiter(rate)), (_, old) => old.PerMinute == rate ? old : (rate, Limiter(rate))).Limiter;

        // A tenth of a minute's worth at once, the rest as the minute goes.
        static System.Threading.RateLimiting.TokenBucketRateLimiter Limiter(int perMinute) =>
            new(
                new()
                {
                    TokenLimit = Math.Max(1, perMinute / 10),
                    TokensPerPeriod = 1,
                    ReplenishmentPeriod = TimeSpan.FromMinutes(1.0 / perMinute),
                    QueueLimit = int.MaxValue,
                    AutoReplenishment = true,
                }
            );
    }
}
