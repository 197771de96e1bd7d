using System.Text;
using NodaTime;
using Sirena.Core.People;
using Sirena.Formats.Calendars;

namespace Sirena.Core.Tests.People;

/// <summary>
/// Calendars as the tests read them: for the team desk, in Lisbon, in June 2026; everybody of a.example is known by what stands before the @.
/// </summary>
internal static class Calendars
{
    public static readonly DateTimeZone Lisbon = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];
    public static readonly Instant Now = Instant.FromUtc(2026, 6, 1, 12, 0);

    public static string Of(string inside) => $"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//elsewhere//EN\r\n{inside}END:VCALENDAR\r\n";

    public static string? Known(string address) =>
        address.EndsWith("@a.example", StringComparison.OrdinalIgnoreCase) ? address.Split('@')[0].ToLowerInvariant() : null;

    public static RotaFile Read(string text, Func<string, string?>? person = null) => Read(Encoding.UTF8.GetBytes(text), person: person);

    public static RotaFile Read(byte[] bytes, string? charset = null, Func<string, string?>? person = null) =>
        RotaFile.Read(bytes, charset, "desk", person ?? Known, Lisbon, Now);

    public static IReadOnlyList<Duty> Duties(this RotaFile file, string from = "2026-01-01", int days = 365)
    {
        Assert.Empty(file.Errors);
        var begin = NodaTime.Text.LocalDatePattern.Iso.Parse(from).Value.AtStartOfDayInZone(Lisbon).ToInstant();
        return new Rota(file.Shifts, Lisbon).Between("desk", begin, begin + Duration.FromDays(days));
    }
}
