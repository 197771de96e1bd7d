using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Sirena.Engine.Dispatch;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Proof;

/// <summary>Sends a delivery again.</summary>
[Authorize(Policies.Change)]
public sealed class AgainModel(SecondSending again) : SirenaPage
{
    /// <summary>Opening the address changes nothing.</summary>
    public IActionResult OnGet(Guid id) => Redirect("/proof/" + id);

    /// <summary>Sends it.</summary>
    public async Task<IActionResult> OnPostAsync(Guid id, string? person, CancellationToken cancel)
    {
        Said = !string.IsNullOrEmpty(person)
            ? await again.SendToAsync(id, person, User.Name(), cancel)
            : (await again.SendAsync(id, User.Name(), cancel))?.Said ?? "There is no such delivery.";
        return Redirect("/proof/" + id);
    }
}
