using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Storage;

namespace Sirena.Engine.Instructions;

/// <summary>What a rule asks of the order system because of an event.</summary>
/// <param name="Rule">The rule.</param>
/// <param name="Version">Its version.</param>
/// <param name="Ask">What it asks.</param>
/// <param name="Alert">The alert from which it asks, or <see langword="null"/>.</param>
/// <param name="Paused">A pause holds it.</param>
/// <param name="Moment">When in the rule: <c>at once</c>, <c>step 2</c>, <c>when taken</c>.</param>
public sealed record RuleAsk(Rule Rule, int Version, InstructionAsk Ask, Guid? Alert, bool Paused, string Moment);

/// <summary>
/// Makes the instructions that rules ask for, within the limits: not twice while one is under way, not what another rule asks against, not in a circle, not
/// more often than the rule allows.
/// </summary>
public static class RuleAsks
{
    private static readonly Duration ChainSpan = Duration.FromHours(1);

    /// <summary>Adds the instructions to the transaction in hand.</summary>
    /// <param name="db">The database, within a transaction.</param>
    /// <param name="asks">What is asked, the most urgent rule's first.</param>
    /// <param name="happened">The event because of which it is asked.</param>
    /// <param name="around">Sources, names, statuses.</param>
    /// <param name="now">The moment.</param>
    /// <returns>Whether there is anything to go.</returns>
    public static async Task<bool> AddAsync(
        SirenaDb db,
        IReadOnlyList<RuleAsk> asks,
        OrderEvent happened,
        Surroundings around,
        Instant now,
        CancellationToken cancel
    )
    {
        if (asks.Count == 0)
        {
            return false;
        }

        var order = happened.OrderNumber is { } number
            ? db.Orders.Local.FirstOrDefault(o => o.Number == number) ?? await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Number == number, cancel)
            : null;
        var facts = new Facts(happened, around.Business.Zone, around.Business.Currency);
        var sight = new InstructionSight(
            order is null ? facts : new Facts(Now(happened, order), around.Business.Zone, around.Business.Currency),
            around.Statuses
        );
        var depth = await DepthAsync(db, happened, now, cancel);
        var (made, going) = (new List<(RuleAsk Ask, JsonObject With)>(), false);
        foreach (var ask in asks)
        {
            var filled = Fill(ask.Ask, facts, around, now);
            foreach (var (taking, lane) in Where(ask.Ask.Kind, order, around))
            {
                var seq = await InstructionDesk.LockAsync(db, lane, cancel);
                var underWay = await UnderWayAsync(db, lane, cancel);
                var kind = taking.Kinds.GetValueOrDefault(ask.Ask.Kind);
                if (
                    kind is not null
                    && (
                        underWay.Exists(i => i.Same(kind, filled.Members))
                        || (underWay.Count == 0 && !kind.OfSource && kind.WhyNot(sight, filled.Members) is not null)
                    )
                )
                {
                    // It is being asked for, or the order shows it: nothing is to be done.
                    continue;
                }

                var against = made.Find(m => InstructionKinds.Opposite((m.Ask.Ask.Kind, m.With), (filled.Kind, filled.Members)));
                var dropped =
                    kind is null ? $"the source '{taking.Source.Id}' does not take '{ask.Ask.Kind}'"
                    : ask.Rule.Trial ? "only tried: nothing was asked of the order system"
                    : against.Ask is not null ? $"the rule '{against.Ask.Rule.Name}' asks for the opposite, and is more urgent or comes first"
                    : depth > Instruction.LongestChain
                        ? $"stopped: it would be the {depth}th instruction by rules in a row for this order within an hour. Two rules may set each other off"
                    : null;
                var limited = dropped is null && ask.Rule.DoAtMost is { } most && await OverAsync(db, ask.Rule, most, now, cancel);
                var instruction = InstructionDesk.Add(
                    db,
                    new InstructionDraft(taking, lane, filled, now, ask.Moment)
                    {
                        Order = order?.Number,
                        OrderSeq = order?.Seq ?? 0,
                        By = $"rule {ask.Rule.Name}",
                        Rule = ask.Rule.Id,
                        Version = ask.Version,
                        Alert = ask.Alert,
                        Event = happened.Id,
                        Depth = depth,
                        Urgency = ask.Rule.Urgency,
                        Trial = ask.Rule.Trial,
                        Dropped = dropped,
                        Waits =
                            ask.Paused ? InstructionWait.Pause
                            : limited ? InstructionWait.Limit
                            : null,
                    },
                    seq
                );
                going |= instruction.State == InstructionState.Asked;
                if (dropped is null)
                {
                    made.Add((ask, filled.Members));
                }
            }
        }

