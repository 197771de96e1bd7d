using NodaTime;
using Sirena.Formats.Documents;

namespace Sirena.Formats.People;

/// <summary>People as a file of any kind that is taken.</summary>
public static class PeopleFile
{
    /// <summary>Reads a file.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="charset">Its declared character set, or <see langword="null"/>.</param>
    /// <param name="format"><c>yaml</c>, <c>yml</c>, <c>json</c>, <c>jsonl</c>, <c>csv</c> or <c>vcf</c>.</param>
    /// <param name="zone">The business's time zone, for dates.</param>
    /// <param name="sites">The ids of the sites that exist.</param>
    /// <returns>The people, or <see langword="null"/> when there is no such format.</returns>
    public static PeopleDocument? Read(byte[] bytes, string? charset, string format, DateTimeZone zone, IReadOnlyCollection<string> sites)
    {
        if (format is "vcf")
        {
            return VCardReader.Read(bytes, charset);
        }

        if (format is not ("csv" or "jsonl" or "yaml" or "yml" or "json"))
        {
            return null;
        }

        var (text, error) = TextBytes.Read(bytes, charset);
        return text is null
            ? new PeopleDocument([], [error!], 1)
            : format switch
            {
                "csv" => PeopleCsv.Read(text, sites),
                "jsonl" => PeopleReader.ReadLines(text, zone, sites),
                _ => PeopleReader.Read(text, format != "json", zone, sites),
            };
    }
}
