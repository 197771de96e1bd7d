using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;

namespace Sirena.Web.Api;

/// <summary>
/// Versions of saved things as RFC 9110 has them: <c>ETag</c> with every answer, <c>If-Match</c> on writes. A write that names no version replaces, as before.
/// </summary>
internal static class Versions
{
    /// <summary>The tag of a document: a digest of what it says.</summary>
    public static string Of(JsonNode document) => $"\"{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(document.ToJsonString())))[..20]}\"";

    /// <summary>Gives an answer its tag.</summary>
    public static void Tag(HttpContext http, string tag) => http.Response.Headers.ETag = tag;

    /// <summary>Whether the caller names a version, and another than the one that is there (13.1.1: strong comparison; <c>*</c> is any).</summary>
    /// <param name="request">The request.</param>
    /// <param name="current">The tag of what is there, or <see langword="null"/> for nothing.</param>
    public static bool Stale(HttpRequest request, string? current) =>
        request.Headers.IfMatch is { Count: > 0 } named
        && !(current is not null && named.SelectMany(n => (n ?? "").Split(',', StringSplitOptions.TrimEntries)).Any(n => n == "*" || n == current));

    /// <summary>412: somebody saved it meanwhile; what is there now stands in the answer.</summary>
    /// <param name="http">The request.</param>
    /// <param name="tag">The tag of what is there, or <see langword="null"/>.</param>
    /// <param name="current">What is there.</param>
    /// <param name="since">What changed since, in words, where it is known.</param>
    public static IResult Refused(HttpContext http, string? tag, JsonNode? current, IEnumerable<object>? since = null)
    {
        if (tag is not null)
        {
            Tag(http, tag);
        }

        return Problems.Of(
            412,
            "It was changed meanwhile.",
            "Your version is not the one that is there now. Look at 'current' and 'changed', make your change to it, and send it with its ETag.",
            new() { ["current"] = current, ["changed"] = since ?? [] }
        );
    }
}
