using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Demo.OrderSystem;
using Sirena.Demo.World;
using Sirena.Engine.Sources;

namespace Sirena.Shots;

/// <summary>A day of the quay ledger for the pictures: bodies that came, three that nobody could read, two that proved nothing.</summary>
internal static class SourceShots
{
    /// <summary>Sends them, and reads them: on a fixed day no worker does.</summary>
    public static async Task BodiesAsync(World world)
    {
        using var http = new HttpClient();
        var now = Instant.FromUtc(2026, 11, 24, 14, 32, 8);
        for (var i = 0; i < 24; i++)
        {
            var order = new JsonObject
            {
                ["number"] = $"AQ-{20_900 + i}",
                ["status"] = i % 3 == 0 ? "picking" : "received",
                ["total"] = 318.5m + (i * 41.25m),
                ["currency"] = "EUR",
                ["placedAt"] = "2026-11-24T13:12:09Z",
                ["dueAt"] = $"2026-11-25T{8 + (i % 9):00}:30:00Z",
                ["salesperson"] = "ines.calder",
                ["via"] = "web",
                ["customer"] = new JsonObject
                {
                    ["code"] = "TARN",
                    ["name"] = "MV Tarn Venture",
                    ["group"] = "ferries",
                    ["email"] = "purser@tarn.example",
                },
                ["extra"] = new JsonObject { ["vessel"] = "MV Tarn Venture", ["berth"] = "N3" },
                ["lines"] = new JsonArray(
                    new JsonObject
                    {
                        ["sku"] = "CHD-0412",
                        ["title"] = "Mooring rope 28 mm, 110 m",
                        ["quantity"] = 2m,
                        ["unitPrice"] = 318m,
                        ["site"] = "chandlery",
                    }
                ),
            };
            var body = LedgerShape.Write(
                $"picture-{i}",
                i % 3 == 0 ? "order.status-changed" : "order.placed",
                new JsonObject { ["order"] = order },
                now - Duration.FromMinutes(50 - (i * 2)),
                other: false
            );
            var doc = (JsonObject)body["doc"]!;
            if (i == 19)
            {
                doc["wanted"] = "31/11/2026 09:30:00";
            }

            if (i is 21 or 22)
            {
                body["msg"] = "ORD_SUSP";
            }

            await SendAsync(http, world, body.ToJsonString(), i is 9 or 16);
        }

        await world.ExecuteAsync(
            $"update arrivals set at = timestamptz '{now.ToString("uuuu-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture)}' - (25 - (id - (select min(id) from arrivals))) * interval '127 seconds'"
        );
        await world.Nodes[0].Services.GetRequiredService<ArrivalReader>().ReadAsync(SourceSetup.Ledger, CancellationToken.None);
        await world.Nodes[0].Services.GetRequiredService<SourcePulse>().WriteAsync(CancellationToken.None);
    }

    private static async Task SendAsync(HttpClient http, World world, string body, bool wrong)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"{world.Url}/api/in/{SourceSetup.Ledger}")
        {
            Content = new StringContent(body, Encoding.UTF8, "application/json"),
        };
        request.Headers.Add(
            SourceSetup.Signature,
            "sha256="
                + Convert.ToHexStringLower(
                    HMACSHA256.HashData(Encoding.UTF8.GetBytes(SourceSetup.Secret(world.Demo)), Encoding.UTF8.GetBytes(wrong ? body + " " : body))
                )
        );
        using var answer = await http.SendAsync(request);
        _ = wrong ? answer : answer.EnsureSuccessStatusCode();
    }
}
