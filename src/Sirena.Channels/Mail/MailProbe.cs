using System.Net;
using System.Net.Security;
using System.Net.Sockets;
using System.Security.Cryptography.X509Certificates;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;

namespace Sirena.Channels.Mail;

/// <summary>Sends a test message step by step, and says at the step that fails what to change.</summary>
public static partial class MailProbe
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(12);

    /// <summary>Runs it.</summary>
    /// <param name="settings">The gateway.</param>
    /// <param name="message">The test message, to an address of one's own.</param>
    /// <param name="now">The moment, for the message's date and the certificate's end.</param>
    public static async Task<ProbeResult> RunAsync(
        MailSettings settings,
        OutgoingMessage message,
        DateTimeOffset now,
        TimeProvider time,
        ProbeWays ways,
        CancellationToken cancel
    )
    {
        var log = new ProbeLog(
            ways.Say,
            "name found",
            "connected",
            "encrypted",
            "signed in",
            "sender accepted",
            "recipient accepted",
            "message accepted",
            "report received"
        );
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(Patience);
        using var spoken = new Transcript();
        using var client = new ReportingClient(spoken) { Timeout = (int)Patience.TotalMilliseconds };
        var (host, port) = (settings.Host, settings.Port);

        IPAddress[] addresses;
        try
        {
            addresses = IPAddress.TryParse(host, out var literal) ? [literal] : await Dns.GetHostAddressesAsync(host, limit.Token);
            log.Pass(string.Join(", ", addresses.Take(2).Select(a => a.ToString())));
        }
        catch (Exception e) when (e is SocketException or ArgumentException)
        {
            log.Fail($"{host} is not known");
            return log.End(
                $"There is no server called {host}.",
                $"The name could not be found: {e.Message}.",
                spoken.Lines,
                "Look for a typing mistake in the server's name.",
                "Ask whoever runs the mail for the name of the server that takes outgoing mail."
            );
        }

        using var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(addresses, port, limit.Token);
            log.Pass($"port {port} answers");
        }
        catch (Exception e) when (e is SocketException or OperationCanceledException && !cancel.IsCancellationRequested)
        {
            var refused = e is SocketException { SocketErrorCode: SocketError.ConnectionRefused };
            log.Fail(refused ? $"port {port} is closed" : $"port {port} does not answer");
            return log.End(
                refused ? $"Nothing listens at port {port} of {host}." : $"{host} does not answer at port {port}.",
                refused ? "The machine is there; it has no mail server at this port." : "The machine is off, or something between keeps the port shut.",
                spoken.Lines,
                port == 587
                    ? "Try port 465 with TLS, or 25 without encryption inside your own network."
                    : "Try port 587 with STARTTLS; most mail servers take outgoing mail there.",
                "Ask whoever runs the network whether this machine may reach that port."
            );
        }

        X509Certificate2? certificate = null;
        var errors = SslPolicyErrors.None;
        var check = ServerCertificate.Check(settings.Authority, settings.Pin);
        client.ServerCertificateValidationCallback = (sender, given, chain, found) =>
        {
            (certificate, errors) = (given is null ? null : X509CertificateLoader.LoadCertificate(given.GetRawCertData()), found);
            return check?.Invoke(sender, given, chain, found) ?? found == SslPolicyErrors.None;
        };
        client.LocalDomain = settings.Greeting(client, socket);
        try
        {
            await client.ConnectAsync(socket, host, port, settings.Security, limit.Token);
            client.Capabilities &= ~SmtpCapabilities.Pipelining;
            if (settings.Encryption == "none")
            {
                log.Leave("not asked for");
            }
            else
            {
                log.Pass($"{certificate?.GetNameInfo(X509NameType.DnsName, false)}, until {certificate?.NotAfter:d MMM yyyy}");
            }
        }
        catch (Exception e) when (e is TimeoutException || (e is OperationCanceledException && !cancel.IsCancellationRequested))
        {
            log.Fail("it says nothing");
            return log.End(
                $"{host} took the connection at port {port} and then said nothing.",
                "A mail server speaks first, unless it expects encryption from the first byte.",
                spoken.Lines,
                settings.Encryption == "tls"
                    ? "Try STARTTLS, or no encryption: this port may not speak TLS."
                    : "Try TLS: ports such as 465 expect it from the first byte.",
                "Ask whoever runs the mail server whether it answers others."
            );
        }
        catch (Exception e)
            when (e is SslHandshakeException or NotSupportedException or ProtocolException or CommandException or IOException or OperationCanceledException
                && !cancel.IsCancellationRequested
            )
        {
            return Encryption(log, settings, certificate, errors, now, e, spoken.Lines);
        }

        return await SignInAndSendAsync(log, client, settings, message, now, spoken, time, ways, limit.Token);
    }

    private static async Task<ProbeResult> SignInAndSendAsync(
        ProbeLog log,
        SmtpClient client,
        MailSettings settings,
        OutgoingMessage message,
        DateTimeOffset now,
        Transcript spoken,
        TimeProvider time,
        ProbeWays ways,
        CancellationToken cancel
    )
    {
        if (settings.User is null)
        {
            log.Leave("not asked for");
        }
        else
        {
            try
            {
                using var token = settings.Token is { } asked ? new AccessToken(asked, time) : null;
                await SignIn.RunAsync(client, settings.User, settings.Password, token, cancel);
                log.Pass($"as {settings.User}");
            }
            catch (Exception e)
                when (e is AuthenticationException or TimeoutException or NotSupportedException or CommandException or ProtocolException or IOException)
            {
                log.Fail("refused");
                if (settings.Token is { } wanted)
                {
                    return log.End(
                        "The access token was not had, or not accepted.",
                        e.Message,
                        spoken.Lines,
                        $"Check the client's id and secret at {wanted.Address.Host}.",
                        "Ask the provider whether this client may send mail as " + settings.User + "."
                    );
                }

                return e is NotSupportedException
                    ? log.End(
                        "The server lets nobody sign in on this line.",
                        settings.Encryption == "none" ? "Most servers offer signing in only on an encrypted line." : e.Message,
                        spoken.Lines,
                        settings.Encryption == "none"
                            ? "Choose STARTTLS or TLS."
                            : "Leave the name empty: this server may take mail from this network without signing in."
                    )
                    : log.End(
                        $"The server does not accept this name and password.",
                        e.Message,
                        spoken.Lines,
                        "Type the password again; it is not shown here.",
                        "Some providers want a password made for programs instead of the one for people."
                    );
            }
        }

        try
        {
            var mail = AlertMail.Make(message, settings, now);
            var back = settings.ReturnKey is { } key
                ? MimeKit.MailboxAddress.Parse(ReturnAddress.For(message.Id, key, settings.SenderFor(Core.People.Audience.Staff).Domain))
                : null;
            var reply = back is null ? await client.SendAsync(mail, cancel) : await client.SendAsync(mail, back, [.. mail.To.Mailboxes], cancel);
            log.Pass(settings.SenderFor(message.Audience).Address);
            log.Pass(message.To);
            log.Pass(reply);
            await client.DisconnectAsync(true, cancel);
            var news = back is null || ways.Hear is not { } hear ? new ProbeNews(null, "none can come: nothing reads the return address") : await hear(null);
            switch (news.Arrived)
            {
                case true:
                    log.Pass(news.Words);
                    return log.End("The message arrived.", "", spoken.Lines);
                case false:
                    log.Fail(news.Words);
                    return log.End("The message was taken and came back.", news.Words, spoken.Lines, "Check the address of the test.");
                default:
                    log.Leave(news.Words);
                    return log.End(
                        "The message was taken.",
                        "Look into the mailbox: no report has said whether it arrived. Not every mail server sends one.",
                        spoken.Lines
                    );
            }
        }
        catch (SmtpCommandException e)
        {
            return Refused(log, settings, message, e, spoken.Lines);
        }
        catch (ServiceNotAuthenticatedException e)
        {
            log.Fail("wants a sign-in");
            return log.End(
                "The server takes nothing before a sign-in or encryption.",
                $"It said: {e.Message}",
                spoken.Lines,
                settings.Encryption == "none" ? "Choose STARTTLS or TLS." : "Give the name and the password of the account that sends."
            );
        }
        catch (Exception e) when (e is ProtocolException or IOException or TimeoutException or OperationCanceledException)
        {
            log.Fail("the line dropped");
            return log.End(
                "The line dropped while the message went over.",
                e.Message,
                spoken.Lines,
                "Try again; if it stays so, a firewall or a scanner between may cut the line."
            );
        }
    }
}
