using System.Net;
using System.Net.Sockets;
using Sirena.Core.Deliveries;

namespace Sirena.Channels.Http;

/// <summary>Sends a test message through an HTTP gateway step by step.</summary>
public static class HttpProbe
{
    /// <summary>Runs it.</summary>
    public static async Task<ProbeResult> RunAsync(
        HttpSettings settings,
        OutsideHosts hosts,
        OutgoingMessage message,
        TimeProvider time,
        ProbeWays ways,
        CancellationToken cancel
    )
    {
        var log = new ProbeLog(ways.Say, "name found", "connected", "message accepted", "id found", "receipt received");
        List<(bool, string)> lines =
        [
            (true, $"POST {settings.Address}"),
            .. settings.Headers.Keys.Select(h => (true, $"{h}: ***")),
            (true, HttpGateway.Render(settings.Body, message, settings.Receipts)),
        ];
        var (host, port) = (settings.Address.Host, settings.Address.Port);
        try
        {
            var found = IPAddress.TryParse(host, out var literal) ? [literal] : await Dns.GetHostAddressesAsync(host, cancel);
            log.Pass(string.Join(", ", found.Take(2).Select(a => a.ToString())));
        }
        catch (SocketException e)
        {
            log.Fail($"{host} is not known");
            return log.End($"There is no server called {host}.", e.Message, lines, "Look for a typing mistake in the address.");
        }

        await using var gateway = new HttpGateway(settings, hosts, time);
        var result = await gateway.HandOverAsync(message, cancel);
        lines.Add((false, $"{result.Code} {result.Reply}"));
        if (result is { Outcome: AttemptOutcome.Gateway, Code: null })
        {
            log.Fail(result.Reply);
            return log.End(
                $"Nothing answers at {host}, port {port}.",
                result.Reply,
                lines,
                "Check the address and its port with the carrier's papers.",
                "Ask whoever runs the network whether this machine may reach it."
            );
        }

        log.Pass($"port {port} answers");
        if (result.Outcome != AttemptOutcome.Accepted)
        {
            log.Fail(result.Code is null ? "no answer" : $"HTTP {result.Code}");
            return result.Outcome switch
            {
                AttemptOutcome.Gateway when result.Code is "401" or "403" => log.End(
                    "The gateway does not know us.",
                    result.Reply,
                    lines,
                    "Check the key in the headers; it is not shown here."
                ),
                AttemptOutcome.Gateway => log.End(
                    "There is nothing at this address.",
                    result.Reply,
                    lines,
                    "The server is there, the path is not: check the address."
                ),
                AttemptOutcome.Temporary => log.End(
                    "Not now: the gateway wants the message later.",
                    result.Reply,
                    lines,
                    "Nothing is to be changed: alerts are tried again by themselves."
                ),
                AttemptOutcome.Unknown => log.End("The line dropped before an answer came.", result.Reply, lines, "Try again; the message may have arrived."),
                _ => log.End(
                    "The gateway refused the message.",
                    result.Reply,
                    lines,
                    "Check the address of the test, and whether the body has the members that the gateway wants."
                ),
            };
        }

        log.Pass($"HTTP {result.Code}");
        if (result.FarId is not null)
        {
            log.Pass(result.FarId);
        }
        else if (settings.IdAt is { Length: > 0 } at)
        {
            log.Fail($"nothing at {at}");
            return log.End(
                "The message was taken, and its id was not found in the answer.",
                "Receipts could not be joined to their message.",
                lines,
                $"The answer stands below: correct where the id stands, now '{at}'."
            );
        }
        else
        {
            log.Leave("not asked for");
        }

        var news = ways.Hear is { } hear ? await hear(result.FarId) : new ProbeNews(null, "not awaited here");
        switch (news.Arrived)
        {
            case true:
                log.Pass(news.Words);
                return log.End("The message arrived.", "", lines);
            case false:
                log.Fail(news.Words);
                return log.End("The message was taken and did not arrive.", news.Words, lines, "Check the address of the test.");
            default:
                log.Leave(news.Words);
                return log.End(
                    "The message was taken.",
                    "Whether it reached the handset or the room, no receipt has said: alerts by this gateway will stay 'handed over'.",
                    lines,
                    "Enter the receipts' address, shown above, with the carrier."
                );
        }
    }
}
