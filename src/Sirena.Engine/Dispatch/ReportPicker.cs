using MailKit;
using MailKit.Net.Imap;
using MailKit.Search;
using MailKit.Security;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using MimeKit;
using NodaTime;
using Sirena.Channels.Mail;
using Sirena.Core;
using Sirena.Storage;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// Reads the reports that come back to an IMAP mailbox (RFC 9051), where the business has one for them. A letter that was read is marked as seen and left
/// there.
/// </summary>
public sealed class ReportPicker(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    Gateways gateways,
    ReturnedMail returned,
    Signals signals,
    ILogger<ReportPicker> log
) : Worker(log)
{
    private const int MostAtOnce = 200;
    private static readonly TimeSpan Turn = TimeSpan.FromSeconds(15);
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) =>
        TurnsAsync(
            Turn,
            async () =>
            {
                var business = (await surroundings.GetAsync(stopping)).Business;
                if (business.ReportMailbox is not null)
                {
                    var problem = await TryAsync(business, stopping);
                    if (problem != business.ReportMailboxError)
                    {
                        await using var db = await factory.CreateDbContextAsync(stopping);
                        await db.Businesses.ExecuteUpdateAsync(s => s.SetProperty(b => b.ReportMailboxError, problem), stopping);
                        signals.Raise(Topic.Setup);
                    }
                }
            },
            stopping
        );

    private async Task<string?> TryAsync(Business business, CancellationToken cancel)
    {
        try
        {
            await ReadAsync(business, cancel);
            return null;
        }
        catch (Exception e)
            when (!cancel.IsCancellationRequested
                && e
                    is IOException
                        or System.Net.Sockets.SocketException
                        or MailKit.ProtocolException
                        or CommandException
                        or AuthenticationException
                        or SslHandshakeException
                        or OperationCanceledException
                        or NotSupportedException
                        or ServiceNotConnectedException
            )
        {
            return e is AuthenticationException ? $"the mailbox does not accept the name and password: {e.Message}" : e.GetBaseException().Message;
        }
    }

    /// <summary>Reads what is new.</summary>
    private async Task ReadAsync(Business business, CancellationToken cancel)
    {
        if (MailSettings.Server(business.ReportMailbox!) is not var (host, port))
        {
            return;
        }

        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(Patience);
        using var client = new ImapClient { Timeout = (int)Patience.TotalMilliseconds };
        await client.ConnectAsync(
            host,
            port,
            business.ReportMailboxEncryption switch
            {
                "tls" => SecureSocketOptions.SslOnConnect,
                "starttls" => SecureSocketOptions.StartTls,
                _ => SecureSocketOptions.None,
            },
            limit.Token
        );
        await client.AuthenticateAsync(business.ReportMailboxUser ?? "", gateways.Open(business.ReportMailboxSecret) ?? "", limit.Token);
        await client.Inbox!.OpenAsync(FolderAccess.ReadWrite, limit.Token);
        foreach (var uid in (await client.Inbox.SearchAsync(SearchQuery.NotSeen, limit.Token)).Take(MostAtOnce))
        {
            var letter = await client.Inbox.GetMessageAsync(uid, limit.Token);
            if (AddressesOf(letter).FirstOrDefault(a => ReturnAddress.IsOurs(a.Split('@')[0])) is { } to)
            {
                await returned.TakeAsync(to, letter, cancel);
            }
            else
            {
                await returned.TakeReplyAsync(letter, cancel);
            }

            await client.Inbox.AddFlagsAsync(uid, MessageFlags.Seen, silent: true, limit.Token);
        }

        await client.DisconnectAsync(true, limit.Token);
    }

    // The envelope's recipient stands in one of these, as the mailbox's server writes it.
    private static IEnumerable<string> AddressesOf(MimeMessage letter) =>
        letter
            .Headers.Where(h => h.Field.ToLowerInvariant() is "delivered-to" or "x-original-to" or "envelope-to" or "to")
            .SelectMany(h => InternetAddressList.TryParse(h.Value, out var list) ? list.Mailboxes.Select(m => m.Address) : [h.Value.Trim().Trim('<', '>')]);
}
