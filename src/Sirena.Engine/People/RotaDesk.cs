using System.Globalization;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.People;
using Sirena.Formats.Calendars;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.People;

/// <summary>What a caller has said yes to before something is replaced.</summary>
public enum LessConsent
{
    /// <summary>Nothing: less than half may go.</summary>
    None,

    /// <summary>More than half may go.</summary>
    Less,

    /// <summary>All may go.</summary>
    Empty,
}

/// <summary>What a new calendar changes.</summary>
/// <param name="Gone">What stood there and would stand no more, in words.</param>
/// <param name="Stays">How many entries stay.</param>
/// <param name="New">How many are new.</param>
public sealed record RotaDifference(IReadOnlyList<string> Gone, int Stays, int New)
{
    /// <summary>More than half of what stood there would go.</summary>
    public bool AsksFirst => Gone.Count > Stays;

    /// <summary>Compares. An entry stays that has the same UID, or the same people at the same times.</summary>
    public static RotaDifference Of(IReadOnlyList<Shift> stood, IReadOnlyList<Shift> now, Func<string, string> name)
    {
        var (uids, contents) = (now.Select(s => s.Uid).ToHashSet(), now.Select(Content).ToHashSet());
        var gone = stood.Where(s => !uids.Contains(s.Uid) && !contents.Contains(Content(s))).ToList();
        var stays = stood.Count - gone.Count;
        return new RotaDifference([.. gone.Select(s => Words(s, name))], stays, Math.Max(0, now.Count - stays));
    }

    private static string Content(Shift shift) =>
        $"{string.Join(',', shift.People.Order(StringComparer.Ordinal))} {Line(shift, "DTSTART")} {Line(shift, "DTEND")} {Line(shift, "DURATION")} "
        + $"{Line(shift, "RRULE")}";

    private static string Words(Shift shift, Func<string, string> name)
    {
        var from = Line(shift, "DTSTART")?.Split(':')[^1] ?? "";
        var when = LocalDateTimePattern.CreateWithInvariantCulture("uuuuMMdd'T'HHmmss").Parse(from.TrimEnd('Z')) is { Success: true } at
            ? at.Value.ToString("d MMM uuuu, HH:mm", CultureInfo.InvariantCulture)
            : from;
        return $"{(shift.People.Count == 0 ? "a night that differs" : string.Join(", ", shift.People.Select(name)))}: from "
            + $"{when}{(from.EndsWith('Z') ? " UTC" : "")}{(Line(shift, "RRULE") is { } rule ? $", {Again(rule)}" : "")}";
    }

    // The common repetitions in words; any other as such.
    private static string Again(string line)
    {
        var parts = line.Split(':')[^1]
            .Split(';')
            .Select(p => p.Split('=', 2))
            .Where(p => p.Length == 2)
            .DistinctBy(p => p[0])
            .ToDictionary(p => p[0], p => p[1]);
        var days = (parts.GetValueOrDefault("BYDAY") ?? "").Split(',', StringSplitOptions.RemoveEmptyEntries).Select(d => Days.GetValueOrDefault(d)).ToArray();
        return (parts.GetValueOrDefault("FREQ"), parts.ContainsKey("INTERVAL") || days.Contains(null)) switch
        {
            ("DAILY", false) when days.Length == 0 => "every day",
            ("WEEKLY", false) => days.Length == 0 ? "every week" : $"every {string.Join(", ", days)}",
            _ => "again and again",
        };
    }

    private static readonly Dictionary<string, string> Days = new()
    {
        ["MO"] = "Mon",
        ["TU"] = "Tue",
        ["WE"] = "Wed",
        ["TH"] = "Thu",
        ["FR"] = "Fri",
        ["SA"] = "Sat",
        ["SU"] = "Sun",
    };

    private static string? Line(Shift shift, string property) =>
        shift.Component.Replace("\r\n ", "", StringComparison.Ordinal).Split("\r\n").FirstOrDefault(l => l.StartsWith(property, StringComparison.Ordinal));
}

/// <summary>How replacing a rota ended.</summary>
/// <param name="Shifts">How many shifts it has now.</param>
/// <param name="LeftOut">What of the calendar is no shift.</param>
/// <param name="Errors">The mistakes; nothing is changed then.</param>
/// <param name="Difference">What would go, when that is much and nobody has said yes; nothing is changed then.</param>
public sealed record RotaSave(int Shifts, IReadOnlyList<LeftOutOfRota> LeftOut, IReadOnlyList<DocumentError> Errors, RotaDifference? Difference);

/// <summary>Saves rotas; each change makes every node read them again.</summary>
public sealed class RotaDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, Signals signals, IClock clock)
{
    private static readonly Duration FarAhead = Duration.FromDays(3 * 365);

