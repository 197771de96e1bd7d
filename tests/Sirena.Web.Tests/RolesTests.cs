using System.Net;
using System.Text;
using System.Text.RegularExpressions;

namespace Sirena.Web.Tests;

/// <summary>
/// Who may do what, for every page handler and every call of the API: the list is made from the application's own endpoints, so that a new one without a row
/// fails.
/// </summary>
public sealed partial class RolesTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private static readonly string[] Roles = ["nobody", "reader", "staff", "supervisor"];

    // Beside the page of one rule or person stand pages with a name of their own: what had that name as its id could not be opened.
    [Theory]
    [InlineData("/rules/")]
    [InlineData("/people/")]
    public async Task The_words_in_addresses_that_stand_where_an_id_would_are_no_ids(string before)
    {
        var words = (await world.EndpointsAsync())
            .Where(e => e.Page is not null && e.Pattern.StartsWith(before, StringComparison.Ordinal))
            .Select(e => e.Pattern[before.Length..].Split('/')[0])
            .Where(w => w.Length > 0 && w[0] != '{')
            .Append(Core.Ids.New)
            .Distinct()
            .ToArray();
        Assert.True(words.Length > 1);
        Assert.Equal(words.Order(StringComparer.Ordinal), (before == "/rules/" ? Core.Ids.NoRule : Core.Ids.NoPerson).Order(StringComparer.Ordinal));
        foreach (var word in words)
        {
            var body = before == "/rules/" ? "name: Any\nwhen: [order.placed]\ntell: [ { team: kitchen } ]\nby: { allAtOnce: [mail] }" : "name: Any";
            var (status, answer, _) = await world.SendAsync(HttpMethod.Put, "/api" + before + word, world.World.Demo.Token, body, "application/yaml");
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.StartsWith($"'{word}' is a word of Sirena's own addresses", (string?)answer!["errors"]![0]!["problem"]);
        }
    }

    [Fact]
    public async Task Every_way_in_lets_in_whom_its_row_says_and_nobody_else()
    {
        var rows = File.ReadLines(Path.Combine(AppContext.BaseDirectory, "roles.txt"))
            .Where(l => l.Length > 0 && l[0] != '#')
            .Select(l => l.Split(" : "))
            .ToDictionary(l => l[0].Trim(), l => l[1].Trim());
        var ways = await WaysAsync();
        var clients = new Dictionary<string, (HttpClient Client, string Form)>();
        foreach (var (role, user) in new[] { ("supervisor", 0), ("staff", 1), ("reader", 3) })
        {
            clients[role] = await world.SignInAsync(user);
        }

        using var nobody = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false });
        clients["nobody"] = (nobody, "");
        var wrong = new List<string>(rows.Keys.Except(ways.Select(w => w.Name)).Select(gone => $"{gone} : there is no such way any more"));
        foreach (var way in ways)
        {
            var (let, answers) = (new List<string>(), new List<string>());
            foreach (var role in Roles)
            {
                var (client, form) = clients[role];
                using var answer = await client.SendAsync(Request(way, form), HttpCompletionOption.ResponseHeadersRead, TestContext.Current.CancellationToken);
                var place = answer.Headers.Location?.ToString() ?? "";
                answers.Add($"{(int)answer.StatusCode}{place}");
                if (
                    answer.StatusCode is not (HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden)
                    && !place.Contains("/sign-in", StringComparison.Ordinal)
                    && !place.Contains("/not-allowed", StringComparison.Ordinal)
                )
                {
                    let.Add(role);
                }
            }

            var found =
                let.Count == Roles.Length ? "all"
                : let.Count == 0 ? "none"
                : string.Join(' ', let);
            if (found != rows.GetValueOrDefault(way.Name) || answers.Exists(a => a[0] == '5'))
            {
                wrong.Add($"{way.Name} : {found} ({string.Join(", ", answers)})");
            }
        }

        Assert.True(wrong.Count == 0, string.Join('\n', wrong));
    }

    private HttpRequestMessage Request((string Name, string Method, string Path) way, string form)
    {
        var request = new HttpRequestMessage(HttpMethod.Parse(way.Method), world.Url + way.Path);
        if (way.Method is "POST" && !way.Path.StartsWith("/api", StringComparison.Ordinal))
        {
            request.Content = new FormUrlEncodedContent([new("__RequestVerificationToken", form)]);
        }
        else if (way.Method is not "GET")
        {
            request.Headers.TryAddWithoutValidation("X-Sirena-Form", form);
            request.Content = new StringContent("{}", Encoding.UTF8, "application/json");
        }

        return request;
    }

    // Every page handler and every call, with an address that names nothing that exists.
    private async Task<List<(string Name, string Method, string Path)>> WaysAsync()
    {
        var ways = new List<(string, string, string)>();
        foreach (var (pattern, endpoint, page) in await world.EndpointsAsync())
        {
            var path = Part()
                .Replace(pattern, m => m.Value.Contains("guid", StringComparison.Ordinal) ? Guid.Empty.ToString()
                    : m.Value.Contains("int", StringComparison.Ordinal) || m.Value.Contains("long", StringComparison.Ordinal) ? "0"
                    : "nothing");
            if (page is not null)
            {
                foreach (var handler in page.HandlerMethods)
                {
                    var name = handler.Name is { Length: > 0 } n ? $"?handler={n}" : "";
                    ways.Add(($"{handler.HttpMethod.ToUpperInvariant()} {pattern}{name}", handler.HttpMethod.ToUpperInvariant(), path + name));
                }
            }
            else
            {
                ways.AddRange(WorldFixture.MethodsOf(endpoint).Select(m => ($"{m} {pattern}", m, path)));
            }
        }

        // Signing out is tried last: it ends the session of whoever tries it.
        return
        [
            .. ways.DistinctBy(w => w.Item1).OrderBy(w => w.Item1.Contains("/sign-out", StringComparison.Ordinal)).ThenBy(w => w.Item1, StringComparer.Ordinal),
        ];
    }

    [GeneratedRegex(@"\{[^}]*\}")]
    private static partial Regex Part();
}
