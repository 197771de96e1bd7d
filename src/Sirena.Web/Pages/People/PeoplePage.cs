using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>What the pages about people share: the week that is shown, and how a contact point is drawn.</summary>
public abstract class PeoplePage : SirenaPage
{
    private static readonly Channel[] Shown = [.. ChannelTraits.WithGateways];

    /// <summary>A day of the week that is shown, ISO 8601; this week where it is missing or wrong.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Week { get; set; }

    /// <summary>The Monday of the week that is shown.</summary>
    public LocalDate Monday => Start(DeskTime.ReadDay(Week) ?? Clock.Today);

    /// <summary>The drawing of the week.</summary>
    public WeekDrawing Drawing => new(Monday, Clock);

    /// <summary>A date as an address writes it.</summary>
    public static string Iso(LocalDate date) => LocalDatePattern.Iso.Format(date);

    /// <summary>The week in words: <c>23 to 29 November 2026</c>.</summary>
    public string WeekWords
    {
        get
        {
            var last = Monday.PlusDays(6);
            return $"{Monday.ToString(Monday.Month == last.Month ? "%d" : "d MMMM", CultureInfo.InvariantCulture)} to "
                + $"{last.ToString("d MMMM yyyy", CultureInfo.InvariantCulture)}";
        }
    }

    /// <summary>
    /// The channels at a glance, each with how a person is reached there: <c>good</c>, <c>open</c> (not verified), <c>bad</c> (broken), or nothing.
    /// </summary>
    public static IEnumerable<(Channel Channel, string? State, string Words)> Reach(Person person) =>
        Shown.Select(channel =>
        {
            var points = person.Contacts.Where(c => c.Channel == channel).ToArray();
            var best = points.FirstOrDefault(p => p.Usable && p.Verified) ?? points.FirstOrDefault(p => p.Usable) ?? points.FirstOrDefault();
            return best is null ? (channel, (string?)null, "none")
                : best.BrokenAt is not null ? (channel, "bad", $"{best.Address} is broken")
                : best.Verified ? (channel, "good", $"{best.Address}, verified")
                : (channel, "open", $"{best.Address}, not verified yet");
        });

    /// <summary>What is good to know of a person, the worst first; the second part says whether it needs mending.</summary>
    public (string Words, bool Bad)? Hint(Person person)
    {
        if (person.Contacts.Count == 0)
        {
            return ("no address at all", true);
        }

        if (person.Contacts.Find(c => c.BrokenAt is not null) is { } broken)
        {
            return ($"{(broken.Channel == Channel.Mail ? "mail bounces" : "number is broken")}", true);
        }

        if (!person.Contacts.Exists(c => c.Usable && c.Verified))
        {
            return ("no address verified", true);
        }

        if (person.Away.Where(a => a.To > Drawing.Begin && a.From < Drawing.End).Select(a => (Leave?)a).FirstOrDefault() is { } leave)
        {
            return (
                $"leave {leave.From.InZone(Clock.Zone).ToString("d MMM", CultureInfo.InvariantCulture)}"
                    + $"{(leave.Cover is { } cover ? $", {Around.NameOf(cover).Split(' ')[^1]} covers" : ", no cover")}",
                leave.Cover is null
            );
        }

        return person.Quiet.Count > 0
                ? (
                    $"quiet {person.Quiet[0].From.ToString("HH:mm", CultureInfo.InvariantCulture)} to "
                        + $"{person.Quiet[0].To.ToString("HH:mm", CultureInfo.InvariantCulture)}",
                    false
                )
            : person.OptOuts.Count > 0 ? ($"{person.OptOuts.Count} opt-out{(person.OptOuts.Count > 1 ? "s" : "")}", false)
            : null;
    }

    private static LocalDate Start(LocalDate day) => day.PlusDays(1 - (int)day.DayOfWeek);
}
