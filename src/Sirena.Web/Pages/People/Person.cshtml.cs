using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.People;
using Sirena.Formats.People;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Storage.People;
using Sirena.Web.Access;
using Sirena.Web.Pages.Settings;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>
/// One person: how they are reached, when they work, when they are away, what they wish, and what they were told lately. Staff see and change their own page
/// only.
/// </summary>
public sealed class PersonModel(SirenaDb db, PeopleDesk desk, SettingsMail mail) : PeoplePage
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
            string.IsNullOrWhiteSpace(name) || name.Length > 120 ? "Give a name of at most 120 characters."
            : !string.IsNullOrWhiteSpace(email) && !MailAddress.TryParse(email, out _, out var bad) ? $"'{email}' {bad}."
            : null;
        if (Problem is not null)
        {
            return await WrongAsync(cancel);
        }

        if (Id == "new")
        {
            return await AddAsync(name!.Trim(), post, email, teams, outside, contacts, cancel);
        }

        return await ChangeAsync(
            (p, _) =>
            {
                (p.Name, p.Post, p.Email, p.Language, p.Outside) = (name!.Trim(), Some(post), Some(email), Some(language) ?? "en", outside);
                p.Teams = [.. teams.Where(t => Around.Staff.Team(t) is not null)];
                p.Codes =
                [
                    .. (codes ?? "")
                        .Split([',', ';', ' ', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
                        .Distinct(StringComparer.OrdinalIgnoreCase),
                ];
                var taken = p.Codes.Find(c => Around.Staff.People.Any(o => o.Id != p.Id && o.Codes.Contains(c, StringComparer.OrdinalIgnoreCase)));
                return taken is null ? null : $"The code '{taken}' belongs to {Around.Staff.ByCode(taken)!.Name}.";
            },
            $"Saved.",
            cancel
        );
    }

    /// <summary>Adds contact points: one field takes several addresses.</summary>
    public async Task<IActionResult> OnPostContactAsync(string? channel, string? address, CancellationToken cancel)
    {
        if (Names.Parse<Channel>(channel) is not { } by || !by.Traits().ByAddress)
        {
            return await WrongAsync("Choose a channel.", cancel);
        }

        var (good, problems) = Addresses.Read(by, address);
        if (problems.Count > 0 || good.Count == 0)
        {
            return await WrongAsync(
                good.Count == 0 && problems.Count == 0 ? "Give at least one address." : $"Nothing was added. {string.Join(" ", problems)}",
                cancel
            );
        }

        var bySelf = !User.MayChange();
        var doubtful = by == Channel.Sms ? good.Where(g => PhoneNumber.TryParse(g, out var n, out _) && n.Doubtful).ToArray() : [];
        var result = await ChangeAsync(
            (p, _) =>
            {
                p.Contacts.AddRange(
                    good.Where(g => !p.Contacts.Exists(c => c.Channel == by && c.Address.Equals(g, StringComparison.OrdinalIgnoreCase)))
                        .Select(g => new ContactPoint
                        {
                            Channel = by,
                            Address = g,
                            Pending = bySelf,
                        })
                );
                return null;
            },
            $"{string.Join(", ", good)} added.{(bySelf ? " It is used when its code has come back." : "")}{(doubtful.Length > 0 ? $" Look at {string.Join(", ", doubtful)} again: such a number is not in use as far as is known." : "")}",
            cancel
        );
        return result;
    }

    /// <summary>Takes a contact point away.</summary>
    public Task<IActionResult> OnPostDropAsync(string? channel, string? address, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) => p.Contacts.RemoveAll(c => Is(c, channel, address)) > 0 ? null : "That address is no longer there.",
            $"{address} taken away.",
            cancel
        );

    /// <summary>Puts a contact point first among those of its channel.</summary>
    public Task<IActionResult> OnPostFirstAsync(string? channel, string? address, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                if (p.Contacts.Find(c => Is(c, channel, address)) is not { } point)
                {
                    return "That address is no longer there.";
                }

                p.Contacts.Remove(point);
                p.Contacts.Insert(0, point);
                return null;
            },
            $"{address} is used first.",
            cancel
        );

    /// <summary>Sends a code to an address.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostCodeAsync(string? channel, string? address, CancellationToken cancel)
    {
        if (!May || !await LoadAsync(cancel) || Person.Contacts.Find(c => Is(c, channel, address)) is not { } point)
        {
            return await WrongAsync("That address is no longer there.", cancel);
        }

        if (!point.Channel.Traits().ByAddress)
        {
            return await WrongAsync("A browser shows by itself that it reaches its person; no code is needed.", cancel);
        }

        var code = System.Security.Cryptography.RandomNumberGenerator.GetInt32(100_000, 1_000_000).ToString(System.Globalization.CultureInfo.InvariantCulture);
        await db.ContactCodes.Where(c => c.Person == Id && c.Address == point.Address).ExecuteDeleteAsync(cancel);
        db.ContactCodes.Add(
            new ContactCode
            {
                Person = Id,
                Channel = point.Channel,
                Address = point.Address,
                Hash = Secrets.Hash($"{code} {Id} {point.Address}"),
                ExpiresAt = Clock.Now + Duration.FromHours(24),
            }
        );
        await db.SaveChangesAsync(cancel);
        var problem =
            point.Channel != Channel.Mail
                ? await mail.SendAsync(
                    point.Channel,
                    point.Address,
                    "Your code",
                    $"{code} is your code for {Around.Business.Name}. Enter it on your page; it works for a day.",
                    cancel
                )
                : await mail.SendAsync(
                    point.Address,
                    $"{code} is your code for {Around.Business.Name}",
                    $"{Person.Name}, enter this code on your page to show that this address reaches you:\r\n\r\n{code}\r\n\r\n{Around.Business.BaseAddress}/people/{Id}\r\n\r\nIt works for a day.",
                    cancel
                );
        if (problem is not null)
        {
            return await WrongAsync($"The code could not be sent to {point.Address}: {problem}.", cancel);
        }

        Said = $"A code is on its way to {point.Address}. Enter it here when it has come.";
        return RedirectToPage(new { Id });
    }

    /// <summary>Takes a code that came back.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostVerifyAsync(string? channel, string? address, string? code, CancellationToken cancel)
    {
        if (!May || !await LoadAsync(cancel))
        {
            return Forbid();
        }

        var sent = await db.ContactCodes.FirstOrDefaultAsync(
            c => c.Person == Id && c.Address == address && c.ExpiresAt > Clock.Now && c.Wrong < MostWrong,
            cancel
        );
        if (sent is null)
        {
            return await WrongAsync("No code is waited for at this address, or five wrong ones were entered. Send a new one.", cancel);
        }

        if (!sent.Hash.SequenceEqual(Secrets.Hash($"{code?.Trim()} {Id} {sent.Address}")))
        {
            sent.Wrong++;
            await db.SaveChangesAsync(cancel);
            return await WrongAsync(
                $"That is not the code that was sent to {address}. {(MostWrong - sent.Wrong) switch { <= 0 => "Send a new one.", 1 => "One try is left.", var left => $"{left} tries are left." }}",
                cancel
            );
        }

        db.ContactCodes.Remove(sent);
        await db.SaveChangesAsync(cancel);
        return await ChangeAsync(
            (p, _) =>
            {
                if (p.Contacts.Find(c => Is(c, channel, address)) is not { } point)
                {
                    return "That address is no longer there.";
                }

                (point.Verified, point.Pending, point.BrokenAt, point.BrokenBecause) = (true, false, null, null);
                return null;
            },
            $"{address} is verified.",
            cancel
        );
    }

    /// <summary>Says that a broken address is mended, so that it is tried again.</summary>
    public async Task<IActionResult> OnPostMendedAsync(string? channel, string? address, CancellationToken cancel) =>
        !User.MayChange()
            ? Forbid()
            : await ChangeAsync(
                (p, _) =>
                {
                    if (p.Contacts.Find(c => Is(c, channel, address)) is not { } point)
                    {
                        return "That address is no longer there.";
                    }

                    (point.BrokenAt, point.BrokenBecause) = (null, null);
                    return null;
                },
                $"{address} is used again.",
                cancel
            );

    /// <summary>Adds an opt-out.</summary>
    public Task<IActionResult> OnPostOptOutAsync(string? of, string? channel, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                var wish = of?.Split(':', 2) switch
                {
                    ["event", var type] when EventTypes.IsType(type) => new OptOut(type, null, Names.Parse<Channel>(channel)),
                    ["rule", var rule] when Around.Rules.ContainsKey(rule) => new OptOut(null, rule, Names.Parse<Channel>(channel)),
                    _ => null,
                };
                if (wish is null)
                {
                    return "Choose an event or a rule.";
                }

                if (!p.OptOuts.Contains(wish))
                {
                    p.OptOuts.Add(wish);
                }

                return null;
            },
            "Opted out.",
            cancel
        );

    /// <summary>Takes an opt-out back.</summary>
    public Task<IActionResult> OnPostOptInAsync(int index, CancellationToken cancel) =>
        ChangeAsync((p, _) => Remove(p.OptOuts, index), "Opted in again.", cancel);

    /// <summary>Adds quiet hours.</summary>
    public Task<IActionResult> OnPostQuietAsync(string? from, string? to, string[] days, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                if (WeeklySpan.Read(from, to, days) is not { } span)
                {
                    return "Give the begin and the end of the quiet, such as 22:00 and 06:00.";
                }

                p.Quiet.Add(span);
                return null;
            },
            "Quiet hours added.",
            cancel
        );

    /// <summary>Ends quiet hours.</summary>
    public Task<IActionResult> OnPostLoudAsync(int index, CancellationToken cancel) =>
        ChangeAsync((p, _) => Remove(p.Quiet, index), "Quiet hours taken away.", cancel);

    /// <summary>Adds leave.</summary>
    public Task<IActionResult> OnPostLeaveAsync(string? from, string? to, string? cover, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                if (Clock.ReadTyped(from) is not { } first || Clock.ReadTyped(to) is not { } last || last < first)
                {
                    return "Give the first and the last day of the leave.";
                }

                if (cover == Id || (Some(cover) is { } id && Around.Staff.Person(id) is not { ArchivedAt: null }))
                {
                    return "Choose somebody else as cover.";
                }

                p.Away.Add(Leave.Of(first, last, Some(cover), Clock.Zone));
                p.Away.Sort((a, b) => a.From.CompareTo(b.From));
                return null;
            },
            $"Leave added{(Some(cover) is { } c ? $"; {Around.NameOf(c)} covers" : "; nobody covers")}.",
            cancel
        );

    /// <summary>Takes leave away.</summary>
    public Task<IActionResult> OnPostBackAsync(int index, CancellationToken cancel) =>
        ChangeAsync((p, _) => Remove(p.Away, index), "Leave taken away.", cancel);

    /// <summary>Sets which channel comes first for each urgency.</summary>
    public Task<IActionResult> OnPostOrderAsync(string? routine, string? prompt, string? urgent, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                p.First = new[] { (Urgency.Routine, routine), (Urgency.Prompt, prompt), (Urgency.Urgent, urgent) }
                    .Select(x => (x.Item1, Names.Parse<Channel>(x.Item2)))
                    .Where(x => x.Item2 is not null)
                    .ToDictionary(x => x.Item1, x => x.Item2!.Value);
                return null;
            },
            "Saved.",
            cancel
        );

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
        Problem =
            problems.Count > 0 ? string.Join(" ", problems)
            : Around.Staff.Person(id) is { } same ? $"{same.Name} has the id '{id}' already. Write the name differently."
            : null;
        if (Problem is not null)
        {
            return await WrongAsync(cancel);
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
        await desk.SaveAsync(new PeopleDocument([new PersonEntry(person, [])], [], 0), false, User.Name(), cancel);
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
