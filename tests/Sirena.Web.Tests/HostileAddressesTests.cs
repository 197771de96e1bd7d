using System.Net;
using System.Reflection;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Sirena.Web.Tests;

/// <summary>
/// Every page and every call that only reads, by addresses that nobody means: what their address takes (made from the application's own endpoints) filled with
/// odd words. Each is answered, none with a fault of the server.
/// </summary>
public sealed partial class HostileAddressesTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private const int Rounds = 8;

    [Fact]
    public async Task No_address_breaks_anything_whatever_it_says()
    {
        var (http, _) = await world.SignInAsync(0);
        using var client = http;
        var order = await world.OrderAsync();
        string[] real =
        [
            .. ReachTests.Filled.Select(p => ReachTests.Real(p.Split('?')[0], order, "ines.calder")),
            "/api/orders/" + order,
            "/api/people/ines.calder",
            "/api/rules/held-for-credit",
            "/api/teams/kitchen/rota",
        ];
        var (chance, wrong, sent) = (new Random(5), new List<string>(), 0);
        foreach (var (pattern, names) in await WaysAsync())
        {
            var shape = new Regex($"^{Part().Replace(Regex.Escape(pattern).Replace("\\{", "{", StringComparison.Ordinal), "[^/]+")}$");
            string[] places = [.. real.Where(r => shape.IsMatch(r)).Distinct()];
            for (var round = 0; round < Rounds; round++)
            {
                // A real place with an odd question, or an odd place.
                var path =
                    places.Length > 0 && chance.Next(4) > 0
                        ? places[chance.Next(places.Length)]
                        : Part()
                            .Replace(pattern, _ => Uri.EscapeDataString(OddWords.One(chance) is { Length: > 0 } word and not "../../etc/passwd" ? word : "x"));
                var asked = names.OrderBy(_ => chance.Next()).Take(1 + chance.Next(3)).Select(n => $"{n}={Uri.EscapeDataString(OddWords.One(chance))}");
                var address = $"{path}?{string.Join('&', asked)}";
                using var answer = await client.GetAsync(world.Url + address, HttpCompletionOption.ResponseHeadersRead, TestContext.Current.CancellationToken);
                sent++;
                if ((int)answer.StatusCode >= 500)
                {
                    wrong.Add($"{address} answers {(int)answer.StatusCode}");
                }
            }
        }

        Assert.True(wrong.Count == 0, string.Join('\n', wrong));
        Assert.True(sent > 500, $"{sent} addresses were found");
        Assert.Equal(HttpStatusCode.OK, (await world.SendAsync(HttpMethod.Get, "/health/ready", null)).Status);
    }

    // Every way that reads, by its pattern, with the names that its address takes.
    private async Task<List<(string Pattern, string[] Names)>> WaysAsync()
    {
        var ways = new List<(string, string[])>();
        foreach (var (pattern, endpoint, page) in await world.EndpointsAsync())
        {
            if (pattern.Contains("sign-out", StringComparison.Ordinal))
            {
                continue;
            }

            if (page is not null)
            {
                ways.Add((pattern, [.. Bound(page), "handler"]));
            }
            else if (WorldFixture.MethodsOf(endpoint).Contains("GET"))
            {
                var taken = endpoint.Metadata.GetMetadata<MethodInfo>()?.GetParameters().Where(p => IsPlain(p.ParameterType)).Select(p => p.Name!) ?? [];
                ways.Add((pattern, [.. taken, "limit", "cursor"]));
            }
        }

        return [.. ways.DistinctBy(w => w.Item1).OrderBy(w => w.Item1, StringComparer.Ordinal)];
    }

    private static IEnumerable<string> Bound(CompiledPageActionDescriptor page) =>
        page
            .HandlerTypeInfo.GetProperties()
            .Where(p => p.GetCustomAttribute<BindPropertyAttribute>()?.SupportsGet == true)
            .Select(p => p.GetCustomAttribute<BindPropertyAttribute>()!.Name ?? p.Name)
            .Concat(
                page.HandlerMethods.Where(h => h.HttpMethod == "Get").SelectMany(h => h.Parameters).Where(p => IsPlain(p.ParameterType)).Select(p => p.Name)
            )
            .Distinct(StringComparer.OrdinalIgnoreCase);

    private static bool IsPlain(Type type) =>
        (Nullable.GetUnderlyingType(type) ?? type) is var plain
        && (plain.IsPrimitive || plain.IsEnum || plain == typeof(string) || plain == typeof(Guid) || plain == typeof(decimal) || plain == typeof(string[]));

    [GeneratedRegex(@"\{[^}]*\}")]
    private static partial Regex Part();
}
