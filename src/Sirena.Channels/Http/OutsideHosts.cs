using System.Net;
using System.Net.Sockets;

namespace Sirena.Channels.Http;

/// <summary>
/// Lets requests to addresses that people give reach the outside only: loopback, private, link-local and other inner addresses are refused when the connection
/// is made, on the address that the name really has,
/// unless the host is on the list.
/// </summary>
/// <param name="allowed">Hosts that may be inside, as they are written in addresses.</param>
public sealed class OutsideHosts(IEnumerable<string> allowed)
{
    private readonly HashSet<string> list = new(allowed, StringComparer.OrdinalIgnoreCase);

    /// <summary>A handler that follows no redirect and connects only where it may.</summary>
    public SocketsHttpHandler Handler() =>
        new()
        {
            AllowAutoRedirect = false,
            ConnectTimeout = TimeSpan.FromSeconds(10),
            PooledConnectionLifetime = TimeSpan.FromMinutes(5),
            UseProxy = false,
            ConnectCallback = ConnectAsync,
        };

    /// <summary>Whether an address, as it is written, may be called; a name is looked at again when the connection is made.</summary>
    public bool May(Uri address) =>
        list.Contains(address.Host)
        || list.Contains($"{address.Host}:{address.Port}")
        || !(address.Host is "localhost" || (IPAddress.TryParse(address.Host.Trim('[', ']'), out var literal) && IsInside(literal)));

    /// <summary>Whether an address lies inside: loopback, private (RFC 1918, RFC 4193), link-local, shared, multicast or unspecified.</summary>
    public static bool IsInside(IPAddress address)
    {
        if (address.IsIPv4MappedToIPv6)
        {
            return IsInside(address.MapToIPv4());
        }

        if (address.AddressFamily == AddressFamily.InterNetworkV6)
        {
            return Carried(address.GetAddressBytes()) is { } inner
                ? IsInside(inner)
                : IPAddress.IsLoopback(address)
                    || address.IsIPv6LinkLocal
                    || address.IsIPv6SiteLocal
                    || address.IsIPv6UniqueLocal
                    || address.IsIPv6Multicast
                    || address.Equals(IPAddress.IPv6Any);
        }

        var b = address.GetAddressBytes();
        return b[0] is 0 or 10 or 127 or >= 224
            || (b[0] == 172 && b[1] is >= 16 and < 32)
            || (b[0] == 192 && b[1] == 168)
            || (b[0] == 169 && b[1] == 254)
            || (b[0] == 100 && b[1] is >= 64 and < 128);
    }

    // An IPv4 address that an IPv6 one carries on: translated (RFC 6052, 64:ff9b::/96), 6to4 (RFC 3056, 2002::/16), or the old compatible form (RFC 4291,
    // 2.5.5.1).
    private static IPAddress? Carried(byte[] b) =>
        b.AsSpan(0, 12).SequenceEqual(new byte[] { 0, 0x64, 0xFF, 0x9B, 0, 0, 0, 0, 0, 0, 0, 0 })
        || (!b.AsSpan(0, 12).ContainsAnyExcept((byte)0) && b.AsSpan(12).ContainsAnyExcept((byte)0) && b is not [.., 0, 0, 0, 1])
            ? new IPAddress(b.AsSpan(12))
        : b is [0x20, 0x02, ..] ? new IPAddress(b.AsSpan(2, 4))
        : null;

    private async ValueTask<Stream> ConnectAsync(SocketsHttpConnectionContext context, CancellationToken cancel)
    {
        var (host, port) = (context.DnsEndPoint.Host, context.DnsEndPoint.Port);
        var found = IPAddress.TryParse(host, out var literal) ? [literal] : await Dns.GetHostAddressesAsync(host, cancel);
        IPAddress[] good = list.Contains(host) || list.Contains($"{host}:{port}") ? found : [.. found.Where(a => !IsInside(a))];
        if (good.Length == 0)
        {
            throw new HttpRequestException(HttpRequestError.ConnectionError, $"{host} lies inside this network; such addresses are not called");
        }

        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(good, port, cancel);
            return new NetworkStream(socket, ownsSocket: true);
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }
}
