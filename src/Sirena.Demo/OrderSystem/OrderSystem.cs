using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Demo.World;
using Sirena.Engine.Intake;
using Sirena.Storage;

namespace Sirena.Demo.OrderSystem;

/// <summary>
/// The order system of Averil Quay, the quay ledger: places orders and moves them through their day, and calls Sirena with a signed body of its own shape, one
/// every few seconds. It hurries: a day's way
/// takes minutes, so that there is something to see. It misbehaves when it is told to.
/// </summary>
public sealed partial class OrderSystem(HttpClient http, IDbContextFactory<SirenaDb> factory, DemoFile demo, Moods moods)
{
    /// <summary>The source that its events named before it called in its own shape: the history's.</summary>
    public const string Source = "https://orders.averilquay.example";

    private static readonly string[] Way = ["received", "credit-check", "picking", "in-galley", "loaded", "alongside", "signed-for"];
    private readonly Random chance = new();
    private readonly System.Collections.Concurrent.ConcurrentDictionary<string, JsonObject> done = [];
    private int nextNumber;
    private int slips = 88_000;

    /// <summary>Works until cancelled.</summary>
    public async Task RunAsync(CancellationToken cancel)
    {
        while (!cancel.IsCancellationRequested)
        {
            await Task.Delay(TimeSpan.FromSeconds(2.5 + (chance.NextDouble() * 3)), cancel);
            try
            {
                nextNumber = nextNumber == 0 ? await FirstNumberAsync(cancel) : nextNumber;
                await (chance.NextDouble() < 0.18 ? PlaceAsync(cancel) : MoveAsync(cancel));
            }
            catch (Exception e)
                when (!cancel.IsCancellationRequested
                    && (
                        e
                        is HttpRequestException
                            or OperationCanceledException
                            or System.Data.Common.DbException
                            or InvalidOperationException { InnerException: System.Data.Common.DbException }
                    )
                )
            {
                // The books cannot be looked into just now: they are again in a moment.
            }
        }
    }

    /// <summary>
    /// The orders that it moves: those of which nobody else has told. Whoever tries the demo with events of their own keeps those orders to themselves.
    /// </summary>
    public static IQueryable<Order> Own(SirenaDb db) =>
        db
            .Orders.AsNoTracking()
            .Where(o =>
                o.Number.StartsWith("AQ-")
                && !db.Events.Any(e => e.OrderNumber == o.Number && e.Source != Source && e.Source != "/sources/ledger" && e.Source != OwnEvents.Source)
            );

