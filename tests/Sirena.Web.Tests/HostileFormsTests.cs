using System.Net;
using System.Text.RegularExpressions;
using Sirena.Shots;

namespace Sirena.Web.Tests;

/// <summary>Every form of every page, filled in with what nobody means: each is answered with a page or a sentence, and nothing that was there is gone.</summary>
public sealed partial class HostileFormsTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    [Fact]
    public async Task No_form_breaks_anything_whatever_it_holds()
    {
        var (http, _) = await world.SignInAsync(0);
        using var client = http;
        var order = await world.OrderAsync();

        // Two lead elsewhere, and whoever signs out fills in no more.
        string[] paths =
        [
            .. ReachTests
                .Filled.Where(p =>
                    p != "/sign-out" && !p.StartsWith("/jump", StringComparison.Ordinal) && !p.StartsWith("/proof/why", StringComparison.Ordinal)
                )
                .Select(p => ReachTests.Real(p, order, "ines.calder")),
        ];
        var (chance, wrong, sent) = (new Random(11), new List<string>(), 0);
        foreach (var path in paths)
        {
            using var drawn = await client.GetAsync(world.Url + path, TestContext.Current.CancellationToken);
            Assert.Equal((path, HttpStatusCode.OK), (path, drawn.StatusCode));
            var html = await drawn.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
            foreach (
                var form in Form()
                    .Matches(html)
                    .DistinctBy(f => Attribute(f.Groups[1].Value, "action"))
                    .Select(f => (Tag: f.Groups[1].Value, Inside: f.Groups[2].Value))
            )
            {
                var action = Attribute(form.Tag, "action") ?? path;
                if (!form.Tag.Contains("post", StringComparison.OrdinalIgnoreCase) || action.Contains("sign-out", StringComparison.Ordinal))
                {
                    continue;
                }

                foreach (var unseen in new[] { false, false, true })
                {
                    var fields = Fields(form.Inside, unseen, chance).ToArray();
                    using var body = new FormUrlEncodedContent(fields);
                    using var answer = await client.PostAsync(new Uri(new Uri(world.Url + path), action), body, TestContext.Current.CancellationToken);
                    sent++;
                    if ((int)answer.StatusCode >= 500)
                    {
                        wrong.Add(
                            $"{action} answers {(int)answer.StatusCode} to {string.Join(", ", fields.Where(f => f.Key[0] != '_').Select(f => $"{f.Key}={f.Value[..Math.Min(f.Value.Length, 60)]}"))}"
                        );
                    }
                }
            }
        }

        Assert.True(wrong.Count == 0, string.Join('\n', wrong));
        Assert.True(sent > 100, $"{sent} forms were found");
        Assert.Equal(HttpStatusCode.OK, (await world.SendAsync(HttpMethod.Get, "/health/ready", null)).Status);
        foreach (var path in paths)
        {
            Assert.Equal((path, HttpStatusCode.OK), (path, (await client.GetAsync(world.Url + path, TestContext.Current.CancellationToken)).StatusCode));
        }
    }

    // What a browser would send of it, with odd words where somebody types or chooses; sometimes also where nobody sees it.
    private static IEnumerable<KeyValuePair<string, string>> Fields(string inside, bool unseen, Random chance)
    {
        foreach (Match field in Field().Matches(inside))
        {
            var (tag, name) = (field.Value, WebUtility.HtmlDecode(Attribute(field.Value, "name") ?? ""));
            var type = Attribute(tag, "type") ?? "text";
            if (name.Length == 0 || type is "file" || (type is "checkbox" or "radio" && chance.Next(2) == 0))
            {
                continue;
            }

            var stays = name.StartsWith("__", StringComparison.Ordinal) || (type == "hidden" && !unseen) || chance.Next(4) == 0;
            yield return new(name, stays ? WebUtility.HtmlDecode(Attribute(tag, "value") ?? "") : OddWords.One(chance));
        }
    }

    private static string? Attribute(string tag, string name) =>
        Regex.Match(tag, $"\\s{name}=\"([^\"]*)\"") is { Success: true } found ? WebUtility.HtmlDecode(found.Groups[1].Value) : null;

    [GeneratedRegex("<form\\b([^>]*)>(.*?)</form>", RegexOptions.Singleline)]
    private static partial Regex Form();

    [GeneratedRegex("<(?:input|select|textarea|button)\\b[^>]*>")]
    private static partial Regex Field();
}
