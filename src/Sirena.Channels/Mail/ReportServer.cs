using System.Buffers;
using System.Net;
using MimeKit;
using SmtpServer;
using SmtpServer.Mail;
using SmtpServer.Protocol;
using SmtpServer.Storage;

namespace Sirena.Channels.Mail;

/// <summary>The mail server to which reports come back. It takes only letters to our own return addresses, a megabyte at most, and relays nothing.</summary>
public static class ReportServer
{
    private const int LargestReport = 1024 * 1024;

    /// <summary>Serves until cancelled.</summary>
    /// <param name="endpoint">Where it listens.</param>
    /// <param name="take">Gets the recipient's address and the letter.</param>
    /// <param name="cancel">Stops it.</param>
    public static Task ServeAsync(IPEndPoint endpoint, Func<string, MimeMessage, Task> take, CancellationToken cancel)
    {
        var options = new SmtpServerOptionsBuilder().ServerName("sirena").MaxMessageSize(LargestReport).Endpoint(e => e.Endpoint(endpoint)).Build();
        var services = new SmtpServer.ComponentModel.ServiceProvider();
        services.Add((IMailboxFilter)new OnlyOurs());
        services.Add((IMessageStore)new Reports(take));
        return new SmtpServer.SmtpServer(options, services).StartAsync(cancel);
    }

    private sealed class OnlyOurs : MailboxFilter
    {
        public override Task<bool> CanAcceptFromAsync(ISessionContext context, IMailbox from, int size, CancellationToken cancellationToken) =>
            Task.FromResult(size <= LargestReport);

        public override Task<bool> CanDeliverToAsync(ISessionContext context, IMailbox to, IMailbox from, CancellationToken cancellationToken) =>
            Task.FromResult(ReturnAddress.IsOurs(to.User));
    }

    private sealed class Reports(Func<string, MimeMessage, Task> take) : MessageStore
    {
        public override async Task<SmtpResponse> SaveAsync(
            ISessionContext context,
            IMessageTransaction transaction,
            ReadOnlySequence<byte> buffer,
            CancellationToken cancellationToken
        )
        {
            if (buffer.Length > LargestReport)
            {
                return new SmtpResponse(SmtpReplyCode.SizeLimitExceeded, "5.3.4 A report holds at most 1 MB");
            }

            MimeMessage letter;
            try
            {
                using var stream = new MemoryStream(buffer.ToArray());
                letter = await MimeMessage.LoadAsync(stream, cancellationToken);
            }
            catch (FormatException)
            {
                return new SmtpResponse(SmtpReplyCode.TransactionFailed, "5.6.0 This is no mail");
            }

            foreach (var to in transaction.To)
            {
                await take(to.AsAddress(), letter);
            }

            return SmtpResponse.Ok;
        }
    }
}
