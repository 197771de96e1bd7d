using System.Collections.Concurrent;
using System.Globalization;
using System.Net.Sockets;
using MailKit;
using MailKit.Net.Smtp;
using MimeKit;
using Sirena.Core.Deliveries;

namespace Sirena.Channels.Mail;

/// <summary>
/// Hands mail to a server over SMTP (RFC 5321). Connections are kept for a while and used again. Nagle's algorithm and pipelining are off: together with
/// delayed
/// acknowledgements they cost 90 ms a message.
/// </summary>
public sealed partial class MailGateway(MailSettings settings, TimeProvider time) : IGateway
{
    private static readonly TimeSpan Connecting = TimeSpan.FromSeconds(10);
    private static readonly TimeSpan OneCommand = TimeSpan.FromSeconds(30);
    private static readonly TimeSpan OneMessage = TimeSpan.FromMinutes(2);

    // Servers close idle lines; one that was quiet for longer is closed before it can be found closed.
    private static readonly TimeSpan Idle = TimeSpan.FromSeconds(20);
    private readonly ConcurrentStack<(SmtpClient Client, long Since)> kept = [];
    private readonly AccessToken? token = settings.Token is { } asked ? new AccessToken(asked, time) : null;
    private volatile bool othersPass;

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

        while (Take() is { } client)
        {
            // A kept line that the server closed meanwhile says nothing about this message: take another.
            if (await SendAsync(client, mail, message.Id, reused: true, cancel) is { } result)
            {
                return Noted(result);
            }
        }

        SmtpClient fresh;
        try
        {
            fresh = await ConnectAsync(cancel);
        }
        catch (Exception e) when (IsTrouble(e) && !cancel.IsCancellationRequested)
        {
            var words = e is OperationCanceledException or TimeoutException ? "it did not answer in time" : e.Message;
            return new HandOver(
                AttemptOutcome.Gateway,
                (e as SmtpCommandException) is { } said ? Code(said) : null,
                $"no connection to {settings.Host}:{settings.Port}: {words}"
            );
        }

        return Noted((await SendAsync(fresh, mail, message.Id, reused: false, cancel))!);
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        while (kept.TryPop(out var line))
        {
            try
            {
                await line.Client.DisconnectAsync(true, new CancellationTokenSource(500).Token);
            }
            catch (Exception e) when (IsTrouble(e))
            {
                // The line is gone already.
            }

            line.Client.Dispose();
        }

