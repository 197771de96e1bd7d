using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;
using NodaTime;
using Sirena.Core.Orders;

namespace Sirena.Core.Wordings;

/// <summary>
/// A language: how values read in it, its words, and the texts that ship. All of it stands in one file a language, <c>Languages/pt.json</c>, by the English
/// that the code writes; nothing of it depends on what the machine has installed.
/// </summary>
public sealed partial class TextLanguage
{
    private readonly LanguageFile file;
    private readonly NumberFormatInfo numbers;
    private readonly (string Begin, Regex English, string Said)[] sentences;

    private TextLanguage(string code, LanguageFile file)
    {
        (Code, this.file) = (code, file);
        sentences = [.. file.Sentences.OrderByDescending(s => s.Key.Length).Select(s => (s.Key.Split('{')[0], Pattern(s.Key), s.Value))];
        numbers = new NumberFormatInfo
        {
            NumberGroupSeparator = file.Group,
            NumberDecimalSeparator = file.Point,
            NegativeSign = "-",
        };
    }

    /// <summary>The languages that ship, English first.</summary>
    public static IReadOnlyList<TextLanguage> All { get; } = [.. Shipped().OrderByDescending(l => l.Code == "en").ThenBy(l => l.Code, StringComparer.Ordinal)];

    /// <summary>English, in which the code is written.</summary>
    public static TextLanguage En => All[0];

    /// <summary>The language's code.</summary>
    public string Code { get; }

    /// <summary>Its own name.</summary>
    public string Name => file.Name;

    /// <summary>The language of a code such as <c>pt-PT</c>; English for any that does not ship.</summary>
    public static TextLanguage Of(string? code) =>
        All.FirstOrDefault(l =>
            code is not null && (code.Equals(l.Code, StringComparison.OrdinalIgnoreCase) || code.StartsWith(l.Code + "-", StringComparison.OrdinalIgnoreCase))
        ) ?? En;

    /// <summary>Whether a text can name a language: a tag of BCP 47, such as <c>en</c> or <c>pt-PT</c>.</summary>
    public static bool IsTag(string text) =>
        text.Split('-') is var parts
        && parts[0].Length is >= 2 and <= 8
        && parts[0].All(char.IsAsciiLetter)
        && parts.Skip(1).All(p => p.Length is >= 1 and <= 8 && p.All(char.IsAsciiLetterOrDigit));

    /// <summary>What is said of a text that cannot.</summary>
    public static string NoTag(string text) => $"'{Quoting.Cut(text)}' is no language: give its tag (BCP 47), such as en or pt.";

    /// <summary>A fixed word in it; the English one where it has none.</summary>
    public string Word(string english) => file.Words.GetValueOrDefault(english, english);

    /// <summary>A fixed word with a place for a value, such as <c>{0} ago</c>, in it.</summary>
    public string Word(string english, string value) => string.Format(CultureInfo.InvariantCulture, Word(english), value);

    /// <summary>An event's short name: <c>Held</c>.</summary>
    public string Event(string type) => file.Events.GetValueOrDefault(type) ?? EventTypes.Name(type);

    /// <summary>A text that ships, or a part of one, in it. One of fields and figures alone is the same in all.</summary>
    /// <exception cref="InvalidOperationException">The language's file lacks it.</exception>
    public string Text(string english) =>
        this == En || !Fields().Replace(english, "").Any(char.IsLetter) ? english
        : file.Texts.TryGetValue(english, out var said) ? said
        : throw new InvalidOperationException($"Languages/{Code}.json lacks the text '{english}'.");

    /// <summary>
    /// A sentence that Sirena made and keeps in English, such as why somebody is told, in it: with the same names, times and figures. One that it does not know
    /// stays as it is.
    /// </summary>
    public string Say(string english)
    {
        foreach (var (begin, pattern, said) in sentences)
        {
            if (english.StartsWith(begin, StringComparison.Ordinal) && pattern.Match(english) is { Success: true } match)
            {
                return string.Format(CultureInfo.InvariantCulture, said, [.. match.Groups.Values.Skip(1).Select(g => Say(g.Value))]);
            }
        }

        return english;
    }

    /// <summary>A day of the week: <c>Tue</c>.</summary>
    public string Weekday(LocalDate day) => file.Days[(int)day.DayOfWeek - 1];

