using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.People;
using Sirena.Engine.People;
using Sirena.Formats.Calendars;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.People;

public sealed partial class RotaModel
{
    private const string ShiftGone = "That shift is no longer there; somebody changed the rota. Look again.";

    /// <summary>Moves a shift, or gives it to somebody else: one time or the whole series.</summary>
    public async Task<IActionResult> OnPostMoveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel) || Read() is not var (person, from, to))
        {
            return await WrongAsync(cancel);
        }

        if (Opened is not { } duty)
        {
            Problem = ShiftGone;
            return await WrongAsync(cancel);
        }

        LocalDateTime Local(Instant at) => at.InZone(Clock.Zone).LocalDateTime;
        var was = Words(Around.Staff.Person(duty.Person), Local(duty.From), Local(duty.To));
        return await DoneAsync(
            await desk.ChangeAsync(
                Of.Id,
                User.Name(),
                $"Moved a shift of {Of.Name}: {was} is now {Words(person, from, to)}{(duty.Repeats && Scope == "all" ? ", every time" : "")}.",
                ChangeOf(duty, change => change.Move(duty, person.Id, from, to, Scope == "all"), cancel),
                cancel
            ),
            $"{person.Name}: {Words(null, from, to)}{(duty.Repeats && Scope == "all" ? ", every time" : "")}.",
            from,
            cancel
        );
    }

    /// <summary>Takes a shift away: one time or the whole series.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel) || Opened is not { } duty)
        {
            Problem = ShiftGone;
            return await WrongAsync(cancel);
        }

        var (from, to) = (duty.From.InZone(Clock.Zone).LocalDateTime, duty.To.InZone(Clock.Zone).LocalDateTime);
        var words = Words(Around.Staff.Person(duty.Person), from, to);
        return await DoneAsync(
            await desk.ChangeAsync(
                Of.Id,
                User.Name(),
                $"Took away a shift of {Of.Name}: {words}{(duty.Repeats && Scope == "all" ? ", every time" : "")}.",
                ChangeOf(duty, change => change.Remove(duty, Scope == "all"), cancel),
                cancel
            ),
            $"Taken away: {words}.",
            from,
            cancel
        );
    }

    private Func<SirenaDb, Task<string?>> ChangeOf(Duty duty, Action<ShiftChange> change, CancellationToken cancel) =>
        async db =>
        {
            var entries = await db
                .Shifts.Where(s => s.Team == Of.Id && db.Shifts.Any(o => o.Id == duty.Shift && o.Uid == s.Uid))
                .OrderBy(s => s.Id)
                .ToListAsync(cancel);
            if (entries.Count == 0)
            {
                return ShiftGone;
            }

            var changed = new ShiftChange(entries, PersonOf, a => RotaDesk.Named(Around.Staff, a), Clock.Zone, Clock.Now);
            change(changed);
            db.Shifts.AddRange(changed.Added);
            db.Shifts.RemoveRange(changed.Gone);
            return null;
        };

    private ShiftPerson PersonOf(string id) => RotaDesk.InCalendars(Around.Staff.Person(id) ?? new Person { Id = id, Name = id });
}
