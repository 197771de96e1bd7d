using Sirena.Core;
using Sirena.Core.People;
using Sirena.Web.Api;

namespace Sirena.Web.Pages.Shared;

/// <summary>A span of every week as a form gives it: quiet hours, hours of work.</summary>
public static class SpanForm
{
    /// <summary>Reads it.</summary>
    /// <param name="from">Its begin, as it was typed.</param>
    /// <param name="to">Its end, as it was typed.</param>
    /// <param name="days">The days on which it begins; none for every day.</param>
    /// <param name="of">What it is a span of: <c>quiet</c>.</param>
    /// <returns>The span, or one sentence on what is wrong with it.</returns>
    public static (WeeklySpan? Span, string? Problem) Read(string? from, string? to, string[] days, string of) =>
        WeeklySpan.Read(from, to, days) is { } span ? (span, null)
        : WhenText.ReadTime(from) is not { } begin ? (null, WhenApi.Refusal("time", from, $"The begin of the {of}"))
        : WhenText.ReadTime(to) is not { } end ? (null, WhenApi.Refusal("time", to, $"The end of the {of}"))
        : begin == end ? (null, $"The begin and the end of the {of} are the same. Put one of them elsewhere.")
        : (null, "Choose days of the list.");
}
