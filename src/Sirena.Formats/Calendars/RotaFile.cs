using NodaTime;
using Sirena.Core.People;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Calendars;

/// <summary>An entry, or somebody named in one, that a calendar holds and a rota does not take.</summary>
/// <param name="Line">Where it stands, from 1.</param>
/// <param name="Uid">The entry's UID.</param>
/// <param name="What">What it is called, or the address.</param>
/// <param name="Because">Why it is left out, one clause.</param>
public sealed record LeftOutOfRota(int Line, string Uid, string What, string Because);

/// <summary>A calendar read as a team's rota: all of it, or the mistakes and nothing.</summary>
/// <param name="Shifts">The shifts.</param>
/// <param name="LeftOut">What is no shift, or names nobody of the house.</param>
/// <param name="Errors">Every mistake with its line.</param>
public sealed record RotaFile(IReadOnlyList<Shift> Shifts, IReadOnlyList<LeftOutOfRota> LeftOut, IReadOnlyList<DocumentError> Errors)
{
    private const int MostEntries = 5_000;
    private const int LongestText = 4 * 1024 * 1024;

    /// <summary>Reads a calendar. It is read to its end and worked out before it is taken.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="charset">Its declared character set, or <see langword="null"/>.</param>
    /// <param name="team">The team's id.</param>
    /// <param name="person">The id of the person whom a mail address names, or <see langword="null"/>.</param>
    /// <param name="zone">The business's time zone.</param>
    /// <param name="now">Around when it is worked out.</param>
    public static RotaFile Read(byte[] bytes, string? charset, string team, Func<string, string?> person, DateTimeZone zone, Instant now)
    {
        if (bytes.Length > LongestText)
        {
            return Wrong(new DocumentError("", null, null, "The calendar is longer than 4 MB."));
        }

        var (lines, broken) = ContentLines.Read(bytes, charset);
        var (calendars, open) = broken is null ? CalendarComponent.Read(lines) : ([], broken);
        if (open is not null)
        {
            return Wrong(open);
        }

        var entries = calendars.Sum(c => c.Children.Count(x => x.Name == "VEVENT"));
        if (entries > MostEntries)
        {
            return Wrong(new DocumentError("", null, null, $"The calendar holds {entries} entries; a team's rota holds at most {MostEntries}."));
        }

        var reader = new RotaReader(team, person, new CalendarZones(calendars, zone));
        foreach (var calendar in calendars)
        {
            reader.Read(calendar);
        }

        if (entries == 0)
        {
            var others = calendars.SelectMany(c => c.Children).Select(c => c.Name).Distinct().Take(4);
            reader.Errors.Add(
                new DocumentError(
                    "VEVENT",
                    1,
                    1,
                    $"The calendar holds no shift (VEVENT){(others.Any() ? $", only {string.Join(", ", others)}" : "")}. To empty a rota, delete it or "
                        + "say so (?empty=yes)."
                )
            );
        }

        return reader.Errors.Count > 0 ? new RotaFile([], reader.LeftOut, reader.Errors) : Worked(reader, zone, now);
    }

    private static RotaFile Worked(RotaReader reader, DateTimeZone zone, Instant now) =>
        RotaWork.Problem(reader.Shifts, zone, now) is { } problem ? Wrong(problem) : new RotaFile(reader.Shifts, reader.LeftOut, []);

    private static RotaFile Wrong(DocumentError error) => new([], [], [error]);
}
