using System.Globalization;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Wordings;

namespace Sirena.Web.Pages.Shared;

/// <summary>Instants as the business's people read them.</summary>
/// <param name="Now">The moment of the page.</param>
/// <param name="Zone">The business's time zone.</param>
public sealed record DeskTime(Instant Now, DateTimeZone Zone)
{
    /// <summary>A moment as a form's date and time field holds it.</summary>
    public static LocalDateTimePattern Field { get; } = LocalDateTimePattern.CreateWithInvariantCulture("yyyy-MM-dd'T'HH:mm");

    /// <summary>The language of whoever reads.</summary>
    public TextLanguage Language { get; init; } = TextLanguage.En;

    /// <summary>The wall time of the moment.</summary>
    public LocalDateTime Wall => Now.InZone(Zone).LocalDateTime;

    /// <summary>The instant that a field for a day and time says, in words or ISO 8601; <see langword="null"/> when it says none.</summary>
    public Instant? Read(string? field) => ReadLocal(field)?.InZoneLeniently(Zone).ToInstant();

    /// <summary>The wall time that such a field says, from 1970 to 2199; <see langword="null"/> for anything else.</summary>
    public LocalDateTime? ReadLocal(string? field) => WhenText.Read(field, Wall);

    /// <summary>The day that a field for one says; <see langword="null"/> for anything else.</summary>
    public LocalDate? ReadTyped(string? field) => WhenText.ReadDay(field, Wall);

    /// <summary>A day as an address holds it, from 1970 to 2199; <see langword="null"/> for anything else.</summary>
    public static LocalDate? ReadDay(string? field) =>
        LocalDatePattern.Iso.Parse(field ?? "") is { Success: true } read && KnownTime.Holds(read.Value) ? read.Value : null;

    /// <summary>Today.</summary>
    public LocalDate Today => Now.InZone(Zone).Date;

    /// <summary>The begin of today.</summary>
    public Instant Midnight => Zone.AtStartOfDay(Today).ToInstant();

    /// <summary>It is due within half an hour, or was already.</summary>
    public bool Soon(Instant due) => due - Now < Duration.FromMinutes(30);

    /// <summary><c>14:32</c>, with the day before it when it is not today: <c>Fri 07:00</c>, <c>2 Mar 07:00</c>.</summary>
    public string Short(Instant at)
    {
        var local = at.InZone(Zone);
        var days = Period.DaysBetween(Today, local.Date);
        var day =
            days == 0 ? ""
            : Math.Abs(days) < 6 ? Language.Weekday(local.Date) + " "
            : Language.DayOfYear(local.Date) + " ";
        return day + TextLanguage.Time(local.TimeOfDay);
    }

    /// <summary><c>Thu 14 May 22:15</c>, with its year when that is another.</summary>
    public string Day(Instant at) =>
        at.InZone(Zone).ToString(at.InZone(Zone).Year == Today.Year ? "ddd d MMM HH:mm" : "ddd d MMM yyyy HH:mm", CultureInfo.InvariantCulture);

    /// <summary><c>14:32:08</c>, with the day before it when it is not today.</summary>
    public string Exact(Instant at)
    {
        var local = at.InZone(Zone);
        return (local.Date == Today ? "" : Language.DayOfYear(local.Date) + " ") + local.ToString("HH:mm:ss", CultureInfo.InvariantCulture);
    }

    /// <summary><c>Wed 25 Nov 2026, 14:32:08</c>.</summary>
    public string Full(Instant at) => at.InZone(Zone).ToString("ddd d MMM yyyy, HH:mm:ss", CultureInfo.InvariantCulture);

    /// <summary><c>in 18 min</c>, <c>3 over</c>.</summary>
    public string Until(Instant at) => at >= Now ? Language.Word("in {0}", Span(at - Now)) : Language.Word("{0} over", Span(Now - at));

    /// <summary><c>12 min ago</c>.</summary>
    public string Since(Instant at) => Language.Word("{0} ago", Span(Now - at));

    // The only word in a length of time of the desk is that for days.
    private string Span(Duration span) => span.InWords().Replace("days", Language.Word("days"), StringComparison.Ordinal);
}
