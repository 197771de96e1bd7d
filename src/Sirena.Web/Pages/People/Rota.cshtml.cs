using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.People;
using Sirena.Engine.People;
using Sirena.Formats.Calendars;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>A team's week, person by person; shifts are added, moved, copied and taken away here, by the wall clock.</summary>
[Authorize(Policies.SeeAll)]
public sealed class RotaModel(SirenaDb db, RotaDesk desk) : PeoplePage
{
    /// <inheritdoc/>
    protected override string? Thing => Team is null ? null : $"rota:{Team}";

    /// <summary>The team's id.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Team { get; set; }

    /// <summary>The begin of the shift that the form proposes or changes, wall clock.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Add { get; set; }

    /// <summary>Its end.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Until { get; set; }

    /// <summary>Who is on duty.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Person { get; set; }

    /// <summary>The shift that is opened.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid? Shift { get; set; }

    /// <summary>Which of its times, seconds since 1970.</summary>
    [BindProperty(SupportsGet = true)]
    public long? At { get; set; }

    /// <summary><c>one</c> time or <c>all</c> of a series.</summary>
    [BindProperty]
    public string? Scope { get; set; }

    /// <summary>The new shift repeats every week.</summary>
    [BindProperty]
    public bool Weekly { get; set; }

    /// <summary>The site at which it is served, or empty.</summary>
    [BindProperty]
    public string? Place { get; set; }

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>A feed's address that was just made; it is shown once.</summary>
    [TempData]
    public string? Feed { get; set; }

    /// <summary>The team.</summary>
    public Team Of { get; private set; } = null!;

    /// <summary>Its duty in the week.</summary>
    public IReadOnlyList<Duty> Duties { get; private set; } = [];

    /// <summary>Whoever has a row: members, and others who are on duty.</summary>
    public IReadOnlyList<Person> Rows { get; private set; } = [];

    /// <summary>The time that is opened, or <see langword="null"/>.</summary>
    public Duty? Opened { get; private set; }

    /// <summary>The feeds' keys that work.</summary>
    public IReadOnlyList<ApiToken> Feeds { get; private set; } = [];

    /// <summary>Whoever can be put on duty.</summary>
    public PeoplePick Everybody => new(Inside: true, First: Of.Id);

    /// <summary>Somebody is there: whoever has the shift, or a cover where they are away.</summary>
    public bool Served(Duty duty) =>
        Around.Staff.Person(duty.Person) is { ArchivedAt: null } person && !person.Away.Exists(a => a.Cover is null && a.Holds(duty.From));

    /// <summary>What an import would take away and that nobody has said yes to, with the file itself.</summary>
    public (RotaDifference Difference, string Kept, string Called)? Asked { get; private set; }

    /// <summary>What of an import is no shift, a line each.</summary>
    [TempData]
    public string? LeftOut { get; set; }

    /// <summary>Shows the week.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await LoadAsync(cancel) ? Page() : NotFound();

