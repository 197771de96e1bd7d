using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Sirena.Core.Instructions;
using Sirena.Engine.Instructions;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>Who may ask the order systems for what, and what needs a second person's yes.</summary>
[Authorize(Policies.Change)]
public sealed class InstructionsModel(RightsDesk desk) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => RightsDesk.Thing;

    /// <summary>The kinds: those that Sirena knows, then those of the business's own.</summary>
    public IEnumerable<InstructionKind> Kinds => Around.Kinds;

    /// <summary>What is wrong.</summary>
    public string? Problem { get; private set; }

    /// <summary>Shows it.</summary>
    public void OnGet() { }

    /// <summary>Saves all of it.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var form = await Request.ReadFormAsync(cancel);
        Problem = await desk.SaveAsync(
            [
                .. Kinds.Select(k => new InstructionRight
                {
                    Kind = k.Name,
                    Roles = form[$"{k.Name}.who"].ToString() switch
                    {
                        "staff" => ["staff", "supervisor"],
                        "teams" => [],
                        _ => ["supervisor"],
                    },
                    Teams = [.. form[$"{k.Name}.teams"].OfType<string>()],
                    SecondYes = form[$"{k.Name}.second"].Contains("true"),
                }),
            ],
            User.Name(),
            cancel
        );
        if (Problem is null)
        {
            Said = "Saved, in force at once.";
            return RedirectToPage();
        }

        Response.StatusCode = 422;
        return Page();
    }
}
