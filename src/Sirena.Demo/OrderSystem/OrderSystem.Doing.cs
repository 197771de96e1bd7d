using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Demo.World;

namespace Sirena.Demo.OrderSystem;

public sealed partial class OrderSystem
{
    /// <summary>Does what it is asked, and tells of it. The same instruction twice is done once.</summary>
    /// <param name="source">By which source it is asked: the ledger, or whoever sends CloudEvents by key.</param>
    /// <param name="call">The CloudEvent.</param>
    /// <param name="cancel">Breaks it off.</param>
    public async Task<(int Status, JsonObject Body)> DoAsync(string source, JsonObject call, CancellationToken cancel)
    {
        if (moods.Takes("away"))
        {
            return (503, new JsonObject { ["title"] = "The ledger is being tidied up. Come again later." });
        }

        if (call["data"]?["instruction"] is not JsonObject asked || asked["id"]?.ToString() is not { } id || asked["kind"]?.ToString() is not { } name)
        {
            return (400, new JsonObject { ["title"] = "This is no instruction." });
        }

        if (moods.Takes("refuse"))
        {
            return (422, new JsonObject { ["title"] = "Refused", ["detail"] = "The ledger's day is closed for this order." });
        }

        if (done.TryGetValue(id, out var before))
        {
            return (202, before.DeepClone().AsObject());
        }

        var answer = done.GetOrAdd(id, new JsonObject { ["state"] = "taken", ["words"] = $"accepted, {Interlocked.Increment(ref slips)}" });
        if (!moods.Takes("forget"))
        {
            _ = WorkAsync(source, name, asked["with"] as JsonObject ?? [], call["data"]!["order"]?["number"]?.ToString());
        }

        return (202, answer.DeepClone().AsObject());
    }

    private async Task WorkAsync(string source, string name, JsonObject with, string? number)
    {
        try
        {
            await Task.Delay(moods.Takes("late") ? moods.Lateness : TimeSpan.FromMilliseconds(200 + chance.Next(400)));
            name = moods.Takes("opposite")
                ? name switch
                {
                    "hold" => "release",
                    "release" => "hold",
                    _ => "hold",
                }
                : name;
            if (InstructionKinds.Find(name) is not { } kind)
            {
                return;
            }

            await using var db = await factory.CreateDbContextAsync();
            var order = number is null ? null : await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Number == number);
            var statuses = await db.Statuses.AsNoTracking().OrderBy(s => s.Position).ToListAsync();
            var known = new OrderEvent
            {
                EventId = "",
                Source = "",
                Type = "",
                Data = "{}",
                OrderAfter = order?.Document,
            };
            var (type, change, beside) = kind.Imagine(new InstructionSight(new Core.Orders.Fields.Facts(known, DateTimeZone.Utc, "EUR"), statuses), with);
            if (type.StartsWith("order.", StringComparison.Ordinal))
            {
                change["number"] = number;
                beside["order"] = change;
            }

            await (source == SourceSetup.Ledger ? SayAsync(type, beside, CancellationToken.None) : TellAsync(type, number, beside));
        }
        catch (Exception e) when (e is HttpRequestException or OperationCanceledException or System.Data.Common.DbException or InvalidOperationException)
        {
            // It has lost it: taken, and never done.
        }
    }
}
