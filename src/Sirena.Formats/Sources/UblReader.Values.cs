using System.Globalization;
using System.Text.Json.Nodes;
using System.Xml.Linq;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.Sources;

namespace Sirena.Formats.Sources;

public sealed partial class UblReader
{
    private Instant? Time(XElement at, string date, string time, string path)
    {
        if (Text(at, Cbc + date) is not { } day)
        {
            return null;
        }

        // xsd:date and xsd:time, each with or without an offset.
        var clock = Text(at, Cbc + time);
        var read =
            OffsetDateTimePattern.ExtendedIso.Parse($"{day[..Math.Min(10, day.Length)]}T{clock}") is { Success: true } exact ? Core.KnownTime.Of(exact.Value)
            : LocalDateTimePattern.ExtendedIso.Parse($"{day[..Math.Min(10, day.Length)]}T{clock ?? "00:00:00"}") is { Success: true } wall
            && Core.KnownTime.Holds(wall.Value.Date)
                ? wall.Value.InZoneLeniently(zone).ToInstant()
            : (Instant?)null;
        if (read is { } instant && Core.KnownTime.Holds(instant))
        {
            return instant;
        }

        problems.Add(
            new BodyProblem($"{path}/{date}", Cut(clock is null ? day : $"{day} {clock}"), "a date of XML Schema, such as 2026-11-24, from 1970 to 2199")
        );
        return null;
    }

    private void Number(JsonObject into, string name, XElement? at, string path)
    {
        if (at?.Value.Trim() is not { Length: > 0 } text)
        {
            return;
        }

        if (decimal.TryParse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number))
        {
            into[name] = number;
        }
        else
        {
            problems.Add(new BodyProblem(path, Cut(text), "a decimal number of XML Schema"));
        }
    }

    private static void Put(JsonObject into, string name, string? text, bool extra = false)
    {
        if (text is not null)
        {
            (extra ? into["extra"] as JsonObject ?? (JsonObject)(into["extra"] = new JsonObject()) : into)[name] = FarText.Clean(text, 10_000);
        }
    }

    private static string? Text(XElement from, params XName[] way)
    {
        XElement? at = from;
        foreach (var name in way)
        {
            at = at?.Element(name);
        }

        return at?.Value.Trim() is { Length: > 0 } text ? text : null;
    }

    private static string Cut(string text) => FarText.Clean(text, 120);
}
