using System.Globalization;
using NodaTime;

namespace Sirena.Core.Sources;

/// <summary>How the times of a value are written, by all that was seen of it.</summary>
internal sealed record DateGuess(IReadOnlyList<TimeForm> Forms, bool NeedsZone, string Why)
{
    private static readonly string[] Clocks = [" HH:mm:ss", " HH:mm", "'T'HH:mm:ss", "'T'HH:mm", ""];

    /// <summary>The form of all texts, or <see langword="null"/> where they have none in common.</summary>
    public static DateGuess? Of(IReadOnlyList<string> texts)
    {
        if (texts.Count == 0)
        {
            return null;
        }

        if (texts.All(t => Orders.Fields.Facts.Time(t) is not null))
        {
            return new DateGuess([], false, "its values are times of RFC 3339");
        }

        if (texts.All(t => TimeForms.Wall.Any(f => f.Read(t, DateTimeZone.Utc) is not null)))
        {
            return new DateGuess([], true, "its values are times of ISO 8601 without an offset");
        }

        if (texts.All(t => t.All(char.IsAsciiDigit)))
        {
            return texts.All(t => t.Length == 10) ? Epoch(TimeForm.EpochSeconds, "seconds")
                : texts.All(t => t.Length == 13) ? Epoch(TimeForm.EpochMilliseconds, "milliseconds")
                : Written(texts, ["uuuuMMdd"], null);
        }

        foreach (var mark in "/.-".Where(m => texts.All(t => t.Contains(m, StringComparison.Ordinal))))
        {
            var (day, month) = (
                Written(texts, WithClocks($"dd{mark}MM{mark}uuuu", $"d{mark}M{mark}uuuu", $"dd{mark}MM{mark}yy"), null),
                Written(texts, WithClocks($"MM{mark}dd{mark}uuuu", $"M{mark}d{mark}uuuu", $"MM{mark}dd{mark}yy"), null)
            );
            if ((day ?? month) is not null)
            {
                return (day, month) switch
                {
                    ({ } only, null) => only with { Why = $"the day stands first: {Deciding(texts, mark, 0)}" },
                    (null, { } only) => only with { Why = $"the month stands first: {Deciding(texts, mark, 1)}" },
                    _ => day! with
                    {
                        Why =
                            "it is not decided whether the day or the month stands first, no value has a number over 12; the day is taken, so look at this one",
                    },
                };
            }
        }

        return null;
    }

    private static string[] WithClocks(params string[] days) => [.. days.SelectMany(d => Clocks.Select(c => d + c))];

    private static DateGuess Epoch(string form, string unit) => new([TimeForm.Parse(form).Form!], false, $"its values are {unit} since 1970");

    private static DateGuess? Written(IReadOnlyList<string> texts, string[] forms, string? why) =>
        forms.Select(f => TimeForm.Parse(f).Form).FirstOrDefault(f => f is not null && texts.All(t => f.Read(t, DateTimeZone.Utc) is not null)) is { } form
            ? new DateGuess([form], true, why ?? $"its values have the form {form.Text}")
            : null;

    private static string Deciding(IReadOnlyList<string> texts, char mark, int place) =>
        texts.FirstOrDefault(t =>
            t.Split(mark) is { } parts && parts.Length > place && int.TryParse(parts[place], CultureInfo.InvariantCulture, out var number) && number > 12
        )
            is { } text
            ? $"'{text}' leaves no other way"
            : "no other way fits all values";
}