        token?.Dispose();
    }

    private HandOver Noted(HandOver result)
    {
        othersPass |= result.Outcome == AttemptOutcome.Accepted;
        return result;
    }

    private SmtpClient? Take()
    {
        while (kept.TryPop(out var line))
        {
            if (line.Client.IsConnected && time.GetElapsedTime(line.Since) < Idle)
            {
                return line.Client;
            }

            line.Client.Dispose();
        }

        return null;
    }

    private void Keep(SmtpClient client) => kept.Push((client, time.GetTimestamp()));

    private async Task<SmtpClient> ConnectAsync(CancellationToken cancel)
    {
        using var connecting = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        connecting.CancelAfter(Connecting);
        using var opening = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        opening.CancelAfter(OneCommand);
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        var client = new ReportingClient { Timeout = (int)OneCommand.TotalMilliseconds };
        if (ServerCertificate.Check(settings.Authority, settings.Pin) is { } check)
        {
            (client.CheckCertificateRevocation, client.ServerCertificateValidationCallback) = (false, check);
        }

        try
        {
            await socket.ConnectAsync(settings.Host, settings.Port, connecting.Token);
            client.LocalDomain = settings.Greeting(client, socket);
            await client.ConnectAsync(socket, settings.Host, settings.Port, settings.Security, opening.Token);
            client.Capabilities &= ~SmtpCapabilities.Pipelining;
            await SignIn.RunAsync(client, settings.User, settings.Password, token, opening.Token);
            return client;
        }
        catch
        {
            client.Dispose();
            socket.Dispose();
            throw;
        }
    }

    // Null: the kept line was stale and nothing of the message was taken.
    private async Task<HandOver?> SendAsync(SmtpClient client, MimeMessage mail, Guid id, bool reused, CancellationToken cancel)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(OneMessage);
        var sent = false;
        var watch = new Sent(() => sent = true);
        try
        {
            if (TooLarge(client, mail) is { } large)
            {
                Keep(client);
                return large;
            }

            // Reports come back to an address of this delivery's own (RFC 3461: RET, ENVID, NOTIFY); the reader sees the sender.
            var options = FormatOptions.Default.Clone();
            options.International = client.Capabilities.HasFlag(SmtpCapabilities.UTF8) && NeedsUtf8(mail);
            var from = settings.ReturnKey is { } key
                ? MailboxAddress.Parse(ReturnAddress.For(id, key, settings.SenderFor(Core.People.Audience.Staff).Domain))
                : mail.From.Mailboxes.First();
            var reply = await client.SendAsync(options, mail, from, [.. mail.To.Mailboxes], limit.Token, watch);
            Keep(client);
            return new HandOver(AttemptOutcome.Accepted, "250", reply);
        }
        catch (SmtpCommandException e) when (!cancel.IsCancellationRequested)
        {
            var closing = (int)e.StatusCode is 421 or 221;
            if (!closing && client.IsConnected)
            {
                await ResetAsync(client, limit.Token);
            }
            else
            {
                client.Dispose();
            }

            return closing && reused ? null : Refused(e);
        }
        catch (Exception e) when (IsTrouble(e) && !cancel.IsCancellationRequested)
        {
            client.Dispose();
            return Broken(e, reused, sent);
        }
        catch
        {
            client.Dispose();
            throw;
        }
    }

    private static HandOver? Broken(Exception e, bool reused, bool sent)
    {
        var silent = e is OperationCanceledException or TimeoutException;
        return e is ServiceNotAuthenticatedException or MailKit.Security.AuthenticationException ? new HandOver(AttemptOutcome.Gateway, "530", e.Message)
            : e is NotSupportedException
                ? new HandOver(AttemptOutcome.Permanent, null, "this mail server takes no addresses beyond ASCII (SMTPUTF8)") { Blame = Blame.Policy }
            : reused && !sent ? null
            : !sent
                ? new HandOver(
                    AttemptOutcome.Gateway,
                    null,
                    silent ? "the mail server fell silent before the message went over" : $"the line dropped before the message went over: {e.Message}"
                )
            : silent
                ? new HandOver(AttemptOutcome.Unknown, null, "the mail server fell silent while the message went over; it may have arrived")
                {
                    Blame = Blame.Gateway,
                }
            : new HandOver(AttemptOutcome.Unknown, null, $"the line dropped while the message went over; it may have arrived: {e.Message}");
    }

    // What is larger than the server says it takes (RFC 1870) need not be tried.
    private static HandOver? TooLarge(SmtpClient client, MimeMessage mail)
    {
        if (!client.Capabilities.HasFlag(SmtpCapabilities.Size) || client.MaxSize == 0)
        {
            return null;
        }

        using var measure = new MimeKit.IO.MeasuringStream();
        mail.WriteTo(measure);
        return measure.Length <= client.MaxSize
            ? null
            : new HandOver(
                AttemptOutcome.Permanent,
                null,
                string.Create(CultureInfo.InvariantCulture, $"the message has {measure.Length:N0} bytes; this mail server takes {client.MaxSize:N0}")
            )
            {
                Blame = Blame.Size,
            };
    }

    private static bool NeedsUtf8(MimeMessage mail) => mail.To.Mailboxes.Any(m => m.Address.Any(c => c > 127));

    private async Task ResetAsync(SmtpClient client, CancellationToken cancel)
    {
        try
        {
            await client.NoOpAsync(cancel);
            Keep(client);
        }
        catch (Exception e) when (IsTrouble(e))
        {
            client.Dispose();
        }
    }

    /// <summary>Notes that bytes of the message have left.</summary>
    private sealed class Sent(Action note) : ITransferProgress
    {
        public void Report(long bytesTransferred, long totalSize) => note();

        public void Report(long bytesTransferred) => note();
    }
}
