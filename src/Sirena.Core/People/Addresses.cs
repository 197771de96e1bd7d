using Sirena.Core.Deliveries;

namespace Sirena.Core.People;

/// <summary>Reads address fields: one field takes several addresses, separated by comma, semicolon, space or line break.</summary>
public static class Addresses
{
    /// <summary>The addresses of a field.</summary>
    /// <param name="channel">The channel decides what an address is.</param>
    /// <param name="text">The field.</param>
    /// <returns>The good ones as the channel writes them, each once; a sentence for each bad one.</returns>
    public static (IReadOnlyList<string> Good, IReadOnlyList<string> Problems) Read(Channel channel, string? text)
    {
        var good = new List<string>();
        var problems = new List<string>();
        var traits = channel.Traits();
        foreach (var part in traits.Split(text ?? ""))
        {
            var (problem, address) = traits.Read(part);
            if (problem is not null)
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
}
