using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Engine.People;
using Sirena.Formats.People;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Settings;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>
/// One person: how they are reached, when they work, when they are away, what they wish, and what they were told lately. Staff see and change their own page
/// only.
/// </summary>
public sealed partial class PersonModel(SirenaDb db, PeopleDesk desk, SettingsMail mail) : PeoplePage
{
    /// <inheritdoc/>
    protected override string? Thing => Id is "new" ? null : $"person:{Id}";

    /// <inheritdoc/>
    protected override Core.Wordings.TextLanguage PageLanguage => User.SeesAll() ? Core.Wordings.TextLanguage.En : OfReader;

    private const int MostWrong = 5;

    /// <summary>The person's id; <c>new</c> for a new one.</summary>
    [BindProperty(SupportsGet = true)]
    public string Id { get; set; } = "";

    /// <summary>The person.</summary>
    public Person Person { get; private set; } = null!;

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>A feed's address that was just made; it is shown once.</summary>
    [TempData]
    public string? Feed { get; set; }

    /// <summary>Their duty in the next two weeks, with the team's name.</summary>
    public IReadOnlyList<(Duty Duty, string Team)> Duties { get; private set; } = [];

    /// <summary>What they were told lately.</summary>
    public IReadOnlyList<(Delivery Delivery, AlertState State)> Recent { get; private set; } = [];

    /// <summary>The tokens of the user that they are.</summary>
    public IReadOnlyList<ApiToken> Tokens { get; private set; } = [];

    /// <summary>Their open alerts and the rules that name them: to be looked at before they are archived.</summary>
    public (int Alerts, IReadOnlyList<string> Rules) Before { get; private set; }

    /// <summary>It is the page of whoever looks at it.</summary>
    public bool Own => User.FindFirst("person")?.Value == Id;

    /// <summary>Whoever looks may change it.</summary>
    public bool May => User.MayChange() || (Own && !User.IsInRole("reader"));

