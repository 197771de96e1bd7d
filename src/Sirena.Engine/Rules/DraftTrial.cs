using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Orders;
using Sirena.Formats.Documents;
using Sirena.Storage;

namespace Sirena.Engine.Rules;

/// <summary>A draft's verdict on one event, and whom it would have told.</summary>
public sealed record Verdict(OrderEvent Event, Decision Decision, Resolution? Who);

/// <summary>A draft tried on events.</summary>
/// <param name="Verdicts">One for each event that the draft listens to, the oldest first.</param>
/// <param name="Problem">Why there is none, or <see langword="null"/>.</param>
/// <param name="Text">The last of the events as a person may change it, JSON; <see langword="null"/> where it was typed.</param>
public sealed record TrialResult(IReadOnlyList<Verdict> Verdicts, string? Problem, string? Text);

/// <summary>
/// Tries a draft on the stored events of an order, or on an event that somebody wrote: each condition with what it wanted and what was there. Nobody is told.
/// </summary>
public sealed class DraftTrial(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings)
{
    private const int MostEvents = 12;
    private static readonly JsonSerializerOptions Pretty = new() { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>On an order's events since an instant.</summary>
    public async Task<TrialResult> OfOrderAsync(Rule draft, string number, Instant since, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        string[] types = [.. draft.When];

        // Plan: the index on (order_number, seq).
        var events = await db
            .Events.AsNoTracking()
            .Where(e => e.OrderNumber == number && types.Contains(e.Type) && e.Received >= since)
            .OrderByDescending(e => e.Seq)
            .Take(MostEvents)
            .ToListAsync(cancel);
        events.Reverse();
        return events.Count == 0
            ? new TrialResult([], $"The order {number} has no event in the period that the draft listens to.", null)
            : new TrialResult(await JudgeAsync(draft, events, cancel), null, Write(events[^1]));
    }

    /// <summary>
    /// On a written event: a CloudEvent, or its <c>type</c> and <c>data</c>, or an order alone. A known order is taken as it is, with what the text changes.
    /// </summary>
    public async Task<TrialResult> OfTextAsync(Rule draft, string text, Instant now, CancellationToken cancel)
    {
        JsonObject? root;
        try
        {
            root =
                JsonNode.Parse(
                    text,
                    documentOptions: new JsonDocumentOptions
                    {
                        MaxDepth = 32,
                        AllowTrailingCommas = true,
                        CommentHandling = JsonCommentHandling.Skip,
                    }
                ) as JsonObject;
        }
        catch (JsonException e)
        {
            return new TrialResult([], $"This is not JSON: {JsonMistake.InWords(e)}.", null);
        }

        if (root is null)
        {
            return new TrialResult([], "An object is expected: { \"type\": \"order.held\", \"data\": { \"order\": { … } } }.", null);
        }

        string? Text(string name) => root[name] is JsonValue v && v.TryGetValue<string>(out var s) ? s : null;
        var type = Text("type") ?? draft.When[0];
        var data =
            root["data"] as JsonObject ?? (root["order"] is JsonObject || root["stock"] is JsonObject ? root : new JsonObject { ["order"] = root.DeepClone() });
        data = (JsonObject)data.DeepClone();
        var number =
            (data["order"]?["number"] as JsonValue)?.TryGetValue<string>(out var n) == true ? n
            : EventTypes.NeedsOrder(type) ? "TRY-1"
            : null;
        if (EventTypes.NeedsOrder(type) && data["order"] is JsonObject made)
        {
            made["number"] ??= number;
        }

        var (checkedEvent, problem) = IncomingEvent.Check(
            name =>
                name switch
                {
                    "specversion" => "1.0",
                    "id" => Text("id") ?? "tried",
                    "source" => Text("source") ?? "/tried",
                    "type" => type,
                    "subject" => EventTypes.NeedsOrder(type) ? number : Text("subject"),
                    "time" => Text("time"),
                    _ => null,
                },
            data
        );
        if (checkedEvent is null)
        {
            return new TrialResult([], problem, null);
        }

        if (!draft.When.Contains(type))
        {
            return new TrialResult([], $"The draft does not listen to '{type}': it listens to {string.Join(", ", draft.When)}.", null);
        }

        return new TrialResult(await JudgeAsync(draft, [await MergeAsync(checkedEvent, number, now, cancel)], cancel), null, null);
    }

    private async Task<OrderEvent> MergeAsync(IncomingEvent given, string? number, Instant now, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var known = number is null ? null : await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Number == number, cancel);
        return Imagined.Event(given, number, known, await surroundings.GetAsync(cancel), now);
    }

    private async Task<IReadOnlyList<Verdict>> JudgeAsync(Rule draft, IReadOnlyList<OrderEvent> events, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var rule = new CompiledRule(draft with { On = true }, 0);
        return
        [
            .. events.Select(happened =>
            {
                var facts = new Facts(happened, around.Business.Zone, around.Business.Currency);
                var decision = rule.Explain(facts);
                var who = decision.Case is not { Tell.IsEmpty: false } one
                    ? null
                    : new WhoIsTold(around.Staff, around.Business, facts).Resolve(
                        new TellQuestion(one.Tell, one.By, draft.Urgency, happened.Type, draft.Id, draft.MayOptOut, happened.Received)
                    );
                return new Verdict(happened, decision, who);
            }),
        ];
    }

    private static string Write(OrderEvent happened)
    {
        var data = (JsonObject)JsonNode.Parse(happened.Data)!;
        if (happened.OrderAfter is not null)
        {
            data["order"] = JsonNode.Parse(happened.OrderAfter);
        }

        return new JsonObject
        {
            ["type"] = happened.Type,
            ["time"] = InstantPattern.ExtendedIso.Format(happened.Time),
            ["data"] = data,
        }.ToJsonString(Pretty);
    }
}
