using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Engine;
using Sirena.Engine.Decide;
using Sirena.Engine.Instructions;
using Sirena.Engine.Ladders;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Pages.Orders;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Answers;

/// <summary>What an alert's rule offers to do to its order, and what was asked from it: on the page behind a link and on <em>My alerts</em>.</summary>
/// <param name="Alert">The alert.</param>
/// <param name="Sheet">What can be asked for; <see langword="null"/> for nothing.</param>
/// <param name="Asked">What was asked from this alert, the newest first.</param>
/// <param name="Waits">The instruction that waits for the reader's yes, or <see langword="null"/>.</param>
/// <param name="Trial">The rule only tries: a touch asks nothing.</param>
/// <param name="Self">Where the forms are posted to.</param>
/// <param name="Around">Names.</param>
/// <param name="Clock">The moment.</param>
public sealed record OfferSheet(
    Alert Alert,
    DoSheet? Sheet,
    IReadOnlyList<Instruction> Asked,
    Instruction? Waits,
    bool Trial,
    string Self,
    Surroundings Around,
    DeskTime Clock
)
{
    /// <summary>Something is on its way: the page looks again by itself.</summary>
    public bool UnderWay => Asked.Any(i => i.UnderWay && i.Waits is null);

    /// <summary>Reads it; <see langword="null"/> where there is nothing to show.</summary>
    public static async Task<OfferSheet?> ReadAsync(
        SirenaDb db,
        RuleShelf shelf,
        Consequences consequences,
        Alert alert,
        Surroundings around,
        DeskTime clock,
        Asker asker,
        string self,
        CancellationToken cancel
    )
    {
        if (alert.RuleId == OwnRules.Instruction)
        {
            return await WaitsAsync(db, alert, around, clock, self, cancel);
        }

        var (rule, one) = await shelf.OfAsync(alert, cancel);
        if (
            one is null or { Offer.IsEmpty: true }
            || rule is null
            || alert.OrderNumber is not { } number
            || await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Number == number, cancel) is not { } order
        )
        {
            return null;
        }

        var sheet = alert.Ended || rule.Trial ? null : await DoSheet.ReadAsync(db, consequences, order, around, clock, asker, null, self, one.Offer, cancel);
        var asked = await db
            .Instructions.AsNoTracking()
            .Where(i => i.AlertId == alert.Id && !i.Trial)
            .OrderByDescending(i => i.Seq)
            .Take(4)
            .ToListAsync(cancel);
        return new OfferSheet(alert, sheet, asked, null, rule.Trial, self, around, clock);
    }

    /// <summary>Asks for what the rule offers. Whoever does so has the alert.</summary>
    public static async Task<WishEnd> AskAsync(
        InstructionDesk instructions,
        AnswerDesk desk,
        RuleShelf shelf,
        Surroundings around,
        Alert alert,
        string kind,
        IFormCollection form,
        Asker asker,
        string via,
        Guid? delivery,
        CancellationToken cancel
    )
    {
        var (rule, one) = await shelf.OfAsync(alert, cancel);
        if (alert.Ended)
        {
            return new WishEnd(
                null,
                409,
                alert.State == AlertState.Withdrawn ? "The alert was withdrawn meanwhile: the order has moved on." : "The alert is done already.",
                []
            );
        }

        if (rule is null or { Trial: true } || one?.Offer.FirstOrDefault(o => o.Kind == kind) is not { } offer || around.Kind(kind) is not { } known)
        {
            return new WishEnd(null, 403, "This is not offered.", []);
        }

        if (alert is { State: AlertState.Taken, TakenBy: { } holder } && holder != asker.Person)
        {
            return new WishEnd(
                null,
                409,
                $"{around.NameOf(holder)} has it since "
                    + $"{alert.TakenAt!.Value.InZone(around.Business.Zone).ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture)}.",
                []
            );
        }

        // What the rule gives stays; the reader adds what is missing.
        var with = offer.Members;
        foreach (var (name, value) in InstructionForm.With(form, known))
        {
            with[name] ??= value?.DeepClone();
        }

        var ended = await instructions.AskAsync(
            new InstructionWish(kind, InstructionForm.Node(with), [], asker)
            {
                Order = alert.OrderNumber,
                Alert = alert.Id,
                Offered = true,
                Because = $"from the alert of '{rule.Name}'",
            },
            cancel
        );
        if (ended.Status == 201 && alert.State != AlertState.Taken && asker.Person is { } person)
        {
            await desk.AnswerAsync(alert.Id, person, AnswerKind.Taken, via, null, null, delivery, cancel);
        }

        return ended;
    }

    /// <summary>A person of the staff as they ask: with the role of their user, or as staff.</summary>
    public static async Task<Asker> AskerAsync(SirenaDb db, Surroundings around, string person, CancellationToken cancel) =>
        new(
            person,
            around.NameOf(person),
            (
                await db.Users.AsNoTracking().Where(u => u.Person == person && u.RemovedAt == null).Select(u => (Role?)u.Role).FirstOrDefaultAsync(cancel)
                ?? Role.Staff
            ).Name()
        );

    private static async Task<OfferSheet?> WaitsAsync(SirenaDb db, Alert alert, Surroundings around, DeskTime clock, string self, CancellationToken cancel)
    {
        var happened = await db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.Id == alert.EventId, cancel);
        var id =
            happened is not null && Guid.TryParse(Core.Orders.Fields.Facts.Text(happened.DataJson, "instruction", "id"), out var parsed) ? parsed : Guid.Empty;
        return await db.Instructions.AsNoTracking().FirstOrDefaultAsync(i => i.Id == id, cancel) is not { } one
            ? null
            : new OfferSheet(
                alert,
                null,
                one.Waits is null ? [one] : [],
                one.Waits is InstructionWait.SecondYes or InstructionWait.Limit ? one : null,
                false,
                self,
                around,
                clock
            );
    }
}
