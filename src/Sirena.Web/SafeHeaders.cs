namespace Sirena.Web;

/// <summary>The headers that keep a page to itself: nothing inline, nothing from elsewhere, no framing by others.</summary>
public static class SafeHeaders
{
    private const string Policy =
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; worker-src 'self'; "
        + "manifest-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    /// <summary>Adds them to every answer.</summary>
    public static Task AddAsync(HttpContext http, RequestDelegate next)
    {
        var headers = http.Response.Headers;
        headers.ContentSecurityPolicy = Policy;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=()";
        http.Response.OnStarting(() =>
        {
            // All but files of the application is somebody's: no proxy and no browser keeps it.
            if (http.GetEndpoint() is not null && headers.CacheControl.Count == 0)
            {
                headers.CacheControl = "no-store";
            }

            if (http.Request.IsHttps)
            {
                headers.StrictTransportSecurity = "max-age=31536000";
            }

            return Task.CompletedTask;
        });
        return next(http);
    }
}
