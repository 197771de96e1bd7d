using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Sirena.Channels;
using Sirena.Channels.Mail;
using Sirena.Demo.StandIns;
using SmtpServer;
using SmtpServer.Authentication;
using SmtpServer.Mail;
using SmtpServer.Protocol;
using SmtpServer.Storage;

namespace Sirena.Engine.Tests;

/// <summary>Each trouble of a mail server gives its own advice, at its own station.</summary>
public sealed class MailProbeTests
{
    private static readonly DateTimeOffset Now = DateTimeOffset.UtcNow;

    private static Task<ProbeResult> RunAsync(MailSettings settings, string to = "me@a.example") =>
        MailProbe.RunAsync(
            settings,
            new OutgoingMessage(Guid.NewGuid(), to, null, "A test", "Nothing is to be done.", null),
            Now,
            TimeProvider.System,
            new ProbeWays(),
            CancellationToken.None
        );

    private static string Failed(ProbeResult result) => result.Steps.First(s => s.Passed == false).Name;

    [Fact]
    public async Task A_closed_port_and_a_name_that_nobody_knows_are_told_apart()
    {
        var closed = await RunAsync(new MailSettings("127.0.0.1", StandInHost.FreePort(), "a@a.example", "A"));
        Assert.Equal("connected", Failed(closed));
        Assert.StartsWith("Nothing listens at port", closed.Fact);
        Assert.Equal(8, closed.Steps.Count);
        Assert.Null(closed.Steps[^1].Passed);
        var unknown = await RunAsync(new MailSettings("mail.nowhere.invalid", 25, "a@a.example", "A"));
        Assert.Equal("name found", Failed(unknown));
        Assert.Contains("typing mistake", unknown.WaysOut[0]);
    }

    [Fact]
    public async Task A_server_that_says_nothing_is_told_apart_from_one_that_is_not_there()
    {
        using var silent = new System.Net.Sockets.TcpListener(IPAddress.Loopback, 0);
        silent.Start();
        var result = await RunAsync(new MailSettings("127.0.0.1", ((IPEndPoint)silent.LocalEndpoint).Port, "a@a.example", "A"));
        Assert.Equal("encrypted", Failed(result));
        Assert.Contains("said nothing", result.Fact);
        Assert.Contains("Try TLS", result.WaysOut[0]);
    }

    [Fact]
    public async Task A_refused_recipient_a_rate_limit_and_a_good_server_each_say_their_own()
    {
        await using var standIns = await StandInHost.StartAsync(0, 0);
        var settings = new MailSettings("127.0.0.1", standIns.SmtpPort, "a@a.example", "A");
        var good = await RunAsync(settings);
        Assert.True(good.Good);
        Assert.Single(standIns.Mail.Mails);
        standIns.Faults.Add(new Fault("mail", "me@*", "refuse", 0));
        var refused = await RunAsync(settings);
        Assert.Equal("recipient accepted", Failed(refused));
        Assert.Contains("does not take mail for me@a.example", refused.Fact);
        Assert.Contains(refused.Lines, l => !l.Ours && l.Text.Contains("5.1.1", StringComparison.Ordinal));
        standIns.Faults.Clear();
        standIns.Faults.Add(new Fault("mail", "me@*", "defer", 0));
        var later = await RunAsync(settings);
        Assert.Contains("wants the message later", later.Fact);
        Assert.Contains("tried again by themselves", later.WaysOut[0]);
    }

    [Fact]
    public async Task A_wrong_password_is_named_and_never_shown()
    {
        await using var server = Server.Start(certificate: null);
        var result = await RunAsync(new MailSettings("127.0.0.1", server.Port, "a@a.example", "A", User: "sirena", Password: "not-the-password"));
        Assert.Equal("signed in", Failed(result));
        Assert.Contains("does not accept this name and password", result.Fact);
        Assert.DoesNotContain(result.Lines, l =>
            l.Text.Contains("not-the-password", StringComparison.Ordinal)
            || l.Text.Contains(Convert.ToBase64String("\0sirena\0not-the-password"u8), StringComparison.Ordinal)
        );
        Assert.True((await RunAsync(new MailSettings("127.0.0.1", server.Port, "a@a.example", "A", User: "sirena", Password: "right"))).Good);
    }

