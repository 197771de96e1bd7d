using System.Text;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Engine;
using Sirena.Engine.People;
using Sirena.Formats.Calendars;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

public static partial class PeopleApi
{
    private static async Task<IResult> TeamsAsync(SurroundingsCache surroundings, IClock clock, CancellationToken cancel)
    {
        var (staff, now) = ((await surroundings.GetAsync(cancel)).Staff, clock.GetCurrentInstant());
        return Results.Json(
            new
            {
                items = staff
                    .Teams.OrderBy(t => t.Id, StringComparer.Ordinal)
                    .Select(t => new
                    {
                        id = t.Id,
                        name = t.Name,
                        mayOptOut = t.MayOptOut,
                        members = staff.Members(t.Id).Where(m => m.ArchivedAt is null).Select(m => m.Id),
                        onDuty = staff.Rota.OnDuty(t.Id, now).Select(d => d.Person).Distinct(),
                    }),
                next = (string?)null,
            }
        );
    }

    private static async Task<IResult> SitesAsync(SurroundingsCache surroundings, CancellationToken cancel) =>
        Results.Json(
            new
            {
                items = (await surroundings.GetAsync(cancel))
                    .Staff.Sites.OrderBy(s => s.Id, StringComparer.Ordinal)
                    .Select(s => new
                    {
                        id = s.Id,
                        name = s.Name,
                        manager = s.Manager,
                        team = s.Team,
                    }),
                next = (string?)null,
            }
        );

    private static async Task<IResult> GetRotaAsync(string id, HttpContext http, RotaDesk desk, SurroundingsCache surroundings, CancellationToken cancel)
    {
        if ((await surroundings.GetAsync(cancel)).Staff.Team(id) is null)
        {
            return Missing(id);
        }

        await Versions.TagAsync(http, RotaOf(id), await RotaVersionAsync(id, desk, cancel));
        return Results.Text(await desk.GetAsync(id, cancel), "text/calendar; charset=utf-8", Encoding.UTF8);
    }

    private static string RotaOf(string team) => $"rota:{team}";

    private static async Task<string> RotaVersionAsync(string team, RotaDesk desk, CancellationToken cancel) =>
        Versions.Of(await desk.StoredAsync(team, cancel));

    // The answer to a caller who means another version of a rota, which stands in the answer as a calendar.
    private static async Task<IResult?> RotaOvertakenAsync(HttpContext http, string team, RotaDesk desk)
    {
        if (http.Request.Headers.IfMatch.Count == 0)
        {
            return null;
        }

        var version = await RotaVersionAsync(team, desk, http.RequestAborted);
        return Versions.Stale(http.Request, version)
            ? await Versions.RefusedAsync(http, RotaOf(team), version, await desk.GetAsync(team, http.RequestAborted))
            : null;
    }

    private static async Task<IResult> PutRotaAsync(string id, HttpContext http, RotaDesk desk, SurroundingsCache surroundings, string? take, string? empty)
    {
        var cancel = http.RequestAborted;
        if (take is not (null or "less") || empty is not (null or "yes"))
        {
            return Problems.Of(400, "'take' can only be 'less', 'empty' only 'yes'.", "Leave both out to be asked before much goes.");
        }

        if ((await surroundings.GetAsync(cancel)).Staff.Team(id) is null)
        {
            return Missing(id);
        }

        if (RequestText.Media(http.Request) is not "text/calendar")
        {
            return Problems.Of(415, "This content type is not taken.", "Send a rota as text/calendar (RFC 5545).");
        }

        if (await RequestText.BytesAsync(http.Request, LargestBody, cancel) is not { } bytes)
        {
            return Problems.Of(413, "The calendar is too large.", "A rota holds at most 4 MB.");
        }

        await using var held = await Versions.HoldAsync(http, RotaOf(id));
        if (await RotaOvertakenAsync(http, id, desk) is { } overtaken)
        {
            return overtaken;
        }

        var consent =
            empty == "yes" ? LessConsent.Empty
            : take == "less" ? LessConsent.Less
            : LessConsent.None;
        var saved = await desk.PutAsync(id, bytes, RequestText.Charset(http.Request), consent, http.User.Name(), cancel);
        await Versions.TagAsync(http, RotaOf(id), await RotaVersionAsync(id, desk, cancel));
        var leftOut = saved.LeftOut.Select(l => new
        {
            line = l.Line,
            uid = l.Uid,
            what = l.What,
            because = l.Because,
        });
        return saved.Errors.Count > 0 ? Mistakes("The rota was not saved.", saved.Errors)
            : saved.Difference is { } less
                ? Problems.Of(
                    409,
                    "More than half of the rota would go.",
                    $"{less.Gone.Count} of {less.Gone.Count + less.Stays} entries would go. Send it again with ?take=less if that is meant.",
                    new()
                    {
                        ["gone"] = less.Gone.Take(200),
                        ["stays"] = less.Stays,
                        ["new"] = less.New,
                        ["leftOut"] = leftOut,
                    }
                )
            : Results.Json(
                new
                {
                    team = id,
                    shifts = saved.Shifts,
                    leftOut,
                }
            );
    }