    /// <summary>Replaces a team's rota by a calendar. What takes away more than half of what stood there asks first.</summary>
    /// <param name="team">The team's id.</param>
    /// <param name="bytes">The calendar.</param>
    /// <param name="charset">Its declared character set, or <see langword="null"/>.</param>
    /// <param name="consent">What the caller has said yes to.</param>
    /// <param name="by">The name of whoever replaces it.</param>
    public async Task<RotaSave> PutAsync(string team, byte[] bytes, string? charset, LessConsent consent, string by, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var file = RotaFile.Read(bytes, charset, team, address => Named(around.Staff, address), around.Business.Zone, clock.GetCurrentInstant());
        var empties = file.Shifts.Count == 0 && file.Errors.All(e => e.Path == "VEVENT" && e.Line == 1);
        if (file.Errors.Count > 0 && !(empties && consent == LessConsent.Empty))
        {
            return new RotaSave(0, file.LeftOut, file.Errors, null);
        }

        if (file.Shifts.Count == 0 && consent != LessConsent.Empty)
        {
            var why = file.LeftOut.Select(l => new DocumentError("VEVENT", l.Line, 1, $"{l.What} is left out: {l.Because}."));
            return new RotaSave(
                0,
                file.LeftOut,
                [
                    .. why,
                    new DocumentError(
                        "VEVENT",
                        null,
                        null,
                        "No entry of this calendar is a shift of somebody of the house. To empty the rota, delete it or say so (?empty=yes)."
                    ),
                ],
                null
            );
        }

        RotaDifference? difference = null;
        await ChangeAsync(
            team,
            by,
            $"Replaced the rota of {around.NameOf(team)} by a calendar of {file.Shifts.Count} entries.",
            async db =>
            {
                var stood = await db.Shifts.Where(s => s.Team == team).ToListAsync(cancel);
                var change = RotaDifference.Of(stood, file.Shifts, around.NameOf);
                if (change.AsksFirst && consent == LessConsent.None)
                {
                    difference = change;
                    return "asks first";
                }

                db.Shifts.RemoveRange(stood);
                db.Shifts.AddRange(file.Shifts);
                return null;
            },
            cancel
        );
        return new RotaSave(file.Shifts.Count, file.LeftOut, [], difference);
    }

    /// <summary>Takes away all shifts of a team.</summary>
    public Task EmptyAsync(string team, string by, CancellationToken cancel) =>
        ChangeAsync(
            team,
            by,
            $"Emptied the rota of {team}.",
            async db =>
            {
                await db.Shifts.Where(s => s.Team == team).ExecuteDeleteAsync(cancel);
                return null;
            },
            cancel
        );

    /// <summary>A team's rota as a calendar, the same that was put.</summary>
    public async Task<string> GetAsync(string team, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        var shifts = await db.Shifts.AsNoTracking().Where(s => s.Team == team).OrderBy(s => s.Id).ToListAsync(cancel);
        return RotaCalendar.Write(around.NameOf(team), shifts, around.Business.Zone, clock.GetCurrentInstant() + FarAhead);
    }

    /// <summary>What stands in a team's rota, as it is stored: another text when the rota is another, whatever the time.</summary>
    public async Task<string> StoredAsync(string team, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var shifts = await db.Shifts.AsNoTracking().Where(s => s.Team == team).OrderBy(s => s.Id).ToListAsync(cancel);
        return string.Join('\n', shifts.Select(s => $"{string.Join(' ', s.People)} {s.WallClock} {s.Component}"));
    }

    /// <summary>Changes a team's rota in one transaction.</summary>
    /// <param name="team">The team's id.</param>
    /// <param name="by">The name of whoever changes it.</param>
    /// <param name="what">The sentence for the audit log.</param>
    /// <param name="change">Changes the shifts; a sentence when it cannot be done.</param>
    /// <returns><see langword="null"/>, or the sentence; nothing is changed then.</returns>
    public async Task<string?> ChangeAsync(string team, string by, string what, Func<SirenaDb, Task<string?>> change, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        await db.Database.ExecuteSqlAsync($"update business set rota_version = rota_version + 1", cancel);
        if (await change(db) is { } problem)
        {
            return problem;
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = $"rota:{team}",
                What = what,
            }
        );
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Pages);
        return null;
    }

    /// <summary>The id of the person whom a mail address names: by their sign-in, else by a contact point.</summary>
    public static string? Named(StaffDirectory staff, string address) =>
        (
            staff.People.FirstOrDefault(p => p.ArchivedAt is null && address.Equals(p.Email, StringComparison.OrdinalIgnoreCase))
            ?? staff
                .People.OrderBy(p => p.ArchivedAt is not null)
                .FirstOrDefault(p =>
                    p.Contacts.Exists(c => c.Channel == Core.Deliveries.Channel.Mail && c.Address.Equals(address, StringComparison.OrdinalIgnoreCase))
                )
        )?.Id;

    /// <summary>A person as calendars name them: by the mail address that stands for them; by one of no mailbox where they have none.</summary>
    public static ShiftPerson InCalendars(Person person) =>
        new(
            person.Id,
            person.Name,
            person.Email ?? person.Contacts.Find(c => c.Channel == Core.Deliveries.Channel.Mail)?.Address ?? $"{person.Id}@no-mailbox.invalid"
        );
}
