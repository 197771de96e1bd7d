using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Engine.Intake;
using Sirena.Storage;

namespace Sirena.Engine.People;

/// <summary>Answers who would be told, for any order and any instant. Nobody is told.</summary>
public sealed class WhoDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings)
{
    /// <summary>The answer.</summary>
    /// <param name="question">What is asked.</param>
    /// <param name="order">The order as JSON, or <see langword="null"/> for none.</param>
    public async Task<Resolution> AskAsync(TellQuestion question, string? order, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        return new WhoIsTold(around.Staff, around.Business, FactsOf(around, question.Event, order ?? "{}", question.At)).Resolve(question);
    }

    /// <summary>The last known state of an order, as JSON; <see langword="null"/> when no event has told of it.</summary>
    public async Task<string?> OrderAsync(string number, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.Orders.AsNoTracking().Where(o => o.Number == number).Select(o => o.Document).FirstOrDefaultAsync(cancel);
    }

    /// <summary>The facts of an imagined event on an order, given as JSON, with its number and the order before where they are known.</summary>
    public static Facts FactsOf(Surroundings around, string type, string order, Instant at, string? number = null, string? before = null) =>
        new(
            new OrderEvent
            {
                EventId = "preview",
                Source = OwnEvents.Source,
                Type = type,
                Subject = number,
                OrderNumber = number,
                Time = at,
                Received = at,
                Data = $"{{\"order\":{order}}}",
                OrderBefore = before,
                OrderAfter = order,
            },
            around.Business.Zone,
            around.Business.Currency
        );
}
