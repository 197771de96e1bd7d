using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Engine.Decide;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Storage;

namespace Sirena.Engine.Instructions;

/// <summary>What an instruction would set off, if the order system did it now.</summary>
/// <param name="Undone">It can be undone.</param>
/// <param name="Told">Who would be told: by their names, with the rule.</param>
/// <param name="Asks">What rules would ask the order system in turn, as clauses, with the rule.</param>
/// <param name="Left">How many would be left out by the choice of whom to tell.</param>
/// <param name="Ends">The rules whose alerts would end.</param>
/// <param name="Warning">What speaks against it, or <see langword="null"/>.</param>
public sealed record Consequence(
    bool Undone,
    IReadOnlyList<(string Rule, string Who)> Told,
    IReadOnlyList<(string Rule, string Clause)> Asks,
    int Left,
    IReadOnlyList<string> Ends,
    string? Warning
)
{
    /// <summary>In one sentence.</summary>
    public string Sentence => In(TextLanguage.En);

    /// <summary>In one sentence of a language.</summary>
    public string In(TextLanguage language)
    {
        var parts = Told.GroupBy(t => t.Rule, t => language.Say(t.Who))
            .Select(g => $"'{g.Key}' tells {string.Join(", ", g.Distinct().Take(4))}{(g.Distinct().Count() is > 4 and var n ? $" and {n - 4} more" : "")}")
            .Concat(Asks.GroupBy(a => a.Rule, a => language.Say(a.Clause)).Select(g => $"'{g.Key}' would {string.Join(", ", g)}"))
            .Concat(Ends.Select(e => $"the alert of '{e}' ends"))
            .Select(language.Say)
            .ToArray();
        return parts.Length == 0
            ? language.Say(Left > 0 ? "Nobody is told." : "No rule is set off, nobody is told.")
            : $"{Core.Sentences.Capital(string.Join("; ", parts))}.{(Left > 0 ? " " + language.Say($"{Left} left out.") : "")}";
    }
}

/// <summary>Works out what instructions would set off: the event that would show them is decided on the order as it is, and nothing is kept.</summary>
public sealed class Consequences(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, RuleShelf shelf, IClock clock)
{
    /// <summary>Works it out for several at once, all for one order.</summary>
    /// <param name="order">The order.</param>
    /// <param name="asks">Each instruction, and whom its event is to tell.</param>
    /// <param name="by">Who would ask.</param>
    /// <param name="cancel">Breaks it off.</param>
    public async Task<IReadOnlyList<Consequence>> OfAsync(
        Order order,
        IReadOnlyList<(InstructionKind Kind, JsonObject With, TellChoice? Tell)> asks,
        string by,
        CancellationToken cancel
    )
    {
        var around = await surroundings.GetAsync(cancel);
        var book = await shelf.CurrentAsync(cancel);
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var sight = InstructionDesk.Sight(order, around);
        var open = await db
            .Alerts.AsNoTracking()
            .Where(a => a.Subject == order.Number && (a.State == AlertState.Open || a.State == AlertState.Taken))
            .ToListAsync(cancel);
        var ends = new List<(Alert Alert, string[] At)>();
        foreach (var alert in open)
        {
            ends.Add((alert, (await shelf.OfAsync(alert, cancel)).Rule is { } rule ? [.. rule.WithdrawAt] : []));
        }

        var found = new List<Consequence>(asks.Count);
        foreach (var (kind, with, tell) in asks)
        {
            var (type, change, beside) = kind.Imagine(sight, with);
            change["number"] = order.Number;
            beside["order"] = change;
            var happened = Imagined.Event(new IncomingEvent("imagined", "/imagined", type, order.Number, now, beside), order.Number, order, around, now);
            happened.Tell = tell is { All: false } ? tell : null;
            var raised = new EventDecision(around, now).Decide(happened, book, rule => open.Find(a => a.RuleId == rule));
            var to = Core.Orders.Fields.Facts.Text(happened.After, "status");
            found.Add(
                new Consequence(
                    !kind.Final,
                    [
                        .. raised
                            .Deliveries.Where(d => d.State != DeliveryState.Skipped || d.CarriedBy is not null)
                            .Select(d =>
                                (
                                    around.RuleName(d.RuleId),
                                    d.Audience == Audience.Customer ? "the customer"
                                    : d.Person is { } person ? around.NameOf(person)
                                    : d.To
                                )
                            )
                            .Distinct(),
                    ],
                    [.. raised.Asks.Where(a => !a.Rule.Trial).Select(a => (a.Rule.Name, InstructionDesk.Clause(a.Ask.Kind, a.Ask.Members, around))).Distinct()],
                    raised.Steps.Sum(s => s.Left.Count(l => l.Because.StartsWith(TellChoice.NotToBeTold, StringComparison.Ordinal))),
                    [.. ends.Where(e => to is not null && to != order.Status && e.At.Contains(to)).Select(e => around.RuleName(e.Alert.RuleId)).Distinct()],
                    around.Status(order.Status) is { } here && around.Status(to) is { } there ? here.WhyNot(there) : null
                )
            );
        }

        return found;
    }
}
