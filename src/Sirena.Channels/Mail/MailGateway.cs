using System.Collections.Concurrent;
using System.Net.Sockets;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using Sirena.Core.Deliveries;

namespace Sirena.Channels.Mail;

/// <summary>
/// Hands mail to a server over SMTP (RFC 5321). Connections are kept and used again. Nagle's algorithm and pipelining are off: together with delayed
/// acknowledgements they cost 90 ms a message.
/// </summary>
public sealed class MailGateway(MailSettings settings, TimeProvider time) : IGateway
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);
    private readonly ConcurrentBag<SmtpClient> idle = [];
    private readonly AccessToken? token = settings.Token is { } asked ? new AccessToken(asked, time) : null;

    /// <inheritdoc/>
    public Channel Channel => Channel.Mail;

    /// <inheritdoc/>
    public string Name { get; } = settings.Called ?? $"mail {settings.Host}:{settings.Port}";

    /// <inheritdoc/>
    public int Width => settings.Width;

    /// <inheritdoc/>
    public async Task<HandOver> HandOverAsync(OutgoingMessage message, CancellationToken cancel)
    {
        MimeMessage mail;
        try
        {
            mail = AlertMail.Make(message, settings, time.GetUtcNow());
        }
        catch (ParseException e)
        {
            return new HandOver(AttemptOutcome.Permanent, null, $"'{message.To}' is no mail address: {e.Message}");
        }

        while (idle.TryTake(out var kept))
        {
            // A kept connection that the server closed meanwhile says nothing about this message: take another.
            if (await SendAsync(kept, mail, message.Id, reused: true, cancel) is { } result)
            {
                return result;
            }
        }

        SmtpClient client;
        try
        {
            client = await ConnectAsync(cancel);
        }
        catch (Exception e) when (IsTrouble(e) && !cancel.IsCancellationRequested)
        {
            return new HandOver(AttemptOutcome.Gateway, (e as SmtpCommandException) is { } said ? Code(said) : null, $"no connection to {settings.Host}:{settings.Port}: {e.Message}");
        }

        return (await SendAsync(client, mail, message.Id, reused: false, cancel))!;
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        while (idle.TryTake(out var client))
        {
            try
            {
                await client.DisconnectAsync(true, new CancellationTokenSource(500).Token);
            }
            catch (Exception e) when (IsTrouble(e))
            {
                // The line is gone already.
            }

            client.Dispose();
        }

        token?.Dispose();
    }

    private async Task<SmtpClient> ConnectAsync(CancellationToken cancel)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(Patience);
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        var client = new ReportingClient { Timeout = (int)Patience.TotalMilliseconds };
        try
        {
            await socket.ConnectAsync(settings.Host, settings.Port, limit.Token);
            await client.ConnectAsync(socket, settings.Host, settings.Port, settings.Encryption switch { "tls" => SecureSocketOptions.SslOnConnect, "starttls" => SecureSocketOptions.StartTls, _ => SecureSocketOptions.None }, limit.Token);
            client.Capabilities &= ~SmtpCapabilities.Pipelining;
            await SignIn.RunAsync(client, settings.User, settings.Password, token, limit.Token);

            return client;
        }
        catch
        {
            client.Dispose();
            socket.Dispose();
            throw;
        }
    }

    // Null: the kept connection was stale and nothing of the message was taken.
    private async Task<HandOver?> SendAsync(SmtpClient client, MimeMessage mail, Guid id, bool reused, CancellationToken cancel)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(Patience);
        var sent = false;
        var watch = new Sent(() => sent = true);
        try
        {
            // Reports come back to an address of this delivery's own (RFC 3461: RET, ENVID, NOTIFY); the reader sees the sender.
            var reply = settings.ReturnKey is { } key
                ? await client.SendAsync(mail, MailboxAddress.Parse(ReturnAddress.For(id, key, settings.SenderFor(Core.People.Audience.Staff).Domain)), [.. mail.To.Mailboxes], limit.Token, watch)
                : await client.SendAsync(mail, limit.Token, watch);
            idle.Add(client);
            return new HandOver(AttemptOutcome.Accepted, "250", reply);
        }
        catch (SmtpCommandException e) when (client.IsConnected && e.StatusCode != SmtpStatusCode.ServiceClosingTransmissionChannel)
        {
            await KeepAsync(client, limit.Token);
            return Refused(e);
        }
        catch (Exception e) when (IsTrouble(e) && !cancel.IsCancellationRequested)
        {
            client.Dispose();
            return e is SmtpCommandException { StatusCode: not SmtpStatusCode.ServiceClosingTransmissionChannel } refused ? Refused(refused)
                : reused && !sent ? null
                : sent ? new HandOver(AttemptOutcome.Unknown, null, $"the line dropped while the message went over; it may have arrived: {e.Message}")
                : new HandOver(AttemptOutcome.Gateway, null, $"the line dropped before the message went over: {e.Message}");
        }
        catch
        {
            client.Dispose();
            throw;
        }
    }

    private async Task KeepAsync(SmtpClient client, CancellationToken cancel)
    {
        try
        {
            await client.NoOpAsync(cancel);
            idle.Add(client);
        }
        catch (Exception e) when (IsTrouble(e))
        {
            client.Dispose();
        }
    }

    // RFC 5321, 4.2.1: 4yz may work later, 5yz will not. A sender that the server refuses is the gateway's fault, not the reader's.
    private static HandOver Refused(SmtpCommandException e) => new(
        e.ErrorCode == SmtpErrorCode.SenderNotAccepted ? AttemptOutcome.Gateway : (int)e.StatusCode >= 500 ? AttemptOutcome.Permanent : AttemptOutcome.Temporary,
        Code(e),
        e.Message);

    private static string Code(SmtpCommandException e) => ((int)e.StatusCode).ToString(System.Globalization.CultureInfo.InvariantCulture);

    private static bool IsTrouble(Exception e) =>
        e is IOException or SocketException or ProtocolException or CommandException or OperationCanceledException or ServiceNotConnectedException or TimeoutException or MailKit.Security.AuthenticationException or SslHandshakeException or NotSupportedException or ObjectDisposedException;

    /// <summary>Notes that bytes of the message have left.</summary>
    private sealed class Sent(Action note) : ITransferProgress
    {
        public void Report(long bytesTransferred, long totalSize) => note();

        public void Report(long bytesTransferred) => note();
    }
}
