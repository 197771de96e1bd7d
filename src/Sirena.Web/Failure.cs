using Microsoft.AspNetCore.Diagnostics;
using Sirena.Web.Api;

namespace Sirena.Web;

/// <summary>What is answered when something breaks: a sentence and the way out, nothing of the inside.</summary>
public static class Failure
{
    private static readonly (int Status, string Title, string Detail) Character = (
        422,
        "A character cannot be kept.",
        "Somewhere in what was sent stands a zero character, or half a character (a lone surrogate), as a broken copy leaves it. Nothing was changed. "
            + "Delete it and type the character again."
    );

    private static readonly (int Status, string Title, string Detail) Kind = (
        422,
        "A value is of another kind than its place.",
        "Somewhere in what was sent stands a text where a number belongs, a list where an object belongs, or the like. Nothing was changed. Compare it "
            + "with the description of the call and send it again."
    );

    /// <summary>Answers an exception.</summary>
    public static async Task AnswerAsync(HttpContext http)
    {
        var problem = http.Features.Get<IExceptionHandlerFeature>()?.Error;
        var (status, title, detail) = problem is BadHttpRequestException bad
            ? bad.StatusCode == 413
                ? (413, "The request is too large.", "A request holds at most 4 MiB. Send less at once.")
                : (bad.StatusCode, "The request cannot be read.", bad.Message)
            : problem?.GetBaseException() switch
            {
                Npgsql.PostgresException { SqlState: "22021" or "22P05" } or System.Text.EncoderFallbackException or System.Text.DecoderFallbackException =>
                    Character,
                // Its own words are the only sign of half a character; what else it says is that a value is of another kind than was asked for.
                InvalidOperationException { Source: "System.Text.Json" or "System.Text.Json.Rethrowable" } json => json.Message.Contains(
                    "UTF-16",
                    StringComparison.Ordinal
                )
                    ? Character
                    : Kind,
                Npgsql.PostgresException { SqlState: ['2', '2', ..] } => (
                    422,
                    "A value cannot be kept.",
                    "Somewhere in what was sent stands a number or a time that is too large or too small. Nothing was changed. Correct it and send it again."
                ),
                Npgsql.PostgresException { SqlState: ['2', '3', ..] } => (
                    409,
                    "It does not fit what is there.",
                    "Somebody may have changed it meanwhile. Nothing was changed. Read it again and try once more."
                ),
                _ when problem is not null && !http.RequestAborted.IsCancellationRequested && Storage.DatabaseFault.OfSurroundings(problem) => (
                    503,
                    "The database does not answer.",
                    "Nothing was changed. Try again in a moment."
                ),
                _ => (500, "Something broke on our side.", "Nothing was half done. Try again; if it stays, look at the log of this node."),
            };
        if (status == 503)
        {
            http.Response.Headers.RetryAfter = "5";
        }

        if (http.Request.Path.StartsWithSegments("/api"))
        {
            await Problems.Of(status, title, detail).ExecuteAsync(http);
            return;
        }

        http.Response.StatusCode = status;
        http.Response.ContentType = "text/html; charset=utf-8";
        await http.Response.WriteAsync(Page(http, title, detail));
    }

    /// <summary>Gives an answer without a body one.</summary>
    public static async Task ExplainAsync(StatusCodeContext context)
    {
        var http = context.HttpContext;
        var status = http.Response.StatusCode;
        var (title, detail) = status switch
        {
            401 => ("Sign in first.", "The token is not known, or was revoked."),
            403 => ("Your role does not allow this.", "Ask a supervisor."),
            404 => ("There is nothing at this address.", "Check the address, or begin at the orders."),
            405 => ("This address does not take that method.", "See /openapi/v1.json for what it takes."),
            429 => ("Too many tries.", "Wait a minute, then try again."),
            _ => ("The request was not taken.", "Check it and try again."),
        };
        if (http.Request.Path.StartsWithSegments("/api"))
        {
            await Problems.Of(status, title, detail).ExecuteAsync(http);
            return;
        }

        http.Response.ContentType = "text/html; charset=utf-8";
        await http.Response.WriteAsync(Page(http, title, detail));
    }

    private static string Page(HttpContext http, string title, string detail) =>
        $$"""
            <!doctype html><html lang="en" data-light="{{Pages.Shared.Light.Of(http)}}"><head>
            <meta charset="utf-8"><meta name="color-scheme" content="light dark"><meta name="viewport" content="width=device-width,initial-scale=1">
            <title>{{title}} – Sirena</title>
            <link rel="stylesheet" href="/vendor/bootstrap/bootstrap-reboot.min.css">{{string.Concat(
                Pages.Shared.Sheets.All.Select(s => $"<link rel=\"stylesheet\" href=\"{s}\">")
            )}}</head>
            <body><main class="alone"><section class="card alone-card">
            <h1>{{title}}</h1><p>{{detail}}</p><p><a class="btn btn-primary" href="/orders">To the orders</a></p>
            </section></main></body></html>
            """;
}
