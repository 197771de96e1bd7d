using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Engine.Orders;
using Sirena.Engine.People;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Wordings;

/// <summary>What is asked of a preview.</summary>
/// <param name="Parts">The texts.</param>
/// <param name="Audience">Who reads them.</param>
/// <param name="Language">In which language.</param>
/// <param name="Facts">The event and its order.</param>
/// <param name="Name">The wording's name, which stands for a rule's.</param>
/// <param name="Person">Who reads it, or <see langword="null"/>.</param>
public sealed record PreviewQuestion(WordingParts Parts, Audience Audience, string? Language, Facts Facts, string Name, Person? Person)
{
    /// <summary>What it looks like, where that is tried; <see langword="null"/> for as it is.</summary>
    public Branding? Branding { get; init; }
}

/// <summary>A preview: the finished message by each channel, the part that was used for it, and every field with its value.</summary>
public sealed record Preview(
    IReadOnlyDictionary<Channel, FinishedText> Messages,
    IReadOnlyDictionary<Channel, string> From,
    IReadOnlyList<(string Field, string? Value)> Fields
);

/// <summary>Previews, saves and sets back wordings.</summary>
public sealed partial class WordingDesk(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    RuleShelf shelf,
    WhoDesk who,
    FieldWatch fields,
    Signals signals,
    IClock clock
)
{
    /// <summary>The paths that events of the business's own were seen to carry.</summary>
    public async Task<IReadOnlySet<string>> SeenAsync(CancellationToken cancel) => (await fields.SeenAsync(cancel)).Keys.ToHashSet();

    /// <summary>The event on which a preview stands: the last of that type of an order, or of any type; else an imagined one on the order as it is.</summary>
    /// <param name="number">The order's number.</param>
    /// <param name="type">The event's type, or <see langword="null"/> for its last event.</param>
    /// <returns>The facts, or <see langword="null"/> when no event has told of the order.</returns>
    public async Task<Facts?> FactsAsync(string number, string? type, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        var last = await db
            .Events.AsNoTracking()
            .Where(e => e.OrderNumber == number && (type == null || e.Type == type))
            .OrderByDescending(e => e.Seq)
            .FirstOrDefaultAsync(cancel);
        if (last is not null)
        {
            return new Facts(last, around.Business.Zone, around.Business.Currency);
        }

        if (await who.OrderAsync(number, cancel) is not { } document)
        {
            return null;
        }

        return type == "order.shipped"
            ? WhoDesk.FactsOf(around, type, Shipped(document), clock.GetCurrentInstant(), number, before: document)
            : await FactsOfAsync(document, type, number, cancel);
    }

    /// <summary>The facts of an order that goes to a status: one that stands there, else another as if it did, else an empty one.</summary>
    public async Task<Facts> FactsOfStatusAsync(string status, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);

        // Plan: ix_orders_open_due.
        var open = db
            .Orders.AsNoTracking()
            .Where(o => o.Open)
            .OrderBy(o => o.DueAt)
            .Select(o => new
            {
                o.Number,
                o.Status,
                o.Document,
            });
        var found = await open.FirstOrDefaultAsync(o => o.Status == status, cancel) ?? await open.FirstOrDefaultAsync(cancel);
        var order = JsonNode.Parse(found?.Document ?? "{}")!.AsObject();
        order["status"] = status;
        return await FactsOfAsync(order.ToJsonString(), EventTypes.StatusChanged, found?.Number, cancel);
    }

    // The order once all that is left of it has gone: what an imagined shipment leads to.
    private static string Shipped(string document)
    {
        var order = JsonNode.Parse(document);
        foreach (var line in order?["lines"]?.AsArray().OfType<JsonObject>() ?? [])
        {
            line["shipped"] = line["quantity"]?.DeepClone();
        }

        return order?.ToJsonString() ?? document;
    }

    /// <summary>The facts of an imagined event on an order that was given as JSON.</summary>
    public async Task<Facts> FactsOfAsync(string order, string? type, string? number, CancellationToken cancel) =>
        WhoDesk.FactsOf(await surroundings.GetAsync(cancel), type ?? "order.placed", order, clock.GetCurrentInstant(), number);

    /// <summary>Writes every channel's message. Nobody is told.</summary>
    public async Task<Preview> PreviewAsync(PreviewQuestion question, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var composer = Composer(question, around);
        var (messages, from) = (new Dictionary<Channel, FinishedText>(), new Dictionary<Channel, string>());
        foreach (var channel in Enum.GetValues<Channel>())
        {
            if (question.Parts.Used(channel.Traits().Body) is { } used)
            {
                (messages[channel], from[channel]) = (composer.For(channel, question.Parts), used);
            }
        }

        var named = question.Parts.Fields.Select(path => (path, composer.Value(path))).ToList();
        return new Preview(messages, from, named);
    }

    // What most texts say, first in the finder.
    private static readonly string[] Usual =
    [
        "order.number",
        "order.customer.name",
        "order.dueAt",
        "order.dueAt.time",
        "order.total",
        "order.status",
        OwnField.All,
        "order.lines",
        "order.lines.table",
        "order.hold.reason",
        "order.risk.level",
        "answer.link",
        "answer.code",
    ];

    /// <summary>The values of fields in a preview, for the field finder: what most texts say first.</summary>
    public async Task<IReadOnlyList<(TextFieldInfo Field, string? Value)>> ValuesAsync(PreviewQuestion question, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var composer = Composer(question, around);
        var own = (await SeenAsync(cancel))
            .Where(p => FieldCatalogue.IsOrderExtra(p) || p.StartsWith("event.extra.", StringComparison.Ordinal))
            .Order(StringComparer.Ordinal)
            .Select(p => WordingFields.Find(p)!);
        static int Rank(string path) =>
            path.Split('.')[0] switch
            {
                "order" => 0,
                "answer" or "next" => 1,
                "alert" or "links" or "recipient" or "business" or "note" => 2,
                "event" or "change" => 4,
                _ => 3,
            };
        return
        [
            .. WordingFields
                .All.Concat(own)
                .OrderBy(f => Array.IndexOf(Usual, f.Path) is >= 0 and var place ? place : Usual.Length)
                .ThenBy(f => Rank(f.Path))
                .ThenBy(f => f.Path.EndsWith(".plain", StringComparison.Ordinal))
                .Where(f => question.Audience == Audience.Staff || !f.Internal)
                .Where(f => question.Audience != Audience.Customer || !WordingFields.IsOfHouse(f.Path))
                .Select(f => (Field: f, Value: composer.Value(f.Path)))
                .Where(f => f.Value is not ""),
        ];
    }

    private Composer Composer(PreviewQuestion question, Surroundings around) =>
        new(
            new MessageFacts(
                question.Facts,
                around.TextNames,
                clock.GetCurrentInstant(),
                around.Business.Name,
                around.Business.BaseAddress,
                question.Branding ?? around.Branding
            )
            {
                Audience = question.Audience,
                Language = TextLanguage.Of(question.Language),
                Reader = question.Person?.Name ?? "",
                ReaderId = question.Person?.Id,
                Rule = question.Name,
                Urgency = "prompt",
                Because = "this is a preview",
                Answer = question.Audience == Audience.Customer ? null : new AnswerWays($"{around.Business.BaseAddress}/a/preview", "2761"),
                Next =
                    question.Audience == Audience.Customer
                        ? null
                        : (question.Person?.Name ?? around.Business.Name, clock.GetCurrentInstant() + Duration.FromMinutes(15)),
                Delivery = Guid.Empty,
            }
        );
}
