using System.Globalization;
using System.Text;
using NodaTime;
using Sirena.Core;

namespace Sirena.Web.Api;

/// <summary>A place in a list that is ordered by time and id, newest first.</summary>
public readonly record struct Cursor(Instant At, Guid Id)
{
    /// <summary>Reads what <see cref="ToString"/> wrote; <see langword="null"/> for anything else.</summary>
    public static Cursor? Read(string? text)
    {
        var bytes = new byte[100];
        if (text is null || text.Length > 120 || !Convert.TryFromBase64String(text.Replace('-', '+').Replace('_', '/'), bytes, out var length))
        {
            return null;
        }

        var parts = Encoding.UTF8.GetString(bytes, 0, length).Split('|');
        return
            parts.Length == 2
            && long.TryParse(parts[0], CultureInfo.InvariantCulture, out var ticks)
            && KnownTime.HoldsTicks(ticks)
            && Guid.TryParse(parts[1], out var id)
            ? new Cursor(Instant.FromUnixTimeTicks(ticks), id)
            : null;
    }

    /// <summary>The answer to a cursor that none of our answers gave, or <see langword="null"/>.</summary>
    public static IResult? Wrong(string? text) => string.IsNullOrEmpty(text) || Read(text) is not null ? null : Foreign;

    /// <summary>The place in a list that is ordered by number: those before it come next; and the answer to a cursor that none of our answers gave.</summary>
    public static (long? Before, IResult? Wrong) Number(string? text) =>
        string.IsNullOrEmpty(text) ? (null, null)
        : long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var before) ? (before, null)
        : (null, Foreign);

    /// <summary>The answer to a cursor that none of our answers gave.</summary>
    public static IResult Foreign =>
        Problems.Of(400, "This cursor is not one of ours.", "Take 'next' from the answer before, word for word; leave it out to begin with the newest.");

    /// <inheritdoc/>
    public override string ToString() => Convert.ToBase64String(Encoding.UTF8.GetBytes($"{At.ToUnixTimeTicks()}|{Id}")).Replace('+', '-').Replace('/', '_');
}

/// <summary>Answers lists as <c>{ items, next }</c> with a <c>Link</c> header (RFC 8288).</summary>
public static class Lists
{
    /// <summary>The most that one page holds.</summary>
    public const int Most = 500;

    /// <summary>A page; <paramref name="next"/> is the cursor of the following one.</summary>
    public static IResult Page(HttpContext http, IEnumerable<object> items, Cursor? next) => Page(http, items, next?.ToString());

    /// <summary>A page; <paramref name="next"/> is the cursor of the following one, as text.</summary>
    public static IResult Page(HttpContext http, IEnumerable<object> items, string? next)
    {
        if (next is not null)
        {
            var query = http
                .Request.Query.Where(q => q.Key != "cursor")
                .SelectMany(q => q.Value.Select(v => KeyValuePair.Create(q.Key, v)))
                .Append(KeyValuePair.Create("cursor", (string?)next));
            http.Response.Headers.Link = $"<{http.Request.Path}{QueryString.Create(query)}>; rel=\"next\"";
        }

        return Results.Json(new { items, next });
    }

    /// <summary>How many a request wants, 1 to <see cref="Most"/>; 100 where it does not say.</summary>
    public static int Limit(int? limit) => Math.Clamp(limit ?? 100, 1, Most);
}
