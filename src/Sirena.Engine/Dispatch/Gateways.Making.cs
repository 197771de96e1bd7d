using System.Collections.Concurrent;
using NodaTime;
using Sirena.Channels;
using Sirena.Channels.Http;
using Sirena.Channels.Mail;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Engine.Dispatch;

public sealed partial class Gateways
{
    private IGateway Make(Gateway g, Surroundings around)
    {
        var business = around.Business;
        var print =
            $"{g.Name}|{g.Ehlo}|{g.Authority}|{g.Pin}|{g.TokenAddress}|{g.ClientId}|{g.Scope}|{g.DkimSelector}|{g.DkimKey}|{Print(around.Senders)}|{g.Address}"
            + $"|{g.Width}|{g.Encryption}|{g.User}|{g.Sender}|{g.Body}|{g.IdAt}|{g.ErrorAt}|{g.Secret}|"
            + $"{string.Join(';', g.Headers.Select(h => $"{h.Key}={h.Value}"))}|{business.BaseAddress}|{business.MailFrom}|{business.Name}|"
            + $"{Takes(business)}|{Print(business.Logo)}";
        return Make(g.Id, print, () => g.Channel == Channel.Mail ? new MailGateway(Mail(g, around), time) : new HttpGateway(Http(g, business), hosts, time));
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
        return g is null || g.Channel == Channel.Mail
            ? await MailProbe.RunAsync(g is null ? OfSettings(around) : Mail(g, around), message, time.GetUtcNow(), time, ways, cancel)
            : await HttpProbe.RunAsync(Http(g, business), hosts, message, time, ways, cancel);
    }

    /// <summary>Sends one message from a sender that may not be verified yet, by the first gateway that it may use.</summary>
    public async Task<HandOver> SendAsAsync(Sender sender, OutgoingMessage message, Surroundings around, CancellationToken cancel)
    {
        var g = around
            .Gateways.Where(x => x is { Channel: Channel.Mail, On: true } && (sender.Gateways.Count == 0 || sender.Gateways.Contains(x.Id)))
            .MinBy(x => x.Position);
        var settings = (g is null ? OfSettings(around) : Mail(g, around)) with
        {
            From = sender.Address,
            FromName = sender.Name,
            Senders = new Dictionary<Audience, MailSender>(),
        };
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
        return AlertMail.Make(
            message,
            around.Gateways.FirstOrDefault(g => g.Channel == Channel.Mail && g.Name == gateway) is { } g ? Mail(g, around) : OfSettings(around),
            at.ToDateTimeOffset()
        );
    }

    private MailSettings Mail(Gateway g, Surroundings around) =>
        g.Id != Gateway.OfSettings && MailSettings.Server(g.Address) is var (host, port)
            ? Common(
                new MailSettings(
                    host,
                    port,
                    g.Sender ?? around.Business.MailFrom,
                    around.Business.Name,
                    g.Encryption,
                    g.User,
                    g.TokenAddress is null ? Open(g.Secret) : null,
                    g.Width,
                    g.Name
                ),
                around,
                g
            ) with
            {
                Authority = g.Authority,
                Pin = g.Pin,
                Dkim = g.DkimSelector is { } selector && Open(g.DkimKey) is { } key ? new DkimSettings(selector, key) : null,
                Token =
                    g.TokenAddress is { } token && g.ClientId is { } client ? new TokenSettings(new Uri(token), client, Open(g.Secret) ?? "", g.Scope) : null,
            }
            : OfSettings(around);

    private MailSettings Common(MailSettings mail, Surroundings around, Gateway? gateway)
    {
        var key = LinkKey(around.Business);
        return mail with
        {
            Logo = around.Business.Logo,
            Ehlo = gateway?.Ehlo ?? MailSettings.NameIn(around.Business.BaseAddress),
            ReturnKey = Takes(around.Business) ? key : null,
            Unsubscribe = key is null ? null : to => $"{around.Business.BaseAddress}/u/{LinkMac.For(to.ToLowerInvariant(), key)}",
            Senders = Enum.GetValues<Audience>()
                .Select(a => (Audience: a, Sender: Sender.For(around.Senders, a, gateway?.Id)))
                .Where(s => s.Sender is not null)
                .ToDictionary(s => s.Audience, s => new MailSender(s.Sender!.Address, s.Sender.Name, s.Sender.ReplyTo)),
        };
    }

    private HttpSettings Http(Gateway g, Business business) =>
        new(
            g.Channel,
            g.Name,
            new Uri(g.Address),
            g.Headers.ToDictionary(h => h.Key, h => OpenHeader(h.Value)),
            g.Body ?? DefaultBody,
            g.IdAt,
            g.ErrorAt,
            Open(g.Secret),
            $"{business.BaseAddress}/api/receipts/{g.Id}",
            g.Width
        );

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
    private IGateway Make(string id, string print, Func<IGateway> make) =>
        made.AddOrUpdate(
            id,
            _ => (print, make()),
            (_, old) =>
            {
                if (old.Print == print)
                {
                    return old;
                }

                // What was known of it was known of its old settings.
                health[id] = GatewayHealth.New;
                return (print, make());
            }
        ).Gateway;

    /// <summary>The lines as they follow from one reading of the settings.</summary>
    private sealed class Kept(Surroundings around)
    {
        public Surroundings Around => around;

        public ConcurrentDictionary<Channel, IReadOnlyList<Line>> Lines { get; } = [];
    }
}