    private async Task<int> FirstNumberAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var numbers = await db.Orders.Where(o => o.Number.StartsWith("AQ-")).Select(o => o.Number).ToListAsync(cancel);
        return Math.Max(20_500, numbers.Select(n => int.TryParse(n[3..], out var i) && i < 90_000 ? i : 0).DefaultIfEmpty(0).Max() + 1);
    }

    private Task PlaceAsync(CancellationToken cancel)
    {
        var placed = new OrderPlan(chance).Make(nextNumber++, SystemClock.Instance.GetCurrentInstant())[0];
        return SayAsync("order.placed", (JsonObject)placed.Data, cancel);
    }

    /// <summary>Its own list of open orders, as CSV: what it knows, told or not.</summary>
    public async Task<string> ListAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var known = await db
            .Orders.AsNoTracking()
            .Where(o => o.Number.StartsWith("AQ-") && o.Open)
            .OrderBy(o => o.Number)
            .Select(o => new
            {
                o.Number,
                o.Status,
                o.ChangedAt,
                o.DueAt,
                o.Total,
                o.Customer,
            })
            .ToListAsync(cancel);
        var text = new StringBuilder("no;stage;moved;wanted;amount;account\n");
        foreach (var order in known)
        {
            var untold = moods.Untold.GetValueOrDefault(order.Number);
            var status = untold?.Order["status"]?.ToString() ?? order.Status;
            text.Append(LedgerShape.Row(order.Number["AQ-".Length..], status, untold?.At ?? order.ChangedAt, order.DueAt, order.Total, order.Customer));
        }

        foreach (var (number, (order, at)) in moods.Untold.Where(u => known.All(k => k.Number != u.Key) && u.Value.Order["total"] is not null))
        {
            text.Append(
                LedgerShape.Row(
                    number["AQ-".Length..],
                    order["status"]?.ToString(),
                    at,
                    Core.Orders.Fields.Facts.Time(order["dueAt"]?.ToString()),
                    order["total"] is { } sum ? decimal.Parse(sum.ToJsonString(), System.Globalization.CultureInfo.InvariantCulture) : null,
                    order["customer"]?["name"]?.ToString()
                )
            );
        }

        return text.ToString();
    }

    private async Task MoveAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        string[] untold = [.. moods.Untold.Keys];
        var candidates = await Own(db).Where(o => o.Open && o.Seq > 0 && !untold.Contains(o.Number)).OrderBy(o => o.DueAt).Take(60).ToListAsync(cancel);
        if (candidates.Count == 0)
        {
            return;
        }

        var order = candidates[(int)(candidates.Count * Math.Pow(chance.NextDouble(), 2))];
        var at = Array.IndexOf(Way, order.Status ?? "received");
        var dice = chance.NextDouble();
        var named = new JsonObject { ["number"] = order.Number };
        if (order.HoldReason is not null)
        {
            named["hold"] = null;
            await SayAsync("order.released", new JsonObject { ["order"] = named }, cancel);
        }
        else if (dice < 0.05)
        {
            named["hold"] = new JsonObject { ["reason"] = dice < 0.025 ? "account over its credit limit" : "duty papers missing" };
            await SayAsync("order.held", new JsonObject { ["order"] = named }, cancel);
        }
        else if (dice < 0.09 && order.Risk < RiskLevel.Medium)
        {
            named["risk"] = new JsonObject
            {
                ["level"] = dice < 0.065 ? "high" : "medium",
                ["score"] = chance.Next(45, 95),
                ["reasons"] = new JsonArray("first order on this card"),
            };
            await SayAsync("order.risk-flagged", new JsonObject { ["order"] = named }, cancel);
        }
        else if (dice < 0.12)
        {
            await SayAsync(
                "order.note-added",
                new JsonObject
                {
                    ["order"] = named,
                    ["note"] = new JsonObject
                    {
                        ["by"] = "ines.calder",
                        ["text"] = "Shellfish allergy in the crew mess.",
                        ["visibleToCustomer"] = false,
                    },
                },
                cancel
            );
        }
        else
        {
            var to = Way[Math.Min(at + 1, Way.Length - 1)];
            if (to == "in-galley" && !order.Sites.Contains("galley"))
            {
                to = "loaded";
            }

            named["status"] = to;
            await SayAsync(
                "order.status-changed",
                new JsonObject
                {
                    ["order"] = named,
                    ["change"] = new JsonObject
                    {
                        ["field"] = "status",
                        ["before"] = order.Status,
                        ["after"] = to,
                    },
                },
                cancel
            );
        }
    }

    // By key, as a CloudEvent.
    private async Task TellAsync(string type, string? number, JsonObject data)
    {
        var happened = new JsonObject
        {
            ["specversion"] = "1.0",
            ["id"] = Guid.CreateVersion7().ToString(),
            ["source"] = "/order-system",
            ["type"] = type,
            ["subject"] = number ?? "events",
            ["time"] = NodaTime.Text.InstantPattern.ExtendedIso.Format(SystemClock.Instance.GetCurrentInstant()),
            ["datacontenttype"] = "application/json",
            ["data"] = data,
        };
        using var request = new HttpRequestMessage(HttpMethod.Post, $"{demo.Url}/api/events")
        {
            Content = new StringContent(happened.ToJsonString(), Encoding.UTF8, "application/cloudevents+json"),
        };
        request.Headers.Authorization = new System.Net.Http.Headers.AuthenticationHeaderValue("Bearer", demo.SourceKey);
        using var answer = await http.SendAsync(request);
    }

    private async Task SayAsync(string type, JsonObject data, CancellationToken cancel)
    {
        if (moods.Takes("quiet") || (type is "order.placed" or "order.status-changed" && moods.Takes("skip")))
        {
            // It knows what happened, and says nothing of it; its own list has it.
            if (data["order"] is JsonObject order)
            {
                moods.Untold[order["number"]!.ToString()] = new Untold((JsonObject)order.DeepClone(), SystemClock.Instance.GetCurrentInstant());
            }

            return;
        }

        var body = LedgerShape
            .Write(Guid.CreateVersion7().ToString(), type, data, SystemClock.Instance.GetCurrentInstant(), moods.Takes("other-shape"))
            .ToJsonString();
        body = moods.Takes("broken-body") ? body[..(body.Length / 2)] : body;
        var signature =
            "sha256=" + Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(SourceSetup.Secret(demo)), Encoding.UTF8.GetBytes(body)));
        for (var pause = TimeSpan.FromSeconds(1); ; pause = pause < TimeSpan.FromSeconds(10) ? pause * 2 : pause)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, $"{demo.Url}/api/in/{SourceSetup.Ledger}")
            {
                Content = new StringContent(body, Encoding.UTF8, "application/json"),
            };
            request.Headers.Add(SourceSetup.Signature, signature);
            try
            {
                using var answer = await http.SendAsync(request, cancel);
                if ((int)answer.StatusCode is < 500 and not 429)
                {
                    return;
                }
            }
            catch (Exception e) when (!cancel.IsCancellationRequested && (e is HttpRequestException or OperationCanceledException))
            {
                // Sirena is away for a moment: the body is kept and sent again, its id says that it is the same.
            }

            await Task.Delay(pause, cancel);
        }
    }
}
