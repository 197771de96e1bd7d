using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Engine.Instructions;
using Sirena.Web.Api;

namespace Sirena.Web.Pages.Orders;

public sealed partial class OrderModel
{
    private Asker Asker => InstructionsApi.AskerOf(User);

    private string Self => $"/orders/{Uri.EscapeDataString(Number)}";

    /// <summary>Asks the order system for something; what cannot be undone is asked for twice.</summary>
    public async Task<IActionResult> OnPostDoAsync(CancellationToken cancel)
    {
        if (!Writes)
        {
            return Forbid();
        }

        wished = await Request.ReadFormAsync(cancel);
        if (
            await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Number == Number, cancel) is not { } order
            || Around.TakingOf(order)?.Kinds.GetValueOrDefault(wished["kind"].ToString()) is not { } kind
        )
        {
            return await OnGetAsync(cancel);
        }

        if (kind.Final && wished["sure"] != "true")
        {
            sure = true;
            return await OnGetAsync(cancel);
        }

        var ended = await instructions.AskAsync(
            new InstructionWish(kind.Name, InstructionForm.Members(wished, kind), [], Asker)
            {
                Order = Number,
                Tell = InstructionForm.Tell(wished, Asker.Name),
            },
            cancel
        );
        if (ended.Status == 201)
        {
            Said = ended.Instruction!.Waits is null
                ? "Asked. It is done when the order itself shows it."
                : "It waits for a second person's yes; those who may give it are told.";
            return Redirect(Self + "#done");
        }

        (wishProblem, Response.StatusCode) = (ended.Words, ended.Status);
        return await OnGetAsync(cancel);
    }

    /// <summary>What it would set off as it stands in the form.</summary>
    public async Task<IActionResult> OnPostWeighAsync(CancellationToken cancel)
    {
        if (!Writes)
        {
            return Forbid();
        }

        wished = await Request.ReadFormAsync(cancel);
        return await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Number == Number, cancel) is { } order
            ? Partial("_Do", await DoSheet.ReadAsync(db, consequences, order, Around, Clock, Asker, wished, Self, null, cancel))
            : NotFound();
    }

    /// <summary>Says yes to one that waits.</summary>
    public async Task<IActionResult> OnPostYesAsync(Guid id, CancellationToken cancel) => await SettleAsync(id, stop: false, cancel);

    /// <summary>Stops one that waits.</summary>
    public async Task<IActionResult> OnPostStopAsync(Guid id, CancellationToken cancel) => await SettleAsync(id, stop: true, cancel);

    private async Task<IActionResult> SettleAsync(Guid id, bool stop, CancellationToken cancel)
    {
        if (!Writes)
        {
            return Forbid();
        }

        var ended = await instructions.SettleAsync(id, stop, Asker, cancel);
        if (ended.Status == 200)
        {
            Said = InstructionForm.Settled(ended, stop);
            return Redirect(Self + "#done");
        }

        (SaidHere, Response.StatusCode) = (ended.Problem, ended.Status);
        return await OnGetAsync(cancel);
    }
}
