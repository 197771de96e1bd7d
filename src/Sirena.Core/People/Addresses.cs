using System.Text.RegularExpressions;
using Sirena.Core.Deliveries;

namespace Sirena.Core.People;

/// <summary>Reads address fields: one field takes several addresses, separated by comma, semicolon, space or line break.</summary>
public static partial class Addresses
{
    /// <summary>The addresses of a field.</summary>
    /// <param name="channel">The channel decides what an address is.</param>
    /// <param name="text">The field.</param>
    /// <returns>The good ones as the channel writes them, each once; a sentence for each bad one.</returns>
    public static (IReadOnlyList<string> Good, IReadOnlyList<string> Problems) Read(Channel channel, string? text)
    {
        var good = new List<string>();
        var problems = new List<string>();
        foreach (var part in Split(channel, text ?? ""))
        {
            if (Problem(channel, part, out var address) is { } problem)
            {
                problems.Add($"'{part}' {problem}.");
            }
            else if (!good.Contains(address, StringComparer.OrdinalIgnoreCase))
            {
                good.Add(address);
            }
        }

        return (good, problems);
    }

    // A number may hold spaces; a new one begins at its plus sign.
    private static IEnumerable<string> Split(Channel channel, string text) =>
        (channel == Channel.Sms ? Numbers().Split(text) : Words().Split(text)).Select(p => p.Trim()).Where(p => p.Length > 0);

    private static string? Problem(Channel channel, string part, out string address)
    {
        address = part;
        switch (channel)
        {
            case Channel.Mail:
                return MailAddress.TryParse(part, out _, out var bad) ? null : bad;
            case Channel.Sms:
                address = PhoneNumber.TryParse(part, out var number, out var wrong) ? number.Value : part;
                return wrong;
            case Channel.Ticket:
                return PrinterAddress.TryParse(part, out _, out var fault) ? null : fault;
            default:
                return part.Length > 200 || part.Any(char.IsControl) ? "is longer than 200 characters or holds control characters" : null;
        }
    }

    [GeneratedRegex(@"[,;\s]+")]
    private static partial Regex Words();

    [GeneratedRegex(@"[,;\r\n]+|\s+(?=\+|00)")]
    private static partial Regex Numbers();
}
