using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.People;
using Sirena.Engine.People;
using Sirena.Formats.Calendars;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.People;

public sealed partial class RotaModel
{
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
            Problem = "That shift is no longer there; somebody changed the rota. Look again.";
            return await WrongAsync(cancel);
        }

        var who = (person.Id, person.Name, RotaDesk.AddressOf(person));
        var occurrence = duty.From;
        LocalDateTime Local(Instant at) => at.InZone(Clock.Zone).LocalDateTime;
        var was = Words(Around.Staff.Person(duty.Person), Local(duty.From), Local(duty.To));
        return await DoneAsync(
            await desk.ChangeAsync(
                Of.Id,
                User.Name(),
                $"Moved a shift of {Of.Name}: {was} is now {Words(person, from, to)}{(duty.Repeats && Scope == "all" ? ", every time" : "")}.",
                async db =>
                {
                    if (await db.Shifts.FirstOrDefaultAsync(s => s.Id == duty.Shift, cancel) is not { } shift)
                    {
                        return "That shift is no longer there; somebody changed the rota. Look again.";
                    }

                    if (duty.Repeats && Scope != "all")
                    {
                        db.Shifts.Add(ShiftText.Instead(shift, occurrence, who, from, to, Clock.Zone, Clock.Now));
                        return null;
                    }

                    var (begin, end) = (duty.From.InZone(Clock.Zone).LocalDateTime, duty.To.InZone(Clock.Zone).LocalDateTime);
                    shift.Component = ShiftText.Moved(shift.Component, from - begin, to - end);
                    if (!shift.People.Contains(person.Id) || shift.People.Count == 1)
                    {
                        shift.People = [person.Id];
                        shift.Component = ShiftText.With(shift.Component, person.Name, RotaDesk.AddressOf(person));
                    }

                    return null;
                },
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
            Problem = "That shift is no longer there; somebody changed the rota. Look again.";
            return await WrongAsync(cancel);
        }

        var (from, to) = (duty.From.InZone(Clock.Zone).LocalDateTime, duty.To.InZone(Clock.Zone).LocalDateTime);
        var words = Words(Around.Staff.Person(duty.Person), from, to);
        return await DoneAsync(
            await desk.ChangeAsync(
                Of.Id,
                User.Name(),
                $"Took away a shift of {Of.Name}: {words}{(duty.Repeats && Scope == "all" ? ", every time" : "")}.",
                async db =>
                {
                    var shift = await db.Shifts.FirstOrDefaultAsync(s => s.Id == duty.Shift, cancel);
                    if (shift is not null && duty.Repeats && Scope != "all")
                    {
                        shift.Component = ShiftText.Without(shift.Component, duty.From, Clock.Zone);
                    }
                    else if (shift is not null && duty.Repeats)
                    {
                        await db.Shifts.Where(s => s.Team == shift.Team && s.Uid == shift.Uid).ExecuteDeleteAsync(cancel);
                    }
                    else if (shift is not null)
                    {
                        // A night that differs leaves its series without that night.
                        db.Shifts.Remove(shift);
                        var made = Rota.Component(shift.Component);
                        if (
                            made.RecurrenceIdentifier is { } night
                            && await db.Shifts.FirstOrDefaultAsync(s => s.Uid == shift.Uid && s.Id != shift.Id && s.Team == shift.Team, cancel) is { } series
                        )
                        {
                            series.Component = ShiftText.Without(
                                series.Component,
                                Instant.FromDateTimeUtc(DateTime.SpecifyKind(night.StartTime.AsUtc, DateTimeKind.Utc)),
                                Clock.Zone
                            );
                        }
                    }

                    return null;
                },
                cancel
            ),
            $"Taken away: {words}.",
            from,
            cancel
        );
    }
}
