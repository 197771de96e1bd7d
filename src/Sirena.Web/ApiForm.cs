using Microsoft.AspNetCore.Antiforgery;
using Sirena.Web.Access;
using Sirena.Web.Api;

namespace Sirena.Web;

/// <summary>
/// A write to the API that is signed by the session's cookie needs the antiforgery token as well: another site can make a browser send the cookie, not the
/// token.
/// </summary>
public static class ApiForm
{
    /// <summary>Checks it.</summary>
    public static async Task CheckAsync(HttpContext http, RequestDelegate next)
    {
        var writes = !HttpMethods.IsGet(http.Request.Method) && !HttpMethods.IsHead(http.Request.Method) && !HttpMethods.IsOptions(http.Request.Method);
        if (
            writes
            && http.Request.Path.StartsWithSegments("/api")
            && http.User.Identity is { IsAuthenticated: true, AuthenticationType: not TokenScheme.SchemeName }
            && !await http.RequestServices.GetRequiredService<IAntiforgery>().IsRequestValidAsync(http)
        )
        {
            await Problems
                .Of(
                    400,
                    "The antiforgery token is missing.",
                    "Send the page's token in the header X-Sirena-Form, or use a person's token instead of the session."
                )
                .ExecuteAsync(http);
            return;
        }

        await next(http);
    }
}
