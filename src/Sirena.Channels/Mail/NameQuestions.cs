using System.Net;
using System.Net.Sockets;
using DnsClient;

namespace Sirena.Channels.Mail;

/// <summary>Asks a name server; one that does not answer is no fault of whoever asks.</summary>
/// <param name="server">The name server, or <see langword="null"/> for those of the machine.</param>
internal sealed class NameQuestions(IPEndPoint? server)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(4);
    private readonly LookupClient dns = new(
        server is null
            ? new LookupClientOptions { Timeout = Patience, Retries = 1 }
            : new LookupClientOptions(server)
            {
                Timeout = Patience,
                Retries = 1,
                UseTcpFallback = false,
            }
    );

    /// <summary>What is published under a name.</summary>
    /// <returns><see langword="null"/> where nobody answered.</returns>
    public async Task<IDnsQueryResponse?> AskAsync(string name, QueryType type, CancellationToken cancel)
    {
        try
        {
            return await dns.QueryAsync(name, type, cancellationToken: cancel);
        }
        catch (Exception e)
            when (e is DnsResponseException or SocketException or InvalidOperationException
                || (e is OperationCanceledException && !cancel.IsCancellationRequested)
            )
        {
            return null;
        }
    }
}
