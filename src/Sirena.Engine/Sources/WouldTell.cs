using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Engine.Decide;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Storage;

namespace Sirena.Engine.Sources;

/// <summary>Somebody who would be told.</summary>
/// <param name="Order">Of which order, or thing.</param>
/// <param name="Rule">By which rule.</param>
/// <param name="Person">The person's id, or the address outside.</param>
/// <param name="Channel">By which channel.</param>
public sealed record WouldBeTold(string? Order, string Rule, string Person, Channel Channel);

/// <summary>Whom events would tell by the rules in force, at this moment. Nothing is stored and nobody is told.</summary>
public sealed class WouldTell(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, RuleShelf shelf, IClock clock)
{
    /// <summary>How many events are looked at.</summary>
    public const int Most = 2_000;

    /// <summary>Whom each event would tell.</summary>
    /// <param name="events">The events, with the prefix of their source's order numbers.</param>
    /// <param name="prefix">The prefix.</param>
    /// <param name="cancel">Breaks it off.</param>
    public async Task<IReadOnlyList<WouldBeTold>> OfAsync(IReadOnlyList<IncomingEvent> events, string prefix, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var book = await shelf.CurrentAsync(cancel);
        var now = clock.GetCurrentInstant();
        string[] numbers = [.. events.Take(Most).Select(e => e.OrderNumber).OfType<string>().Select(n => prefix + n).Distinct()];
        await using var db = await factory.CreateDbContextAsync(cancel);
        var orders = await db.Orders.AsNoTracking().Where(o => numbers.Contains(o.Number)).ToDictionaryAsync(o => o.Number, cancel);
        var told = new List<WouldBeTold>();
        foreach (var one in events.Take(Most))
        {
            var number = one.OrderNumber is { } n ? prefix + n : null;
            var happened = Imagined.Event(one, number, number is null ? null : orders.GetValueOrDefault(number), around, now);
            var raised = new EventDecision(around, now).Decide(happened, book, _ => null);
            told.AddRange(
                raised
                    .Deliveries.Where(d => d.State != DeliveryState.Skipped)
                    .Select(d => new WouldBeTold(happened.Subject, d.RuleId, d.Person ?? d.To, d.Channel))
            );
        }

        return [.. told.Distinct()];
    }
}