    private static async Task<IResult> DeleteRotaAsync(string id, HttpContext http, RotaDesk desk, SurroundingsCache surroundings)
    {
        if ((await surroundings.GetAsync(http.RequestAborted)).Staff.Team(id) is null)
        {
            return Missing(id);
        }

        await using var held = await Versions.HoldAsync(http, RotaOf(id));
        if (await RotaOvertakenAsync(http, id, desk) is { } overtaken)
        {
            return overtaken;
        }

        await desk.EmptyAsync(id, http.User.Name(), http.RequestAborted);
        return Results.NoContent();
    }

    private static Task<IResult> TeamFeedAsync(string name, HttpContext http, SirenaDb db, SurroundingsCache surroundings, IClock clock) =>
        FeedAsync(http, db, clock, $"team:{name}", async now =>
        {
            var around = await surroundings.GetAsync(http.RequestAborted);
            return around.Staff.Team(name) is not { } team
                ? null
                : RotaCalendar.Feed(
                    team.Name,
                    around.Staff.Rota.Between(name, now - Duration.FromDays(30), now + Duration.FromDays(120)).Select(d => (d, around.Staff.NameOf(d.Person))),
                    now
                );
        });

    private static Task<IResult> PersonFeedAsync(string name, HttpContext http, SirenaDb db, SurroundingsCache surroundings, IClock clock) =>
        FeedAsync(http, db, clock, $"person:{name}", async now =>
        {
            var around = await surroundings.GetAsync(http.RequestAborted);
            return around.Staff.Person(name) is not { } person
                ? null
                : RotaCalendar.Feed(
                    person.Name,
                    around
                        .Staff.Teams.OrderBy(t => t.Id, StringComparer.Ordinal)
                        .SelectMany(t =>
                            around
                                .Staff.Rota.Between(t.Id, now - Duration.FromDays(30), now + Duration.FromDays(120))
                                .Where(d => d.Person == name)
                                .Select(d => (d, $"On duty: {t.Name}"))
                        ),
                    now
                );
        });

    // A calendar program cannot sign in: the address carries a key that opens this one feed and can be revoked. Wrong key and unknown feed look the same.
    private static async Task<IResult> FeedAsync(HttpContext http, SirenaDb db, IClock clock, string feed, Func<Instant, Task<string?>> write)
    {
        var allowed = http.User.SeesAll() || (http.User.FindFirst("person")?.Value is { } me && feed == $"person:{me}");
        if (!allowed && http.Request.Query["key"].ToString() is { Length: > 0 } key)
        {
            var hash = Secrets.Hash(key);
            allowed = await (
                from t in db.ApiTokens
                where t.Hash == hash && t.Feed == feed && t.RevokedAt == null
                join u in db.Users on t.UserId equals u.Id
                where u.RemovedAt == null
                select t
            ).AnyAsync(http.RequestAborted);
        }

        return allowed && await write(clock.GetCurrentInstant()) is { } text
            ? Results.Text(text, "text/calendar; charset=utf-8", Encoding.UTF8)
            : Problems.Missing("There is no such calendar, or its key was revoked. A supervisor finds the address on the page Rota.");
    }
}