    /// <summary>Nothing of a person is shown to another, not even beside a mistake.</summary>
    protected override bool Admits => HttpMethods.IsGet(Request.Method) || HttpMethods.IsHead(Request.Method) ? Own || User.SeesAll() : May;

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) =>
        !User.SeesAll() && !Own ? Forbid()
        : Id == "new" && !User.MayChange() ? Forbid()
        : await LoadAsync(cancel) ? Page()
        : NotFound();

    /// <summary>Saves names, teams and codes; makes a new person.</summary>
    public async Task<IActionResult> OnPostSaveAsync(
        string? name,
        string? post,
        string? email,
        string? language,
        string? codes,
        string[] teams,
        bool outside,
        string? contacts,
        CancellationToken cancel
    )
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Problem =
            !NameText.Fits(name, 120) ? "Give a name of at most 120 characters."
            : Some(language) is { } tongue && !Core.Wordings.TextLanguage.IsTag(tongue) ? Core.Wordings.TextLanguage.NoTag(tongue)
            : !string.IsNullOrWhiteSpace(email) && !MailAddress.TryParse(email, out _, out var bad) ? $"'{email}' {bad}."
            : null;
        if (Problem is not null)
        {
            return await WrongAsync(cancel);
        }

        teams = [.. teams.Where(t => Around.Staff.Team(t) is not null)];
        if (Id == "new")
        {
            return await AddAsync(name!.Trim(), post, email, teams, outside, contacts, cancel);
        }

        return await ChangeAsync(
            (p, _) =>
            {
                (p.Name, p.Post, p.Email, p.Language, p.Outside) = (name!.Trim(), Some(post), Some(email), Some(language) ?? "en", outside);
                p.Teams = [.. teams];
                p.Codes = [.. TypedList.Read(codes).Distinct(StringComparer.OrdinalIgnoreCase)];
                return null;
            },
            $"Saved.",
            cancel
        );
    }

    /// <summary>Makes an address to which a calendar program can subscribe; an earlier one of this person stops.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostFeedAsync(CancellationToken cancel)
    {
        if (!May || Around.Staff.Person(Id) is null)
        {
            return Forbid();
        }

        var feed = $"person:{Id}";
        var key = Secrets.New("ck-");
        await db.ApiTokens.Where(t => t.Feed == feed && t.RevokedAt == null).ExecuteUpdateAsync(u => u.SetProperty(t => t.RevokedAt, Clock.Now), cancel);
        db.ApiTokens.Add(
            new ApiToken
            {
                Id = Guid.CreateVersion7(),
                UserId = Guid.Parse(User.FindFirst(System.Security.Claims.ClaimTypes.NameIdentifier)!.Value),
                Name = $"Calendar of {Around.NameOf(Id)}",
                Feed = feed,
                Hash = Secrets.Hash(key),
                CreatedAt = Clock.Now,
            }
        );
        await db.SaveChangesAsync(cancel);
        Feed = $"{Around.Business.BaseAddress}/rota/people/{Id}.ics?key={key}";
        return RedirectToPage(new { Id });
    }

    /// <summary>Archives the person, or brings them back.</summary>
    public async Task<IActionResult> OnPostArchiveAsync(bool archive, CancellationToken cancel) =>
        !User.MayChange()
            ? Forbid()
            : await ChangeAsync(
                (p, _) =>
                {
                    p.ArchivedAt = archive ? Clock.Now : null;
                    return null;
                },
                archive ? "Archived: nobody tells them anything any more, and all that was told stays in the trails." : "They can be told again.",
                cancel
            );

    private async Task<IActionResult> AddAsync(
        string name,
        string? post,
        string? email,
        string[] teams,
        bool outside,
        string? contacts,
        CancellationToken cancel
    )
    {
        var (good, problems) = Addresses.Read(Channel.Mail, contacts);
        var id = PersonId.From(name);
        if (problems.Count > 0)
        {
            return await WrongAsync(string.Join(" ", problems), cancel);
        }

        var person = new Person
        {
            Id = id,
            Name = name,
            Post = Some(post),
            Email = Some(email),
            Outside = outside,
            Teams = [.. teams],
            Contacts = [.. good.Select(g => new ContactPoint { Channel = Channel.Mail, Address = g })],
        };
        var saved = await desk.SaveAsync(new PeopleDocument([new PersonEntry(person, [])], [], 0), false, User.Name(), cancel, there => there is not null);
        if (saved.Stale)
        {
            return await WrongAsync($"{Around.NameOf(id)} has the id '{id}' already. Write the name differently.", cancel);
        }

        Said = $"{name} is there. Add how to reach them, and their shifts.";
        return RedirectToPage(new { Id = id });
    }

    private async Task<IActionResult> ChangeAsync(Func<Person, SirenaDb, string?> change, string said, CancellationToken cancel)
    {
        if (!May)
        {
            return Forbid();
        }

        Problem = await desk.ChangeAsync(Id, User.Name(), change, cancel);
        if (Problem is not null)
        {
            return await WrongAsync(cancel);
        }

        Said = said;
        return RedirectToPage(new { Id });
    }

    private Task<IActionResult> WrongAsync(string problem, CancellationToken cancel)
    {
        Problem = problem;
        return WrongAsync(cancel);
    }

    private async Task<IActionResult> WrongAsync(CancellationToken cancel)
    {
        Response.StatusCode = 422;
        return await LoadAsync(cancel) ? Page() : NotFound();
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (Id == "new")
        {
            Person = new Person { Id = "new", Name = "" };
            return true;
        }

        if (await db.People.AsNoTracking().FirstOrDefaultAsync(p => p.Id == Id, cancel) is not { } person)
        {
            return false;
        }

        Person = person.InOrder();
        Duties =
        [
            .. Around
                .Staff.Teams.SelectMany(t =>
                    Around.Staff.Rota.Between(t.Id, Drawing.Begin, Drawing.Begin + Duration.FromDays(14)).Where(d => d.Person == Id).Select(d => (d, t.Name))
                )
                .OrderBy(x => x.d.From),
        ];
        var told = await db.Deliveries.AsNoTracking().Where(d => d.Person == Id).OrderByDescending(d => d.CreatedAt).Take(8).ToListAsync(cancel);
        Guid[] alerts = [.. told.Select(d => d.AlertId)];
        var states = await db.Alerts.AsNoTracking().Where(a => alerts.Contains(a.Id)).ToDictionaryAsync(a => a.Id, a => a.State, cancel);
        Recent = [.. told.Select(d => (d, states.GetValueOrDefault(d.AlertId)))];
        Tokens = await (
            from t in db.ApiTokens
            join u in db.Users on t.UserId equals u.Id
            where u.Person == Id && t.RevokedAt == null && t.Feed == null
            select t
        )
            .AsNoTracking()
            .OrderBy(t => t.CreatedAt)
            .ToListAsync(cancel);
        if (User.MayChange())
        {
            var open = await db.Alerts.CountAsync(
                a => (a.State == AlertState.Open || a.State == AlertState.Taken) && db.Deliveries.Any(d => d.AlertId == a.Id && d.Person == Id),
                cancel
            );
            var naming = (await db.RuleVersions.AsNoTracking().Where(v => v.BookTo == null).Select(v => new { v.Name, v.Document }).ToListAsync(cancel))
                .Where(v => v.Document.Contains($"\"{Id}\"", StringComparison.Ordinal))
                .Select(v => v.Name)
                .Order(StringComparer.Ordinal)
                .ToArray();
            Before = (open, naming);
        }

        return true;
    }

    private static string? Some(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();

    private static bool Is(ContactPoint c, string? channel, string? address) => c.Channel == Names.Parse<Channel>(channel) && c.Address == address;

    private static string? Remove<T>(List<T> list, int index)
    {
        if (index < 0 || index >= list.Count)
        {
            return "That is no longer there.";
        }

        list.RemoveAt(index);
        return null;
    }
}