    /// <summary>A day of the year: <c>24 Nov</c>.</summary>
    public string DayOfYear(LocalDate day) => $"{day.Day} {file.Months[day.Month - 1]}";

    /// <summary>A number: <c>1,284.5</c>.</summary>
    public string Number(decimal value) => value.ToString("#,##0.############", numbers);

    /// <summary>An amount: <c>1,284.50 EUR</c>.</summary>
    public string Money(decimal amount, string currency) => $"{Figure(amount)} {currency}".TrimEnd();

    /// <summary>An amount without its currency.</summary>
    public string Figure(decimal amount) => amount.ToString("#,##0.00##", numbers);

    /// <summary>A day: <c>Tue 24 Nov</c>.</summary>
    public string Date(LocalDate day) => $"{Weekday(day)} {DayOfYear(day)}";

    /// <summary>A time of the day: <c>16:30</c>.</summary>
    public static string Time(LocalTime time) => time.ToString("HH:mm", CultureInfo.InvariantCulture);

    /// <summary>A day and a time: <c>Tue 24 Nov, 16:30</c>.</summary>
    public string Moment(ZonedDateTime at) => $"{Date(at.Date)}, {Time(at.TimeOfDay)}";

    /// <summary>A length of time: <c>3 h 20 min</c>, <c>2 days 4 h</c>.</summary>
    public string Span(Duration span)
    {
        var d = span < Duration.Zero ? -span : span;
        List<string> parts =
            d.TotalDays >= 1 ? [$"{(int)d.TotalDays} {Word((int)d.TotalDays == 1 ? "day" : "days")}", d.Hours > 0 ? $"{d.Hours} h" : ""]
            : d.TotalHours >= 1 ? [$"{d.Hours} h", d.Minutes > 0 ? $"{d.Minutes} min" : ""]
            : d.TotalMinutes >= 1 ? [$"{d.Minutes} min"]
            : [$"{(int)d.TotalSeconds} s"];
        return string.Join(' ', parts.Where(p => p.Length > 0));
    }

    /// <summary>How far off a moment is: <c>in 3 h 20 min</c>, <c>20 min ago</c>.</summary>
    public string Until(Duration ahead) => Word(ahead >= Duration.Zero ? "in {0}" : "{0} ago", Span(ahead));

    // 'you are in {0}': what stands at a place is whatever is there, the shortest that fits. The longest pattern is tried first: it is the most special.
    private static Regex Pattern(string english) =>
        new(
            $"^{string.Join("(.+?)", Regex.Split(english, @"\{\d\}").Select(Regex.Escape))}$",
            RegexOptions.CultureInvariant | RegexOptions.Singleline | RegexOptions.NonBacktracking
        );

    private static IEnumerable<TextLanguage> Shipped()
    {
        var assembly = typeof(TextLanguage).Assembly;
        foreach (var name in assembly.GetManifestResourceNames().Where(n => n.StartsWith("Languages/", StringComparison.Ordinal)))
        {
            using var stream = assembly.GetManifestResourceStream(name)!;
            yield return new(Path.GetFileNameWithoutExtension(name), JsonSerializer.Deserialize<LanguageFile>(stream, JsonSerializerOptions.Web)!);
        }
    }

    [GeneratedRegex(@"\{\{[^}]*\}\}")]
    private static partial Regex Fields();

    /// <summary>A language's file.</summary>
    /// <param name="Name">Its own name.</param>
    /// <param name="Days">Monday to Sunday, short.</param>
    /// <param name="Months">January to December, short.</param>
    /// <param name="Group">Between thousands.</param>
    /// <param name="Point">Before the decimals.</param>
    /// <param name="Words">Fixed words by the English ones.</param>
    /// <param name="Events">Events' short names by their types.</param>
    /// <param name="Texts">Texts of the wordings that ship, and of the mails around them.</param>
    /// <param name="Sentences">Sentences that Sirena keeps in English; names, times and figures stand at numbered places.</param>
    private sealed record LanguageFile(
        string Name,
        string[] Days,
        string[] Months,
        string Group,
        string Point,
        Dictionary<string, string> Words,
        Dictionary<string, string> Events,
        Dictionary<string, string> Texts,
        Dictionary<string, string> Sentences
    );
}