    /// <summary>Adds a shift, or copies one to another time.</summary>
    public async Task<IActionResult> OnPostAddAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel) || Read() is not var (person, from, to))
        {
            return await WrongAsync(cancel);
        }

        var made = ShiftText.Make(
            Of.Id,
            (person.Id, person.Name, RotaDesk.AddressOf(person)),
            from,
            to,
            Weekly ? [from.DayOfWeek] : [],
            Clock.Zone,
            string.IsNullOrWhiteSpace(Place) ? null : Place,
            Clock.Now
        );
        return await DoneAsync(
            await desk.ChangeAsync(
                Of.Id,
                User.Name(),
                $"Added a shift of {Of.Name}: {Words(person, from, to)}{(Weekly ? ", every week" : "")}.",
                db =>
                {
                    db.Shifts.Add(made);
                    return Task.FromResult<string?>(null);
                },
                cancel
            ),
            $"{person.Name} is on duty for {Of.Name}, {Words(null, from, to)}{(Weekly ? ", every week" : "")}.",
            from,
            cancel
        );
    }

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
        return await DoneAsync(
            await desk.ChangeAsync(
                Of.Id,
                User.Name(),
                $"Moved a shift of {Of.Name}: {Words(Around.Staff.Person(duty.Person), duty.From.InZone(Clock.Zone).LocalDateTime, duty.To.InZone(Clock.Zone).LocalDateTime)} is now {Words(person, from, to)}{(duty.Repeats && Scope == "all" ? ", every time" : "")}.",
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

    /// <summary>Replaces the rota by a calendar file.</summary>
    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel) || file is null || file.Length is 0 or > FormFiles.Most)
        {
            Problem = "Choose a calendar file (.ics) of at most 4 MB.";
            return await WrongAsync(cancel);
        }

        return await ImportAsync(await file.BytesAsync(cancel), file.FileName, LessConsent.None, cancel);
    }

    /// <summary>Replaces the rota by a calendar that takes away more than half of it, after the page has asked.</summary>
    public async Task<IActionResult> OnPostImportLessAsync(string? kept, string? called, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel) || FormFiles.Kept(kept) is not { } bytes)
        {
            Problem = "Choose the calendar file again.";
            return await WrongAsync(cancel);
        }

        return await ImportAsync(bytes, called ?? "the file", LessConsent.Less, cancel);
    }

    private async Task<IActionResult> ImportAsync(byte[] bytes, string called, LessConsent consent, CancellationToken cancel)
    {
        var saved = await desk.PutAsync(Of.Id, bytes, null, consent, User.Name(), cancel);
        if (saved.Errors.Count > 0)
        {
            Problem =
                $"Nothing was imported. {string.Join(" ", saved.Errors.Take(5).Select(e => $"{(e.Line is { } line ? $"Line {line}: " : "")}{e.Problem}"))}{(saved.Errors.Count > 5 ? $" And {saved.Errors.Count - 5} more." : "")}";
            return await WrongAsync(cancel);
        }

        if (saved.Difference is not null)
        {
            Asked = (saved.Difference, Convert.ToBase64String(bytes), called);
            return await WrongAsync(cancel);
        }

        Said = $"The rota of {Of.Name} now has {saved.Shifts} entries from {called}.";
        LeftOut = saved.LeftOut.Count == 0 ? null : string.Join("\n", saved.LeftOut.Take(12).Select(l => $"Line {l.Line}: {l.What}, {l.Because}"));
        return RedirectToPage(new { Team, week = Iso(Monday) });
    }

    /// <summary>Makes an address to which a calendar program can subscribe.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostFeedAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }

        var key = Secrets.New("ck-");
        db.ApiTokens.Add(
            new ApiToken
            {
                Id = Guid.CreateVersion7(),
                UserId = Guid.Parse(User.FindFirst(System.Security.Claims.ClaimTypes.NameIdentifier)!.Value),
                Name = $"Calendar of {Of.Name}",
                Feed = $"team:{Of.Id}",
                Hash = Secrets.Hash(key),
                CreatedAt = Clock.Now,
            }
        );
        await db.SaveChangesAsync(cancel);
        Feed = $"{Around.Business.BaseAddress}/rota/{Of.Id}.ics?key={key}";
        return RedirectToPage(new { Team, week = Iso(Monday) });
    }

    /// <summary>Revokes such an address.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostRevokeAsync(Guid id, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        await db
            .ApiTokens.Where(t => t.Id == id && t.Feed != null && t.RevokedAt == null)
            .ExecuteUpdateAsync(s => s.SetProperty(t => t.RevokedAt, Clock.Now), cancel);
        Said = "That calendar address opens nothing any more.";
        return RedirectToPage(new { Team, week = Iso(Monday) });
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        Team ??= Around.Staff.Teams.OrderBy(t => t.Name, StringComparer.Ordinal).FirstOrDefault()?.Id;
        if (Team is null || Around.Staff.Team(Team) is not { } team)
        {
            return false;
        }

        Of = team;
        Duties = Around.Staff.Rota.Between(team.Id, Drawing.Begin, Drawing.End);
        Rows =
        [
            .. Duties
                .Select(d => Around.Staff.Person(d.Person))
                .OfType<Person>()
                .Concat(Around.Staff.Members(team.Id).Where(p => p.ArchivedAt is null))
                .Distinct()
                .OrderBy(p => p.Name, StringComparer.Ordinal),
        ];
        Opened =
            Shift is { } id && At is >= 0 and < 7_000_000_000 and var at
                ? Around
                    .Staff.Rota.Between(team.Id, Instant.FromUnixTimeSeconds(at), Instant.FromUnixTimeSeconds(at + 1))
                    .FirstOrDefault(d => d.Shift == id && d.From.ToUnixTimeSeconds() == at)
                : null;
        Feeds = await db.ApiTokens.AsNoTracking().Where(t => t.Feed == $"team:{team.Id}" && t.RevokedAt == null).OrderBy(t => t.CreatedAt).ToListAsync(cancel);
        return true;
    }

    private (Person Person, LocalDateTime From, LocalDateTime To)? Read()
    {
        Problem =
            Person is not { Length: > 0 } || Around.Staff.Person(Person) is not { ArchivedAt: null } ? "Choose who is on duty."
            : Clock.ReadLocal(Add) is not { } from ? "Give the begin as a day and a time."
            : Clock.ReadLocal(Until) is not { } to ? "Give the end as a day and a time."
            : to <= from ? "The shift ends before it begins. Put the end after the begin; a night shift ends on the next day."
            : Period.Between(from, to, PeriodUnits.Hours).Hours > 72 ? "A shift lasts at most 72 hours. Add several."
            : null;
        return Problem is null ? (Around.Staff.Person(Person!)!, Clock.ReadLocal(Add)!.Value, Clock.ReadLocal(Until)!.Value) : null;
    }

    private async Task<IActionResult> DoneAsync(string? problem, string said, LocalDateTime at, CancellationToken cancel)
    {
        if (problem is not null)
        {
            Problem = problem;
            return await WrongAsync(cancel);
        }

        Said = said;
        return RedirectToPage(
            new
            {
                Team,
                week = Iso(at.Date),
                Add = (string?)null,
                Until = (string?)null,
                Person = (string?)null,
                Shift = (Guid?)null,
                At = (long?)null,
            }
        );
    }

    private async Task<IActionResult> WrongAsync(CancellationToken cancel)
    {
        Response.StatusCode = 422;
        return Of is not null || await LoadAsync(cancel) ? Page() : NotFound();
    }

    private static string Words(Person? person, LocalDateTime from, LocalDateTime to) =>
        $"{(person is null ? "" : person.Name + ", ")}{from.ToString("ddd d MMM HH:mm", System.Globalization.CultureInfo.InvariantCulture)} to {to.ToString(to.Date == from.Date ? "HH:mm" : "ddd HH:mm", System.Globalization.CultureInfo.InvariantCulture)}";

    /// <summary>A time as a field takes it.</summary>
    public string Field(Instant at) => DeskTime.Field.Format(at.InZone(Clock.Zone).LocalDateTime);
}
