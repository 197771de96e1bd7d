using Microsoft.AspNetCore.Mvc;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Sources;

public sealed partial class IndexModel
{
    /// <summary>Makes a key beside the ones there are, or in their place.</summary>
    public async Task<IActionResult> OnPostKeyAsync(bool instead, CancellationToken cancel) =>
        await MadeAsync(() => desk.MakeKeyAsync(Id ?? "", instead, User.Name(), cancel), cancel);

    /// <summary>Makes a new secret.</summary>
    public async Task<IActionResult> OnPostSecretAsync(CancellationToken cancel) =>
        await MadeAsync(() => desk.NewSecretAsync(Id ?? "", User.Name(), cancel), cancel);

    /// <summary>Revokes a key.</summary>
    public async Task<IActionResult> OnPostRevokeAsync(Guid key, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.RevokeKeyAsync(key, User.Name(), cancel) ? "The key works no longer." : "That key worked no longer already.";
        return Redirect("/sources?id=" + Uri.EscapeDataString(Id ?? ""));
    }

    /// <summary>Takes a source away.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.RemoveAsync(Id ?? "", User.Name(), cancel) ? "The source is gone. What came from it stays." : "There is no such source any more.";
        return Redirect("/sources");
    }

    /// <summary>Reads anew what was not understood.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostTakeAgainAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var (understood, not) = await reader.AgainAsync(Id ?? "", null, ArrivalState.NotUnderstood, cancel);
        Said =
            understood + not == 0
                ? "There was nothing to take again."
                : $"{understood} {(understood == 1 ? "body is" : "bodies are")} understood now; "
                    + $"{(not == 0 ? "none is left" : $"{not} still {(not == 1 ? "is" : "are")} not")}. What was told because of it is marked late.";
        return Redirect("/sources?id=" + Uri.EscapeDataString(Id ?? ""));
    }
}
