using System.Runtime.CompilerServices;
using System.Text.RegularExpressions;
using NodaTime;
using Sirena.Core.Wordings;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Tests;

/// <summary>The pages of staff and customers have every text in every language that ships.</summary>
public sealed partial class StaffWordsTests
{
    // Texts that a page names by a variable: the ways about, the roles, the lights.
    private static readonly string[] Named =
    [
        "My alerts",
        "Orders",
        "My page",
        "Alerts",
        "My hours",
        "How I am reached",
        "staff",
        "Day",
        "Night",
        "As the system",
    ];

    [Fact]
    public void Every_text_of_a_page_is_there_with_the_same_places_and_none_is_left_over()
    {
        var asked = Directory
            .EnumerateFiles(Pages(), "*.cs*", SearchOption.AllDirectories)
            .SelectMany(f => Asked().Matches(File.ReadAllText(f)).Select(m => Regex.Unescape(m.Groups[1].Value)))
            .Concat(Named)
            .ToHashSet();
        Assert.True(asked.Count > 150, $"Only {asked.Count} texts were found");
        foreach (var language in TextLanguage.All.Where(l => l != TextLanguage.En))
        {
            var words = new StaffWords(language);
            var there = words.GetAllStrings(false).ToDictionary(s => s.Name, s => s.Value);
            Assert.Equal([], asked.Where(a => words[a].ResourceNotFound));
            Assert.Equal([], there.Keys.Except(asked));
            Assert.Equal([], there.Where(s => !Places(s.Key).SequenceEqual(Places(s.Value))).Select(s => s.Key));
        }
    }

    [Fact]
    public void English_is_its_own_key_and_a_text_without_another_stays_English()
    {
        Assert.Equal("3 alerts wait for you", StaffWords.English["{0} alerts wait for you", 3]);
        Assert.Equal("3 alertas esperam por si", new StaffWords(TextLanguage.Of("pt"))["{0} alerts wait for you", 3]);
        Assert.Equal("of nobody", new StaffWords(TextLanguage.Of("pt"))["of nobody"]);
    }

    [Fact]
    public void Times_are_said_in_the_readers_language()
    {
        var now = Instant.FromUtc(2026, 11, 24, 14, 30);
        var desk = new DeskTime(now, DateTimeZone.Utc) { Language = TextLanguage.Of("pt") };
        Assert.Equal("em 18 min", desk.Until(now + Duration.FromMinutes(18)));
        Assert.Equal("3 min de atraso", desk.Until(now - Duration.FromMinutes(3)));
        Assert.Equal("há 2 dias", desk.Since(now - Duration.FromDays(2)));
        Assert.Equal("sex 07:00", desk.Short(Instant.FromUtc(2026, 11, 27, 7, 0)));
        Assert.Equal("2 mar 07:00", desk.Short(Instant.FromUtc(2026, 3, 2, 7, 0)));
        Assert.Equal("2 Mar 07:00", (desk with { Language = TextLanguage.En }).Short(Instant.FromUtc(2026, 3, 2, 7, 0)));
    }

    private static IEnumerable<string> Places(string text) => Place().Matches(text).Select(m => m.Value).Order(StringComparer.Ordinal);

    private static string Pages([CallerFilePath] string here = "") => Path.Combine(Path.GetDirectoryName(here)!, "../../src/Sirena.Web/Pages");

    [GeneratedRegex("""\b[lL]\["((?:[^"\\]|\\.)*)"[\],]""")]
    private static partial Regex Asked();

    [GeneratedRegex(@"\{\d\}")]
    private static partial Regex Place();
}
