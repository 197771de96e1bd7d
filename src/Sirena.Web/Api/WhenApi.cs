using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Wordings;
using Sirena.Engine;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Api;

/// <summary>Says what a day or time that is typed in words is understood as.</summary>
public static class WhenApi
{
    /// <summary>Maps <c>GET /when</c>.</summary>
    public static void MapWhen(this IEndpointRouteBuilder routes) =>
        routes
            .MapGet("/when", async (string? text, string? kind, string? lang, SurroundingsCache surroundings, IClock clock, HttpContext http) =>
            {
                http.Response.Headers.CacheControl = "no-store";
                var desk = new DeskTime(clock.GetCurrentInstant(), (await surroundings.GetAsync(http.RequestAborted)).Business.Zone);
                var words = kind switch
                {
                    "time" => WhenText.ReadTime(text) is { } time ? time.ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture) : null,
                    "day" => desk.ReadTyped(text) is { } day ? WhenText.Write(day) : null,
                    _ => desk.ReadLocal(text) is { } at ? $"{WhenText.Write(at)}, {WhenTagHelper.ZoneWords(desk)}" : null,
                };
                return Results.Json(new { known = words is not null, words = words ?? TextLanguage.Of(lang).Say(Problem(kind)) });
            })
            .RequireAuthorization()
            .ExcludeFromDescription();

    /// <summary>What is said of a text that was sent all the same, or of none.</summary>
    /// <param name="kind">As the field has it: <c>moment</c>, <c>day</c> or <c>time</c>.</param>
    /// <param name="text">What was typed.</param>
    /// <param name="what">What it was to be: <c>The begin of the quiet</c>.</param>
    public static string Refusal(string kind, string? text, string what) =>
        string.IsNullOrWhiteSpace(text)
            ? $"{what} is missing. Write a {Known(kind).Name} such as {Known(kind).Examples}."
            : $"'{FarText.Clean(text, 40)}' is no {Known(kind).Name}. Write one such as {Known(kind).Examples}.";

    /// <summary>What is said beside the field of a text that is no day or time.</summary>
    public static string Problem(string? kind) => $"No {Known(kind).Name}. Write one such as {Known(kind).Examples}.";

    private static (string Name, string Examples) Known(string? kind) =>
        kind switch
        {
            "time" => ("time of day", "8:30, 18 or noon"),
            "day" => ("day", "tomorrow, Friday, 28 Nov or 28/11/2026"),
            _ => ("day and time", "tomorrow 8, Fri 14:30, 28 Nov 13:36 or in 2 h"),
        };
}