        return going;
    }

    /// <summary>What is asked for with its fields filled in.</summary>
    public static InstructionAsk Fill(InstructionAsk ask, Facts facts, Surroundings around, Instant now)
    {
        if (!ask.With.Contains("{{", StringComparison.Ordinal))
        {
            return ask;
        }

        var values = new OrderValues(facts, TextLanguage.En, Audience.Staff, around.TextNames, now, html: false);
        JsonNode? Filled(JsonNode? node) =>
            node switch
            {
                JsonValue value
                    when value.TryGetValue<string>(out var text)
                        && text.Contains("{{", StringComparison.Ordinal)
                        && ParsedText.Of(text) is { Mistakes.Count: 0 } parsed => MessageWriter.Write(parsed, values.Root, ValueForm.Line).Trim(),
                JsonArray list => new JsonArray([.. list.Select(Filled)]),
                _ => node?.DeepClone(),
            };
        return ask with { With = new JsonObject(ask.Members.Select(m => KeyValuePair.Create(m.Key, Filled(m.Value)))).ToJsonString() };
    }

    // An instruction of an order goes to its source; one for a source to each that takes it.
    private static IEnumerable<(TakingSource Taking, string Lane)> Where(string kind, Order? order, Surroundings around) =>
        InstructionKinds.Find(kind) is { OfSource: true }
            ? around.Taking.Values.Where(t => t.Kinds.ContainsKey(kind)).Select(t => (t, InstructionDesk.LaneOfSource(t.Source.Id)))
        : order is not null && around.TakingOf(order) is { } taking ? [(taking, InstructionDesk.LaneOf(order.Number))]
        : [];

    // The event with the order as it is now: a step fires long after it.
    private static OrderEvent Now(OrderEvent happened, Order order) =>
        order.Document == happened.OrderAfter
            ? happened
            : new OrderEvent
            {
                Id = happened.Id,
                EventId = happened.EventId,
                Source = happened.Source,
                Type = happened.Type,
                OrderNumber = order.Number,
                Time = happened.Time,
                Received = happened.Received,
                Data = happened.Data,
                OrderAfter = order.Document,
            };

    // What this transaction has added and not stored counts too.
    private static async Task<List<Instruction>> UnderWayAsync(SirenaDb db, string lane, CancellationToken cancel)
    {
        var stored = await InstructionDesk.UnderWayAsync(db, [lane], cancel);
        return [.. stored.Where(s => db.Instructions.Local.All(l => l.Id != s.Id)), .. db.Instructions.Local.Where(i => i.Lane == lane && i.UnderWay)];
    }

    private static async Task<int> DepthAsync(SirenaDb db, OrderEvent happened, Instant now, CancellationToken cancel)
    {
        if (happened.CausedBy is not { } cause)
        {
            return 1;
        }

        var before = db.Instructions.Local.FirstOrDefault(i => i.Id == cause)
            ?? await db.Instructions.AsNoTracking().FirstOrDefaultAsync(i => i.Id == cause, cancel);
        return before is null || before.AskedAt < now - ChainSpan ? 1 : before.Depth + 1;
    }

    // Counted over all nodes: whoever asks for the rule waits for whoever does so at the same time.
    private static async Task<bool> OverAsync(SirenaDb db, Rule rule, DoLimit most, Instant now, CancellationToken cancel)
    {
        await InstructionDesk.LockAsync(db, "rule " + rule.Id, cancel);
        var since = now - most.Within;
        var asked = await db.Instructions.CountAsync(
            i => i.RuleId == rule.Id && i.AskedAt > since && !i.Trial && i.State != InstructionState.Dropped && i.Waits == null,
            cancel
        );
        return asked
                + db.ChangeTracker.Entries<Instruction>()
                    .Count(e =>
                        e.State == EntityState.Added
                        && e.Entity.RuleId == rule.Id
                        && e.Entity is { Trial: false, State: not InstructionState.Dropped, Waits: null }
                    )
            >= most.Times;
    }
}
