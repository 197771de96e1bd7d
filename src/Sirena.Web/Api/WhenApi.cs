using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Engine;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Api;

/// <summary>Says what a day or time that is typed in words is understood as.</summary>
public static class WhenApi
{
    /// <summary>Maps <c>GET /when</c>.</summary>
    public static void MapWhen(this IEndpointRouteBuilder routes) =>
        routes
            .MapGet("/when", async (string? text, string? kind, SurroundingsCache surroundings, IClock clock, HttpContext http) =>
            {
                http.Response.Headers.CacheControl = "no-store";
                var desk = new DeskTime(clock.GetCurrentInstant(), (await surroundings.GetAsync(http.RequestAborted)).Business.Zone);
                var words = kind switch
                {
                    "time" => WhenText.ReadTime(text) is { } time ? time.ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture) : null,
                    "day" => desk.ReadTyped(text) is { } day ? WhenText.Write(day) : null,
                    _ => desk.ReadLocal(text) is { } at ? $"{WhenText.Write(at)}, {WhenTagHelper.ZoneWords(desk)}" : null,
                };
                return Results.Json(new { known = words is not null, words = words ?? Problem(kind) });
            })
            .RequireAuthorization()
            .ExcludeFromDescription();

    /// <summary>What is said of a text that was sent all the same.</summary>
    public static string Refusal(string kind, string? text) => $"'{FarText.Clean(text, 40)}' is n{Problem(kind)[1..]}";

    /// <summary>What is said of a text that is no day or time.</summary>
    public static string Problem(string? kind) =>
        kind switch
        {
            "time" => "No time of day: 8:30, 18, noon.",
            "day" => "No day: tomorrow, Friday, 28 Nov, 28/11/2026.",
            _ => "No day and time: tomorrow 8, Fri 14:30, 28 Nov 13:36, in 2 h.",
        };
}
