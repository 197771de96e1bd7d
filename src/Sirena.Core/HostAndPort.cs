using System.Globalization;

namespace Sirena.Core;

/// <summary>A server's place as people write it: <c>host:port</c>.</summary>
public static class HostAndPort
{
    /// <summary>Reads one.</summary>
    /// <param name="text">The text that was given.</param>
    /// <param name="usual">The port where none is given.</param>
    /// <returns>The host without brackets and the port; <see langword="null"/> when it is neither.</returns>
    public static (string Host, int Port)? Read(string text, int usual)
    {
        var colon = text.LastIndexOf(':');
        var (host, port) =
            colon < 0
                ? (text.Trim(), usual)
                : (text[..colon].Trim(), int.TryParse(text[(colon + 1)..], NumberStyles.Integer, CultureInfo.InvariantCulture, out var p) ? p : 0);
        return host.Length > 0 && port is > 0 and < 65536 && Uri.CheckHostName(host.Trim('[', ']')) != UriHostNameType.Unknown
            ? (host.Trim('[', ']'), port)
            : null;
    }
}
