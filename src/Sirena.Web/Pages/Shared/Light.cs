namespace Sirena.Web.Pages.Shared;

/// <summary>The light in which somebody reads: by day or by night, kept by the browser; without a choice the system's.</summary>
public static class Light
{
    /// <summary>The cookie that keeps it.</summary>
    public const string Cookie = "sirena-light";

    /// <summary>What was chosen.</summary>
    /// <returns><c>day</c>, <c>night</c>, or <see langword="null"/> where the system decides.</returns>
    public static string? Of(HttpContext http) => http.Request.Cookies[Cookie] is "day" or "night" ? http.Request.Cookies[Cookie] : null;
}