    [Fact]
    public async Task A_sender_that_is_refused_asks_for_another_sender()
    {
        await using var server = Server.Start(certificate: null);
        var result = await RunAsync(new MailSettings("127.0.0.1", server.Port, "stranger@b.example", "A", User: "sirena", Password: "right"));
        Assert.Equal("sender accepted", Failed(result));
        Assert.Contains("does not send for stranger@b.example", result.Fact);
        Assert.Contains("belongs to the account", result.WaysOut[0]);
    }

    [Theory]
    [InlineData(-30, -1, "ran out on")]
    [InlineData(-1, 30, "vouches for")]
    public async Task A_certificate_that_ran_out_and_one_that_nobody_vouches_for_are_told_apart(int from, int to, string words)
    {
        using var key = RSA.Create(2048);
        var request = new CertificateRequest("CN=127.0.0.1", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        var names = new SubjectAlternativeNameBuilder();
        names.AddIpAddress(IPAddress.Loopback);
        request.CertificateExtensions.Add(names.Build());
        using var made = request.CreateSelfSigned(Now.AddDays(from), Now.AddDays(to));
        using var certificate = X509CertificateLoader.LoadPkcs12(made.Export(X509ContentType.Pfx), null);
        await using var server = Server.Start(certificate);
        var result = await RunAsync(new MailSettings("127.0.0.1", server.Port, "a@a.example", "A", Encryption: "tls"));
        Assert.Equal("encrypted", Failed(result));
        Assert.Contains(words, result.Fact);
    }

    [Fact]
    public async Task A_server_without_STARTTLS_says_so()
    {
        await using var server = Server.Start(certificate: null);
        var result = await RunAsync(new MailSettings("127.0.0.1", server.Port, "a@a.example", "A", Encryption: "starttls"));
        Assert.Equal("encrypted", Failed(result));
        Assert.Contains("does not offer STARTTLS", result.Fact);
    }

    /// <summary>A mail server that wants a password and knows its own senders.</summary>
    private sealed class Server : IAsyncDisposable
    {
        private readonly CancellationTokenSource stop = new();
        private readonly Task serving;

        private Server(int port, Task serving, CancellationTokenSource stop) => (Port, this.serving, this.stop) = (port, serving, stop);

        public int Port { get; }

        public static Server Start(X509Certificate2? certificate)
        {
            var (port, stop) = (StandInHost.FreePort(), new CancellationTokenSource());
            var options = new SmtpServerOptionsBuilder()
                .ServerName("probe.example")
                .Endpoint(e =>
                {
                    e.Endpoint(new IPEndPoint(IPAddress.Loopback, port)).AllowUnsecureAuthentication();
                    if (certificate is not null)
                    {
                        e.Certificate(certificate).IsSecure(true);
                    }
                })
                .Build();
            var services = new SmtpServer.ComponentModel.ServiceProvider();
            services.Add((IUserAuthenticator)new Users());
            services.Add((IMailboxFilter)new Senders());
            services.Add(MessageStore.Default);
            return new Server(port, new SmtpServer.SmtpServer(options, services).StartAsync(stop.Token), stop);
        }

        public async ValueTask DisposeAsync()
        {
            await stop.CancelAsync();
            try
            {
                await serving;
            }
            catch (OperationCanceledException)
            {
                // That is how it stops.
            }

            stop.Dispose();
        }

        private sealed class Users : UserAuthenticator
        {
            public override Task<bool> AuthenticateAsync(ISessionContext context, string user, string password, CancellationToken cancellationToken) =>
                Task.FromResult(user == "sirena" && password == "right");
        }

        private sealed class Senders : MailboxFilter
        {
            public override Task<bool> CanAcceptFromAsync(ISessionContext context, IMailbox from, int size, CancellationToken cancellationToken) =>
                from.Host == "a.example"
                    ? Task.FromResult(true)
                    : throw new SmtpResponseException(new SmtpResponse(SmtpReplyCode.MailboxNameNotAllowed, "5.7.1 Not owned by user sirena"));
        }
    }
}
