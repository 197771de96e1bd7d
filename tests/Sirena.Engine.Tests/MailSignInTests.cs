using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;
using MimeKit;
using MimeKit.Cryptography;
using Org.BouncyCastle.Crypto;
using Sirena.Channels;
using Sirena.Channels.Mail;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Demo.StandIns;

namespace Sirena.Engine.Tests;

/// <summary>Signing in with an access token, signing mail, senders by reader, and what a domain publishes.</summary>
public sealed class MailSignInTests
{
    private static readonly OutgoingMessage Message = new(
        Guid.NewGuid(),
        "purser@corvane.example",
        "AQ-1",
        "Your order",
        "It is loaded.",
        "<p>It is loaded.</p>",
        Audience.Customer
    );

    [Fact]
    public async Task An_access_token_is_asked_for_once_and_opens_the_mailbox()
    {
        await using var provider = await TokensAsync();
        await using var server = new BearerServer("mail-token");
        var settings = new MailSettings("127.0.0.1", server.Port, "desk@averilquay.example", "Desk", User: "desk@averilquay.example", Width: 1)
        {
            Token = new TokenSettings(new Uri(provider.Urls.First() + "/token"), "sirena", "right", "mail.send"),
        };
        await using var gateway = new MailGateway(settings, TimeProvider.System);
        Assert.Equal(AttemptOutcome.Accepted, (await gateway.HandOverAsync(Message, default)).Outcome);
        Assert.Contains("auth=Bearer mail-token", server.SignedIn);
        var probe = await MailProbe.RunAsync(settings, Message, DateTimeOffset.UtcNow, TimeProvider.System, new ProbeWays(), default);
        Assert.Equal("as desk@averilquay.example", probe.Steps.Single(s => s.Name == "signed in").Found);
        Assert.DoesNotContain(probe.Lines, l => l.Text.Contains("mail-token", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_client_that_the_provider_does_not_know_is_the_gateway_s_fault_in_its_words()
    {
        await using var provider = await TokensAsync();
        await using var server = new BearerServer("mail-token");
        var settings = new MailSettings("127.0.0.1", server.Port, "desk@averilquay.example", "Desk", User: "desk@averilquay.example")
        {
            Token = new TokenSettings(new Uri(provider.Urls.First() + "/token"), "sirena", "wrong", null),
        };
        await using var gateway = new MailGateway(settings, TimeProvider.System);
        var result = await gateway.HandOverAsync(Message, default);
        Assert.Equal(AttemptOutcome.Gateway, result.Outcome);
        Assert.Contains("The client's secret is not right", result.Reply);
        var probe = await MailProbe.RunAsync(settings, Message, DateTimeOffset.UtcNow, TimeProvider.System, new ProbeWays(), default);
        Assert.Equal("The access token was not had, or not accepted.", probe.Fact);
    }

    [Fact]
    public void A_signed_mail_holds_against_the_published_key_and_not_when_it_was_changed()
    {
        using var pair = RSA.Create(2048);
        var settings = new MailSettings("mail.example", 25, "desk@averilquay.example", "Desk")
        {
            Dkim = new DkimSettings("sirena", pair.ExportPkcs8PrivateKeyPem()),
        };
        using var mail = AlertMail.Make(Message, settings, DateTimeOffset.UtcNow);
        var published = new Published("sirena", "averilquay.example", $"v=DKIM1; k=rsa; p={Convert.ToBase64String(pair.ExportSubjectPublicKeyInfo())}");
        Assert.True(new DkimVerifier(published).Verify(mail, mail.Headers[mail.Headers.IndexOf(HeaderId.DkimSignature)]));
        mail.Subject = "Your other order";
        Assert.False(new DkimVerifier(published).Verify(mail, mail.Headers[mail.Headers.IndexOf(HeaderId.DkimSignature)]));
    }

    [Fact]
    public void Customers_mail_comes_from_their_sender_and_says_where_it_can_be_ended()
    {
        var settings = new MailSettings("mail.example", 25, "desk@averilquay.example", "Desk")
        {
            Senders = new Dictionary<Audience, MailSender> { [Audience.Customer] = new("orders@averilquay.example", "Averil Quay", "help@averilquay.example") },
            Unsubscribe = to => $"https://desk.example/u/{to}",
        };
        using var mail = AlertMail.Make(Message, settings, DateTimeOffset.UtcNow);
        Assert.Equal("\"Averil Quay\" <orders@averilquay.example>", mail.From.ToString());
        Assert.Equal("help@averilquay.example", mail.ReplyTo.Mailboxes.Single().Address);
        Assert.Equal("<https://desk.example/u/purser@corvane.example>", mail.Headers[HeaderId.ListUnsubscribe]);
        Assert.Equal("List-Unsubscribe=One-Click", mail.Headers[HeaderId.ListUnsubscribePost]);
        using var staff = AlertMail.Make(Message with { Audience = Audience.Staff }, settings, DateTimeOffset.UtcNow);
        Assert.Equal("desk@averilquay.example", staff.From.Mailboxes.Single().Address);
        Assert.Null(staff.Headers[HeaderId.ListUnsubscribe]);
    }

    [Fact]
    public void A_sender_is_used_once_verified_for_its_readers_by_its_gateways_and_the_newest_wins()
    {
        Sender Make(int id, Audience audience, bool verified, params string[] gateways) =>
            new()
            {
                Id = id,
                Name = "S",
                Address = $"s{id}@a.example",
                Purposes = [audience],
                Gateways = [.. gateways],
                VerifiedAt = verified ? NodaTime.Instant.FromUtc(2026, 1, 1, 0, 0) : null,
            };
        Sender[] all =
        [
            Make(1, Audience.Customer, true),
            Make(2, Audience.Customer, false),
            Make(3, Audience.Customer, true, "relay"),
            Make(4, Audience.Staff, true),
        ];
        Assert.Equal(1, Sender.For(all, Audience.Customer, "mail")!.Id);
        Assert.Equal(3, Sender.For(all, Audience.Customer, "relay")!.Id);
        Assert.Equal(1, Sender.For(all, Audience.Customer, null)!.Id);
        Assert.Null(Sender.For(all, Audience.Outside, "mail"));
    }

    [Fact]
    public async Task A_domain_s_records_are_looked_up_and_explained()
    {
        using var names = new NameServer();
        names.Texts["a.example"] = ["v=spf1 mx -all", "something else"];
        names.Texts["sirena._domainkey.a.example"] = ["v=DKIM1; k=rsa; p=" + new string('A', 300)];
        names.Texts["b.example"] = ["v=spf1 +all"];
        names.Texts["_dmarc.b.example"] = ["v=DMARC1; p=reject"];
        var records = new SenderRecords(names.Endpoint);
        var a = await records.LookUpAsync("a.example", "mail.a.example", "sirena", default);
        Assert.Equal([RecordStanding.Good, RecordStanding.Good, RecordStanding.Weak], a.Select(r => r.Standing));
        Assert.Contains("make sure that mail.a.example is among them", a[0].Words);
        Assert.EndsWith(new string('A', 300), a[1].Text);
        var b = await records.LookUpAsync("b.example", "mail.b.example", "gone", default);
        Assert.Equal([RecordStanding.Bad, RecordStanding.Bad, RecordStanding.Good], b.Select(r => r.Standing));
        Assert.Contains("every server in the world", b[0].Words);
        Assert.Contains("is not published", b[1].Words);
        using var silent = new UdpClient(new IPEndPoint(IPAddress.Loopback, 0));
        Assert.All(await new SenderRecords((IPEndPoint)silent.Client.LocalEndPoint!).LookUpAsync("c.example", "m", "s", default), r =>
            Assert.Equal(RecordStanding.Unknown, r.Standing)
        );
    }

    [Theory]
    [InlineData("v=spf1 a -all|v=spf1 b -all", RecordStanding.Bad)]
    [InlineData("v=spf1 a ?all", RecordStanding.Weak)]
    [InlineData("", RecordStanding.Weak)]
    public void Each_SPF_trouble_has_its_own_standing(string texts, RecordStanding standing) =>
        Assert.Equal(standing, SenderRecords.Spf("a.example", "m", texts.Split('|', StringSplitOptions.RemoveEmptyEntries)).Standing);

    [Theory]
    [InlineData(465, "tls")]
    [InlineData(587, "starttls")]
    [InlineData(25, "none")]
    public void The_encryption_that_is_usual_for_a_port_is_proposed(int port, string encryption) =>
        Assert.Equal(encryption, MailSettings.UsualEncryption(port));

    [Theory]
    [InlineData("127.0.0.1", true)]
    [InlineData("10.1.2.3", true)]
    [InlineData("172.31.0.1", true)]
    [InlineData("172.32.0.1", false)]
    [InlineData("192.168.1.1", true)]
    [InlineData("169.254.1.1", true)]
    [InlineData("100.64.0.1", true)]
    [InlineData("::1", true)]
    [InlineData("fe80::1", true)]
    [InlineData("fd00::1", true)]
    [InlineData("::ffff:127.0.0.1", true)]
    [InlineData("203.0.113.7", false)]
    [InlineData("2001:db8::1", false)]
    public void Addresses_inside_are_known_as_such(string address, bool inside) =>
        Assert.Equal(inside, Channels.Http.OutsideHosts.IsInside(IPAddress.Parse(address)));

    private static async Task<WebApplication> TokensAsync()
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls("http://127.0.0.1:0");
        var app = builder.Build();
        app.MapPost("/token", async (HttpRequest request) =>
        {
            var form = await request.ReadFormAsync();
            return form["client_id"] == "sirena" && form["client_secret"] == "right" && form["grant_type"] == "client_credentials"
                ? Results.Json(
                    new
                    {
                        access_token = "mail-token",
                        token_type = "Bearer",
                        expires_in = 3600,
                    }
                )
                : Results.Json(new { error = "invalid_client", error_description = "The client's secret is not right" }, statusCode: 401);
        });
        await app.StartAsync();
        return app;
    }

    private sealed class Published(string selector, string domain, string record) : DkimPublicKeyLocatorBase
    {
        public override AsymmetricKeyParameter LocatePublicKey(string methods, string asked, string by, CancellationToken cancellationToken = default) =>
            asked == domain && by == selector ? GetPublicKey(record) : throw new InvalidOperationException($"{by}._domainkey.{asked} is not published");

        public override Task<AsymmetricKeyParameter> LocatePublicKeyAsync(
            string methods,
            string asked,
            string by,
            CancellationToken cancellationToken = default
        ) => Task.FromResult(LocatePublicKey(methods, asked, by, cancellationToken));
    }

    /// <summary>A mail server that only knows bearer tokens (RFC 7628).</summary>
    private sealed class BearerServer : IAsyncDisposable
    {
        private readonly TcpListener listener = new(IPAddress.Loopback, 0);
        private readonly Task serving;

        public BearerServer(string token)
        {
            listener.Start();
            serving = ServeAsync(token);
        }

        public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

        public string SignedIn { get; private set; } = "";

        public async ValueTask DisposeAsync()
        {
            listener.Stop();
            await serving;
        }

        private async Task ServeAsync(string token)
        {
            try
            {
                while (true)
                {
                    var client = await listener.AcceptTcpClientAsync();
                    client.NoDelay = true;
                    _ = SpeakAsync(client, token);
                }
            }
            catch (Exception e) when (e is SocketException or ObjectDisposedException or InvalidOperationException)
            {
                // That is how it stops.
            }
        }

        private async Task SpeakAsync(TcpClient client, string token)
        {
            using var own = client;
            var stream = client.GetStream();
            using var reader = new StreamReader(stream, Encoding.ASCII, leaveOpen: true);
            async Task Say(string line) => await stream.WriteAsync(Encoding.ASCII.GetBytes(line + "\r\n"));
            await Say("220 bearer.example");
            for (var data = false; await reader.ReadLineAsync() is { } line;)
            {
                if (data)
                {
                    data = line != ".";
                    if (!data)
                    {
                        await Say("250 2.0.0 taken");
                    }

                    continue;
                }

                switch (line.Split(' ')[0].ToUpperInvariant())
                {
                    case "EHLO":
                        await Say("250-bearer.example");
                        await Say("250 AUTH OAUTHBEARER XOAUTH2");
                        break;
                    case "AUTH":
                        SignedIn = Encoding.UTF8.GetString(Convert.FromBase64String(line.Split(' ')[2]));
                        await Say(SignedIn.Contains($"auth=Bearer {token}", StringComparison.Ordinal) ? "235 2.7.0 welcome" : "535 5.7.8 no");
                        break;
                    case "DATA":
                        data = true;
                        await Say("354 go on");
                        break;
                    case "QUIT":
                        await Say("221 bye");
                        return;
                    default:
                        await Say("250 2.1.0 good");
                        break;
                }
            }
        }
    }
}
