using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.People;
using Sirena.Formats.Calendars;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.People;

/// <summary>Saves rotas; each change makes every node read them again.</summary>
public sealed class RotaDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, Signals signals, IClock clock)
{
    private static readonly Duration FarAhead = Duration.FromDays(3 * 365);

    /// <summary>Replaces a team's rota by a calendar.</summary>
    /// <returns>How many shifts it has now, or the mistakes; nothing is changed then.</returns>
    public async Task<(int Shifts, IReadOnlyList<DocumentError> Errors)> PutAsync(string team, string calendar, string by, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var (shifts, errors) = RotaCalendar.Read(calendar, team, address => Named(around.Staff, address));
        if (errors.Count > 0)
        {
            return (0, errors);
        }

        await ChangeAsync(team, by, $"Replaced the rota of {around.NameOf(team)} by a calendar of {shifts.Count} entries.", async db =>
        {
            await db.Shifts.Where(s => s.Team == team).ExecuteDeleteAsync(cancel);
            db.Shifts.AddRange(shifts);
            return null;
        }, cancel);
        return (shifts.Count, []);
    }

    /// <summary>A team's rota as a calendar, the same that was put.</summary>
    public async Task<string> GetAsync(string team, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        var shifts = await db.Shifts.AsNoTracking().Where(s => s.Team == team).OrderBy(s => s.Id).ToListAsync(cancel);
        return RotaCalendar.Write(around.NameOf(team), shifts, around.Business.Zone, clock.GetCurrentInstant() + FarAhead);
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

        db.Audit.Add(new AuditEntry { At = clock.GetCurrentInstant(), By = by, What = what });
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Pages);
        return null;
    }

    /// <summary>The id of the person whom a mail address names: by their sign-in, else by a contact point.</summary>
    public static string? Named(StaffDirectory staff, string address) =>
        (staff.People.FirstOrDefault(p => p.ArchivedAt is null && address.Equals(p.Email, StringComparison.OrdinalIgnoreCase))
            ?? staff.People.OrderBy(p => p.ArchivedAt is not null).FirstOrDefault(p => p.Contacts.Exists(c => c.Channel == Core.Deliveries.Channel.Mail && c.Address.Equals(address, StringComparison.OrdinalIgnoreCase))))?.Id;

    /// <summary>The mail address by which calendars name a person; one of no mailbox where they have none.</summary>
    public static string AddressOf(Person person) => person.Email ?? person.Contacts.Find(c => c.Channel == Core.Deliveries.Channel.Mail)?.Address ?? $"{person.Id}@no-mailbox.invalid";
}
