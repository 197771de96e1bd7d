using System.Net.Http.Headers;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Storage;
using Sirena.Storage.Sources;

namespace Sirena.Demo.World;

/// <summary>Connects the demo's sources as a supervisor would, through the API.</summary>
public static partial class SourceSetup
{
    /// <summary>The ledger's id.</summary>
    public const string Ledger = "ledger";

    /// <summary>The header of the ledger's signature.</summary>
    public const string Signature = "X-Ledger-Signature";

    /// <summary>The ledger's secret, made from the demo's key so that it is the same after a new start.</summary>
    public static string Secret(DemoFile demo) =>
        Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes("ledger " + demo.SourceKey)));

    /// <summary>
    /// Connects the ledger with its list, the contact form, the documents and the stock list, and gives the ledger the history's rhythm where it has none.
    /// </summary>
    /// <param name="demo">The demo.</param>
    /// <param name="db">Its database.</param>
    /// <param name="cancel">Breaks it off.</param>
    /// <param name="folder">A folder that the application may watch, or <see langword="null"/>.</param>
    /// <returns>Whether they were connected for the first time.</returns>
    public static async Task<bool> ConnectAsync(DemoFile demo, SirenaDb db, CancellationToken cancel, string? folder = null)
    {
        using var http = new HttpClient
        {
            BaseAddress = new Uri(demo.Url),
            DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", demo.Token) },
        };
        var isNew = !await db.Sources.AnyAsync(s => s.Id == Ledger, cancel);
        await PutAsync(
            http,
            Ledger,
            new JsonObject
            {
                ["name"] = "Quay ledger",
                ["kind"] = "calls",
                ["proof"] = new JsonObject
                {
                    ["signature"] = new JsonObject { ["header"] = Signature, ["before"] = "sha256=" },
                    ["secret"] = Secret(demo),
                },
                ["reading"] = isNew ? LedgerReading() : null,
                ["takes"] = isNew ? Takes() : null,
                ["instructionsTo"] = demo.StandIns.Length > 0 ? $"{demo.StandIns}/order-system/instructions/{Ledger}" : null,
            },
            cancel
        );
        await PutAsync(
            http,
            "events",
            new JsonObject
            {
                ["kind"] = "events",
                ["takes"] = isNew ? Takes() : null,
                ["instructionsTo"] = demo.StandIns.Length > 0 ? $"{demo.StandIns}/order-system/instructions/events" : null,
                ["instructionsSecret"] = Secret(demo),
            },
            cancel
        );
        await PutAsync(
            http,
            "contact-form",
            new JsonObject
            {
                ["name"] = "Contact form",
                ["kind"] = "calls",
                ["proof"] = new JsonObject { ["inAddress"] = true, ["secret"] = Secret(demo)[..24] },
                ["reading"] = isNew ? ContactReading() : null,
                ["silence"] = new JsonObject { ["watch"] = false },
            },
            cancel
        );
        await PutAsync(
            http,
            "ledger-list",
            new JsonObject
            {
                ["name"] = "Quay ledger, its own list",
                ["kind"] = "listing",
                ["prefix"] = "AQ-",
                ["listing"] = new JsonObject
                {
                    ["role"] = "check",
                    ["key"] = "no",
                    ["stands"] = 1,
                    ["schedule"] = "15 2 * * *",
                    ["url"] = demo.StandIns.Length > 0 ? demo.StandIns + "/order-system/list.csv" : null,
                },
                ["reading"] = isNew ? ListReading() : null,
            },
            cancel
        );
        await PutAsync(
            http,
            "documents",
            new JsonObject
            {
                ["name"] = "Order documents",
                ["kind"] = "documents",
                ["listing"] = folder is null ? null : new JsonObject { ["folder"] = Path.Combine(folder, "ubl") },
                ["proof"] = new JsonObject { ["inAddress"] = true, ["secret"] = Secret(demo)[..20] },
                ["silence"] = new JsonObject { ["watch"] = false },
            },
            cancel
        );
        await PutAsync(
            http,
            "stock-list",
            new JsonObject
            {
                ["name"] = "Stock list",
                ["kind"] = "listing",
                ["listing"] = new JsonObject
                {
                    ["role"] = "things",
                    ["key"] = "Article",
                    ["charset"] = "windows-1252",
                },
                ["reading"] = isNew ? StockReading() : null,
            },
            cancel
        );
        if (isNew)
        {
            await RulesAsync(http, cancel);
            await RhythmAsync(db, cancel);
            if (demo.StandIns.Length > 0)
            {
                await QuietAsync(http, db, cancel);
            }
        }

        return isNew;
    }

    // A desk of its own that always sent something, and since yesterday nothing.
    private static async Task QuietAsync(HttpClient http, SirenaDb db, CancellationToken cancel)
    {
        const string id = "yacht-desk";
        await PutAsync(
            http,
            id,
            new JsonObject
            {
                ["name"] = "Yacht desk",
                ["kind"] = "calls",
                ["prefix"] = "YD-",
                ["proof"] = new JsonObject { ["key"] = true },
            },
            cancel
        );
        var now = SystemClock.Instance.GetCurrentInstant();
        var hour = now.Hour();
        db.SourceHours.AddRange(
            Enumerable
                .Range(27, 24 * 35)
                .Select(h => hour - Duration.FromHours(h))
                .Select(h => new SourceHour
                {
                    Source = id,
                    Hour = h,
                    Events = 2 + (h.InUtc().Hour is > 6 and < 19 ? 5 : 0),
                })
        );
        await db.SaveChangesAsync(cancel);
        await db
            .Sources.Where(s => s.Id == id)
            .ExecuteUpdateAsync(
                u => u.SetProperty(s => s.LastAt, now - Duration.FromHours(26)).SetProperty(s => s.CreatedAt, now - Duration.FromDays(36)),
                cancel
            );
    }

    private static JsonArray Takes() => [.. Core.Instructions.InstructionKinds.Names.Select(n => (JsonNode)n)];

    /// <summary>Puts the rules in force that ask the order system for something.</summary>
    private static async Task RulesAsync(HttpClient http, CancellationToken cancel)
    {
        var assembly = typeof(SourceSetup).Assembly;
        foreach (var name in assembly.GetManifestResourceNames().Where(n => n.Contains(".Acting.", StringComparison.Ordinal)).Order())
        {
            using var reader = new StreamReader(assembly.GetManifestResourceStream(name)!);
            using var body = new StringContent(await reader.ReadToEndAsync(cancel), System.Text.Encoding.UTF8, "application/yaml");
            using var answer = await http.PostAsync("/api/rules", body, cancel);
            if (!answer.IsSuccessStatusCode && answer.StatusCode != System.Net.HttpStatusCode.Conflict)
            {
                throw new InvalidOperationException($"The demo's rule {name} has a mistake: {await answer.Content.ReadAsStringAsync(cancel)}");
            }
        }
    }

    // What the ledger sent in the history counts as its rhythm.
    private static async Task RhythmAsync(SirenaDb db, CancellationToken cancel)
    {
        var hours = await db
            .Database.SqlQueryRaw<HourOfHistory>(
                "select date_trunc('hour', received) as hour, count(*)::int as events from events where source = {0} group by 1",
                OrderSystem.OrderSystem.Source
            )
            .ToListAsync(cancel);
        db.SourceHours.AddRange(
            hours.Select(h => new SourceHour
            {
                Source = Ledger,
                Hour = h.Hour,
                Events = h.Events,
            })
        );
        await db.SaveChangesAsync(cancel);
        if (hours.Count > 0)
        {
            var last = await db.Events.Where(e => e.Source == OrderSystem.OrderSystem.Source).MaxAsync(e => e.Received, cancel);
            await db.Sources.Where(s => s.Id == Ledger).ExecuteUpdateAsync(u => u.SetProperty(s => s.LastAt, last), cancel);
        }
    }

    private static async Task PutAsync(HttpClient http, string id, JsonObject source, CancellationToken cancel)
    {
        foreach (var nothing in source.Where(m => m.Value is null).Select(m => m.Key).ToArray())
        {
            source.Remove(nothing);
        }

        for (var tries = 0; ; tries++)
        {
            try
            {
                using var answer = await http.PutAsync($"/api/sources/{id}", JsonContent.Create(source), cancel);
                if (!answer.IsSuccessStatusCode && (int)answer.StatusCode < 500)
                {
                    throw new InvalidOperationException($"The demo's source {id} has a mistake: {await answer.Content.ReadAsStringAsync(cancel)}");
                }

                answer.EnsureSuccessStatusCode();
                return;
            }
            catch (HttpRequestException) when (tries < 100)
            {
                await Task.Delay(300, cancel);
            }
        }
    }

    private sealed record HourOfHistory(Instant Hour, int Events);
}
