using System.Collections.Frozen;

namespace Sirena.Core.Deliveries;

/// <summary>A header that somebody gives for each request to a gateway.</summary>
public static class RequestHeader
{
    // What HTTP itself sets, request by request (RFC 9110, 7.6.1, 8.3, 8.6 and 10.1.1; RFC 9112, 6.1), and the marks that Sirena signs with.
    private static readonly FrozenSet<string> Set = new[]
    {
        "connection",
        "content-length",
        "content-type",
        "expect",
        "host",
        "keep-alive",
        "proxy-connection",
        "te",
        "trailer",
        "transfer-encoding",
        "upgrade",
        "webhook-id",
        "webhook-signature",
        "webhook-timestamp",
    }.ToFrozenSet(StringComparer.OrdinalIgnoreCase);

    /// <summary>What is wrong with one, in a sentence that names it; <see langword="null"/> for nothing.</summary>
    /// <param name="name">A token of RFC 9110, 5.6.2, at most 100 characters.</param>
    /// <param name="value">Visible characters of ASCII, spaces and tabs (5.5), at most 4,000.</param>
    public static string? Problem(string name, string value) =>
        name.Length is 0 or > 100 || !name.All(c => char.IsAsciiLetterOrDigit(c) || "!#$%&'*+-.^_`|~".Contains(c, StringComparison.Ordinal))
            ? $"'{Quoting.Cut(name)}' is no name of a header: it is made of letters, digits and hyphens."
        : Set.Contains(name) ? $"The header {name} is set by Sirena for each request. Leave it out."
        : value.Length > 4_000 || value.Any(c => c is (< ' ' and not '\t') or > '~')
            ? $"The value of {name} is one line of at most 4,000 letters, digits and signs of ASCII."
        : null;

    /// <summary>Reads headers as they are typed, one a line: <c>Authorization: Bearer …</c>.</summary>
    /// <returns>The headers by name, and for each line that is none or comes twice what is wrong with it.</returns>
    public static (IReadOnlyDictionary<string, string> Headers, IReadOnlyList<string> Problems) ReadLines(string text)
    {
        var (headers, problems) = (new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase), new List<string>());
        foreach (var line in text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (line.Split(':', 2, StringSplitOptions.TrimEntries) is not [var name, var value])
            {
                problems.Add($"'{Quoting.Cut(line, 20)}' is no header: write its name, a colon and its value.");
            }
            else if (!headers.TryAdd(name, value))
            {
                problems.Add($"The header {name} stands here twice.");
            }
        }

        return (headers, problems);
    }
}
