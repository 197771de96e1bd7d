using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Ladders;
using Sirena.Web.Pages.Answers;
using Sirena.Web.Pages.Orders;

namespace Sirena.Web.Pages.Mine;

public sealed partial class IndexModel
{
    /// <summary>Asks the order system for what an alert's rule offers.</summary>
    public async Task<IActionResult> OnPostDoAsync(Guid alert, string kind, CancellationToken cancel)
    {
        if (
            Person is not { } me
            || await db.Alerts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == alert, cancel) is not { } found
            || !await db.Deliveries.AnyAsync(d => d.AlertId == alert && d.Person == me, cancel)
        )
        {
            return Forbid();
        }

        var ended = await OfferSheet.AskAsync(
            instructions,
            desk,
            shelf,
            Around,
            found,
            kind,
            await Request.ReadFormAsync(cancel),
            Api.InstructionsApi.AskerOf(User),
            "screen",
            null,
            cancel
        );
        Said = ended.Status == 201 ? L["Asked. It is done when the order itself shows it."] : L.Language.Say(ended.Words ?? "");
        return Redirect("/mine");
    }

    /// <summary>Says yes to an instruction that waits for it, or stops it.</summary>
    public async Task<IActionResult> OnPostYesAsync(Guid id, Guid alert, bool stop, CancellationToken cancel)
    {
        if (Person is not { } me)
        {
            return Forbid();
        }

        var ended = await instructions.SettleAsync(id, stop, Api.InstructionsApi.AskerOf(User), cancel);
        Said = InstructionForm.Settled(ended, stop);
        if (ended.Status == 200)
        {
            await desk.AnswerAsync(alert, me, AnswerKind.Done, "screen", null, null, null, cancel);
        }

        return Redirect("/mine");
    }
}
