namespace Sirena.Web.Api;

/// <summary>Problem details (RFC 9457): what is wrong, and the way out. Never anything of the inside.</summary>
public static class Problems
{
    /// <summary>A problem.</summary>
    /// <param name="status">The HTTP status.</param>
    /// <param name="title">What is wrong, in one sentence.</param>
    /// <param name="detail">Where, and the way out.</param>
    /// <param name="more">Further members.</param>
    public static IResult Of(int status, string title, string detail, Dictionary<string, object?>? more = null) =>
        Results.Problem(detail, statusCode: status, title: title, extensions: more);

    /// <summary>Too much in too short a time: 429 and when to come again.</summary>
    public static IResult Wait(HttpContext http, TimeSpan wait, string title, string detail)
    {
        http.Response.Headers.RetryAfter = Math.Max(1, (int)Math.Ceiling(wait.TotalSeconds)).ToString(System.Globalization.CultureInfo.InvariantCulture);
        return Of(429, title, detail);
    }

    /// <summary>Something that does not exist.</summary>
    public static IResult Missing(string detail) => Of(404, "There is no such thing here.", detail);
}
