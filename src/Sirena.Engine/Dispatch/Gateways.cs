using System.Collections.Concurrent;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Channels;
using Sirena.Channels.Http;
using Sirena.Channels.Mail;
using Sirena.Channels.Ticket;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Storage;

namespace Sirena.Engine.Dispatch;

/// <summary>A gateway that can be used, with what this node knows of its health.</summary>
/// <param name="Id">Its id, or <see langword="null"/> for one that follows from the settings.</param>
/// <param name="Gateway">The connection.</param>
/// <param name="Trial">It rested because it failed: one message tries whether it works again.</param>
public sealed record Line(string? Id, IGateway Gateway, bool Trial = false);

/// <summary>The gateways as they are set, in order, made anew when the settings change. One that fails rests for a growing pause; then one message tries it again.</summary>
public sealed class Gateways(SurroundingsCache surroundings, IDbContextFactory<SirenaDb> factory, IServiceProvider services, TimeProvider time, IClock clock, Signals signals) : IAsyncDisposable
{
    private static readonly Duration[] Pauses = [Duration.FromSeconds(5), Duration.FromSeconds(20), Duration.FromMinutes(1), Duration.FromMinutes(5)];
    private readonly ConcurrentDictionary<string, (string Print, IGateway Gateway)> made = [];
    private readonly ConcurrentDictionary<string, (int Failures, Instant RetryAt)> failing = [];
    private readonly TicketGateway tickets = new();
    private Kept? kept;

    /// <summary>The key of return addresses while reports about mail are taken by a node of this business; <see langword="null"/> while none are.</summary>
    public byte[]? ReturnKey { get; set; }

    /// <summary>Raised once when a gateway breaks, and once when it is back.</summary>
    public event Func<Gateway, bool, string, Task>? Changed;

    /// <summary>The gateways of a channel in order; worked out once for each reading of the settings.</summary>
    public async Task<IReadOnlyList<Line>> OfAsync(Channel channel, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var known = kept;
        if (known is null || !ReferenceEquals(known.Around, around) || known.ReturnKey != ReturnKey)
        {
            kept = known = new Kept(around, ReturnKey);
        }

        return known.Lines.GetOrAdd(channel, c => Of(c, around));
    }

    private IReadOnlyList<Line> Of(Channel channel, Surroundings around)
    {
        if (channel == Channel.Ticket)
        {
            return [new Line(null, tickets)];
        }

        Line[] set = [.. around.Gateways.Where(g => g.Channel == channel && g.On).OrderBy(g => g.Position).ThenBy(g => g.Id, StringComparer.Ordinal).Select(g => new Line(g.Id, Make(g, around.Business)))];
        return set.Length > 0 || channel != Channel.Mail ? set : [new Line(null, Make("", $"{around.Business.MailServer}|{around.Business.MailFrom}|{around.Business.Name}|{ReturnKey is not null}", () => new MailGateway(OfSettings(around.Business), time)))];
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

    private IGateway Make(Gateway g, Business business)
    {
        var print = $"{g.Name}|{g.Address}|{g.Width}|{g.Encryption}|{g.User}|{g.Sender}|{g.Body}|{g.IdAt}|{g.ErrorAt}|{g.Secret}|{string.Join(';', g.Headers.Select(h => $"{h.Key}={h.Value}"))}|{business.BaseAddress}|{business.MailFrom}|{business.Name}|{ReturnKey is not null}";
        return Make(g.Id, print, () => g.Channel == Channel.Mail ? new MailGateway(Mail(g, business), time) : new HttpGateway(Http(g, business), time));
    }

    /// <summary>Sends a test message through a gateway, step by step.</summary>
    /// <param name="g">The gateway; <see langword="null"/> for the mail server of the settings.</param>
    /// <param name="to">An address of one's own.</param>
    public async Task<ProbeResult> TestAsync(Gateway? g, string to, CancellationToken cancel)
    {
        var business = (await surroundings.GetAsync(cancel)).Business;
        var message = new OutgoingMessage(Guid.CreateVersion7(), to, null, $"A test from {business.Name}", $"A test from {business.Name}, by Sirena. Nothing is to be done.", null);
        return g is null || g.Channel == Channel.Mail ? await MailProbe.RunAsync(g is null ? OfSettings(business) : Mail(g, business), message, time.GetUtcNow(), cancel) : await HttpProbe.RunAsync(Http(g, business), message, time, cancel);
    }

    private MailSettings Mail(Gateway g, Business business) => MailSettings.Server(g.Address) is var (host, port)
        ? new MailSettings(host, port, g.Sender ?? business.MailFrom, business.Name, g.Encryption, g.User, Open(g.Secret), g.Width, g.Name, ReturnKey) : OfSettings(business);

    private HttpSettings Http(Gateway g, Business business) =>
        new(g.Channel, g.Name, new Uri(g.Address), g.Headers, g.Body ?? DefaultBody, g.IdAt, g.ErrorAt, Open(g.Secret), $"{business.BaseAddress}/api/receipts/{g.Id}", g.Width);

    /// <summary>The body of a gateway that sets none.</summary>
    public const string DefaultBody = """{"id":"{{id}}","to":"{{to}}","text":"{{text}}","receipts":"{{receipts}}"}""";

    private MailSettings OfSettings(Business business)
    {
        var (host, port) = MailSettings.Server(business.MailServer) ?? ("127.0.0.1", 25);
        return new MailSettings(host, port, business.MailFrom, business.Name, ReturnKey: ReturnKey);
    }

    // The one that a change replaced is not disposed of at once: messages may be on their way through it.
    private IGateway Make(string id, string print, Func<IGateway> make) => made.AddOrUpdate(id, _ => (print, make()), (_, old) => old.Print == print ? old : (print, make())).Gateway;

    /// <summary>The lines as they follow from one reading of the settings.</summary>
    private sealed class Kept(Surroundings around, byte[]? returnKey)
    {
        public Surroundings Around => around;

        public byte[]? ReturnKey => returnKey;

        public ConcurrentDictionary<Channel, IReadOnlyList<Line>> Lines { get; } = [];
    }
}
