using System.Collections.Immutable;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.People;
using Sirena.Formats.Calendars;

namespace Sirena.Demo.World;

/// <summary>Who works when at Averil Quay: the rotas, this week's leave, and what people wish.</summary>
public static class Duty
{
    private static readonly IsoDayOfWeek[] Week =
    [
        IsoDayOfWeek.Monday,
        IsoDayOfWeek.Tuesday,
        IsoDayOfWeek.Wednesday,
        IsoDayOfWeek.Thursday,
        IsoDayOfWeek.Friday,
    ];
    private static readonly IsoDayOfWeek[] Weekend = [IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday];

    // Team, person, days on which the shift begins, begin, end, place. Nobody of Credit control is there from Sunday 23:00 to Monday 07:00: a dark hour to be
    // found.
    private static readonly (string Team, string Person, IsoDayOfWeek[] Days, int From, int To, string? Place)[] Pattern =
    [
        ("kitchen", "tomas.reyle", Week, 6, 14, null),
        (
            "kitchen",
            "noor.haddad",
            [IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday, IsoDayOfWeek.Saturday],
            8,
            16,
            null
        ),
        ("kitchen", "emil.sorensen", Week, 14, 22, null),
        ("kitchen", "alba.ferro", [IsoDayOfWeek.Monday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Friday, IsoDayOfWeek.Sunday], 4, 12, null),
        ("kitchen", "jonas.weil", [IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday, IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday, IsoDayOfWeek.Monday], 10, 18, null),
        ("warehouse", "signe.aalto", Week, 6, 14, "cold-store"),
        ("warehouse", "petra.lindqvist", Week, 7, 15, "bonded-store"),
        ("warehouse", "ruben.achterberg", [IsoDayOfWeek.Saturday], 8, 14, "bonded-store"),
        ("warehouse", "lena.okonjo", Week, 9, 17, "chandlery"),
        ("warehouse", "milo.trask", Week, 6, 14, null),
        ("warehouse", "bram.osei", Week, 14, 22, null),
        ("warehouse", "kaia.lund", Week, 22, 6, null),
        ("warehouse", "teo.marchetti", Weekend, 7, 19, null),
        ("account-managers", "ines.calder", Week, 8, 17, null),
        ("account-managers", "odile.varga", Week, 9, 18, null),
        ("account-managers", "hugo.brandt", Week, 8, 16, null),
        ("account-managers", "ansel.roe", Week, 7, 15, null),
        ("credit-control", "farah.mensah", Week, 7, 15, null),
        ("credit-control", "wanda.petrov", Weekend, 7, 15, null),
        ("credit-control", "wanda.petrov", [IsoDayOfWeek.Tuesday, IsoDayOfWeek.Thursday], 11, 19, null),
        ("credit-control", "joost.hale", [.. Week, .. Weekend], 15, 23, null),
        ("credit-control", "ivo.kranz", [.. Week, IsoDayOfWeek.Saturday], 23, 7, null),
        ("quayside-drivers", "yusuf.adeyemi", Week, 6, 14, null),
        ("quayside-drivers", "sanna.rautio", Week, 14, 22, null),
        ("quayside-drivers", "okke.brandsma", Weekend, 6, 18, null),
        ("quayside-drivers", "dario.neves", Week, 22, 6, null),
        ("desk", "maren.holt", Week, 8, 17, null),
        ("desk", "maria.vasconcelos", Week, 7, 15, null),
        ("desk", "finn.ashby", Week, 12, 20, null),
        ("desk", "greta.solheim", Weekend, 8, 20, null),
        ("desk", "ivo.kranz", [.. Week, .. Weekend], 22, 6, null),
    ];

    /// <summary>The shifts, weekly since before the history begins.</summary>
    public static IEnumerable<Shift> Shifts(IReadOnlyCollection<Person> people, Instant now, DateTimeZone zone)
    {
        var monday = now.InZone(zone).Date.Next(IsoDayOfWeek.Monday).PlusWeeks(-7);
        foreach (var (team, id, days, from, to, place) in Pattern)
        {
            var person = people.First(p => p.Id == id);
            var first = days.Select(d => monday.PlusDays((int)d - 1)).Min();
            var begin = first.At(new LocalTime(from, 0));
            yield return ShiftText.Make(
                team,
                RotaDesk.InCalendars(person),
                begin,
                (to > from ? first : first.PlusDays(1)).At(new LocalTime(to, 0)),
                days,
                zone,
                place,
                now
            );
        }
    }

    /// <summary>Puts this week's leave and people's wishes in: a chain of two covers, a driver whom nobody covers.</summary>
    public static void Wishes(IReadOnlyCollection<Person> people, Instant now, DateTimeZone zone)
    {
        var friday = now.InZone(zone).Date.PlusDays(-1).Next(IsoDayOfWeek.Friday);
        Person P(string id) => people.First(p => p.Id == id);
        P("farah.mensah").Away.Add(Leave.Of(friday, friday, "wanda.petrov", zone));
        P("wanda.petrov").Away.Add(Leave.Of(friday, friday, "ivo.kranz", zone));
        P("sanna.rautio").Away.Add(Leave.Of(friday, friday, null, zone));
        P("hugo.brandt").Away.Add(Leave.Of(friday.PlusDays(3), friday.PlusDays(14), "odile.varga", zone));
        P("noor.haddad").Quiet.Add(new WeeklySpan([], new LocalTime(20, 0), new LocalTime(6, 0)));
        P("signe.aalto").Quiet.Add(new WeeklySpan([.. Week], new LocalTime(11, 0), new LocalTime(13, 0)));
        P("noor.haddad").OptOuts.Add(new OptOut("order.note-added", null, Channel.Sms));
        P("jonas.weil").OptOuts.Add(new OptOut(null, "cancelled-late", null));
        P("dario.neves").Language = P("maria.vasconcelos").Language = "pt";
        P("odile.varga").First[Urgency.Urgent] = Channel.Sms;
        P("hugo.brandt").Codes.AddRange(["HB", "RV-DESK"]);
    }
}
