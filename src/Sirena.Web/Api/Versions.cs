using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Sirena.Storage;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Api;

/// <summary>
/// Versions of saved things as RFC 9110 has them: <c>ETag</c> with every answer, <c>If-Match</c> on writes. A write that names no version replaces, as before.
/// </summary>
internal static class Versions
{
    private const int MostSince = 20;

    /// <summary>The version of a document: a digest of what it says.</summary>
    public static string Of(JsonNode document) => Of(document.ToJsonString());

    /// <summary>The version of a text.</summary>
    public static string Of(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..20];

    /// <summary>Gives an answer a tag that is its version alone.</summary>
    public static void Tag(HttpContext http, string version) => http.Response.Headers.ETag = $"\"{version}\"";

    /// <summary>
    /// Gives an answer its tag: the version, and after a dash the newest entry of the audit log, from which it is said later what was changed since.
    /// </summary>
    /// <param name="http">The request.</param>
    /// <param name="thing">The saved thing, as the audit log names it: <c>status:picking</c>.</param>
    /// <param name="version">Its version.</param>
    public static async Task TagAsync(HttpContext http, string thing, string version)
    {
        var newest = await Entries(http).Where(e => e.Thing == thing).MaxAsync(e => (long?)e.Id, http.RequestAborted) ?? 0;
        Tag(http, string.Create(CultureInfo.InvariantCulture, $"{version}-{newest}"));
    }

    /// <summary>
    /// Holds a saved thing while a write compares its version and saves it, as a page's form does: of two that name the same version only one is first.
    /// </summary>
    public static Task<IAsyncDisposable> HoldAsync(HttpContext http, string thing) =>
        SavedThings.LockAsync(http.RequestServices.GetRequiredService<NpgsqlDataSource>(), thing, http.RequestAborted);

    /// <summary>Whether the caller names a version, and another than the one that is there (13.1.1: strong comparison; <c>*</c> is any).</summary>
    /// <param name="request">The request.</param>
    /// <param name="current">The version of what is there, or <see langword="null"/> for nothing.</param>
    public static bool Stale(HttpRequest request, string? current) =>
        request.Headers.IfMatch.Count > 0
        && !(current is not null && Named(request).Any(n => n == "*" || (n is ['"', .. var tag, '"'] && tag.Split('-')[0] == current)));

    /// <summary>The answer to a caller who means another version than the one that is there; <see langword="null"/> where they may go on.</summary>
    /// <param name="http">The request.</param>
    /// <param name="thing">The saved thing, as the audit log names it.</param>
    /// <param name="current">What is there, or <see langword="null"/> for nothing.</param>
    /// <param name="version">Its version.</param>
    /// <param name="shape">What the answer shows of it.</param>
    public static async Task<IResult?> OvertakenAsync<T>(HttpContext http, string thing, T? current, Func<T, string> version, Func<T, object?> shape)
        where T : class
    {
        var there = current is null ? null : version(current);
        return Stale(http.Request, there) ? await RefusedAsync(http, thing, there, current is null ? null : shape(current)) : null;
    }

    /// <summary>412: somebody saved it meanwhile; what is there now stands in the answer, and who changed what since where the caller's tag says it.</summary>
    /// <param name="http">The request.</param>
    /// <param name="thing">The saved thing, as the audit log names it.</param>
    /// <param name="version">The version of what is there, or <see langword="null"/> for nothing.</param>
    /// <param name="current">What is there.</param>
    public static async Task<IResult> RefusedAsync(HttpContext http, string thing, string? version, object? current)
    {
        if (version is not null)
        {
            await TagAsync(http, thing, version);
        }

        var from = Named(http.Request)
            .Select(n => n.Trim('"').Split('-') is [_, var number] && long.TryParse(number, CultureInfo.InvariantCulture, out var entry) ? entry : (long?)null)
            .Max();
        var since = from is null
            ? []
            : await Entries(http)
                .Where(e => e.Thing == thing && e.Id > from)
                .OrderByDescending(e => e.Id)
                .Take(MostSince)
                .Select(e => new
                {
                    at = e.At,
                    by = e.By,
                    what = e.What,
                })
                .ToListAsync(http.RequestAborted);
        return Refused(current, since);
    }

    /// <summary>412, with what changed since in words.</summary>
    public static IResult Refused(object? current, IEnumerable<object>? since) =>
        Problems.Of(
            412,
            "It was changed meanwhile.",
            "Your version is not the one that is there now. Look at 'current' and 'changed', make your change to it, and send it with its ETag.",
            new() { ["current"] = current, ["changed"] = since ?? [] }
        );

    private static IQueryable<Storage.Access.AuditEntry> Entries(HttpContext http) => http.RequestServices.GetRequiredService<SirenaDb>().Audit.AsNoTracking();

    private static IEnumerable<string> Named(HttpRequest request) =>
        request.Headers.IfMatch.SelectMany(n => (n ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries));
}
