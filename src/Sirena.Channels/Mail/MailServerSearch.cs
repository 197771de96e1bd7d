using System.Net;
using System.Net.Sockets;
using DnsClient;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;

namespace Sirena.Channels.Mail;

/// <summary>A mail server that answered.</summary>
/// <param name="Host">Its name.</param>
/// <param name="Port">The port.</param>
/// <param name="Encryption"><c>tls</c>, <c>starttls</c> or <c>none</c>.</param>
/// <param name="SignsIn">It asks for a user and a password.</param>
/// <param name="Because">By what it was found.</param>
public sealed record MailServerFound(string Host, int Port, string Encryption, bool SignsIn, string Because);

/// <summary>
/// Finds the server that takes a domain's outgoing mail: what the domain publishes (SRV, RFC 6186 and 8314), then the usual names and the ones that take its
/// mail (MX), each by the usual ports. Only those that answer
/// with a certificate that holds are named, with what they offer.
/// </summary>
/// <param name="nameServer">The name server; <see langword="null"/> for the machine's own.</param>
public sealed class MailServerSearch(IPEndPoint? nameServer)
{
    private const int Most = 12;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);
    private readonly NameQuestions names = new(nameServer);

    /// <summary>Finds them, the best first: published ones, then encrypted ones.</summary>
    /// <param name="domain">The part of an address after the @.</param>
    /// <param name="cancel">Breaks it off.</param>
    public async Task<IReadOnlyList<MailServerFound>> FindAsync(string domain, CancellationToken cancel)
    {
        var candidates = new List<(string Host, int Port, string Because)>();
        foreach (var service in new[] { "_submissions._tcp", "_submission._tcp" })
        {
            candidates.AddRange((await ServicesAsync($"{service}.{domain}", cancel)).Select(s => (s.Host, s.Port, $"{domain} publishes it ({service})")));
        }

        foreach (var host in new[] { $"smtp.{domain}", $"mail.{domain}" })
        {
            candidates.AddRange(new[] { 465, 587 }.Select(port => (host, port, "a usual name and port")));
        }

        foreach (var host in await ExchangersAsync(domain, cancel))
        {
            candidates.AddRange(new[] { 587, 465, 25 }.Select(port => (host, port, $"it takes the mail of {domain} (MX)")));
        }

        var tried = await Task.WhenAll(candidates.DistinctBy(c => (c.Host, c.Port)).Take(Most).Select(c => TryAsync(c.Host, c.Port, c.Because, cancel)));
        return [.. tried.OfType<MailServerFound>()];
    }

    private static async Task<MailServerFound?> TryAsync(string host, int port, string because, CancellationToken cancel)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(Patience);
        using var client = new SmtpClient { Timeout = (int)Patience.TotalMilliseconds, CheckCertificateRevocation = false };
        try
        {
            await client.ConnectAsync(host, port, port == 465 ? SecureSocketOptions.SslOnConnect : SecureSocketOptions.StartTlsWhenAvailable, limit.Token);
            var found = new MailServerFound(
                host,
                port,
                port == 465 ? "tls"
                    : client.IsSecure ? "starttls"
                    : "none",
                client.Capabilities.HasFlag(SmtpCapabilities.Authentication),
                because
            );
            await client.DisconnectAsync(true, limit.Token);
            return found;
        }
        catch (Exception e)
            when (!cancel.IsCancellationRequested
                && e
                    is SocketException
                        or IOException
                        or OperationCanceledException
                        or ProtocolException
                        or CommandException
                        or SslHandshakeException
                        or NotSupportedException
                        or TimeoutException
            )
        {
            return null;
        }
    }

    private async Task<IReadOnlyList<(string Host, int Port)>> ServicesAsync(string name, CancellationToken cancel) =>
        await names.AskAsync(name, QueryType.SRV, cancel) is not { } answer
            ? []
            :
            [
                .. answer
                    .Answers.SrvRecords()
                    .OrderBy(s => s.Priority)
                    .ThenByDescending(s => s.Weight)
                    .Select(s => (s.Target.Value.TrimEnd('.'), (int)s.Port))
                    .Where(s => s.Item1.Length > 0)
                    .Take(4),
            ];

    private async Task<IReadOnlyList<string>> ExchangersAsync(string domain, CancellationToken cancel) =>
        await names.AskAsync(domain, QueryType.MX, cancel) is not { } answer
            ? []
            : [.. answer.Answers.MxRecords().OrderBy(m => m.Preference).Select(m => m.Exchange.Value.TrimEnd('.')).Where(h => h.Length > 0).Take(2)];
}
