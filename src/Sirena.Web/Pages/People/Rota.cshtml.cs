using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.People;
using Sirena.Engine.People;
using Sirena.Formats.Calendars;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Api;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>A team's week, person by person; shifts are added, moved, copied and taken away here, by the wall clock.</summary>
[Authorize(Policies.SeeAll)]
public sealed partial class RotaModel(SirenaDb db, RotaDesk desk) : PeoplePage
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

    /// <summary>The id of the person whose duty it is: several may serve a shift together.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Whose { get; set; }

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
            RotaDesk.InCalendars(person),
            from,
            to,
            Weekly ? [from.DayOfWeek] : [],
            Clock.Zone,
            string.IsNullOrWhiteSpace(Place) ? Opened?.Place : Place,
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
                    .FirstOrDefault(d => d.Shift == id && d.From.ToUnixTimeSeconds() == at && (Whose is null || d.Person == Whose))
                : null;
        Feeds = await db.ApiTokens.AsNoTracking().Where(t => t.Feed == $"team:{team.Id}" && t.RevokedAt == null).OrderBy(t => t.CreatedAt).ToListAsync(cancel);
        return true;
    }

    private (Person Person, LocalDateTime From, LocalDateTime To)? Read()
    {
        Problem =
            Person is not { Length: > 0 } || Around.Staff.Person(Person) is not { ArchivedAt: null } ? "Choose who is on duty."
            : Clock.ReadLocal(Add) is not { } from ? WhenApi.Refusal("moment", Add, "The begin of the shift")
            : Clock.ReadLocal(Until) is not { } to ? WhenApi.Refusal("moment", Until, "The end of the shift")
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
                Whose = (string?)null,
            }
        );
    }

    private async Task<IActionResult> WrongAsync(CancellationToken cancel)
    {
        Response.StatusCode = 422;
        return Of is not null || await LoadAsync(cancel) ? Page() : NotFound();
    }

    private static string Words(Person? person, LocalDateTime from, LocalDateTime to) =>
        $"{(person is null ? "" : person.Name + ", ")}{from.ToString("ddd d MMM HH:mm", System.Globalization.CultureInfo.InvariantCulture)} to "
        + $"{to.ToString(to.Date == from.Date ? "HH:mm" : "ddd HH:mm", System.Globalization.CultureInfo.InvariantCulture)}";

    /// <summary>A time as a field takes it.</summary>
    public string Field(Instant at) => DeskTime.Field.Format(at.InZone(Clock.Zone).LocalDateTime);
}
