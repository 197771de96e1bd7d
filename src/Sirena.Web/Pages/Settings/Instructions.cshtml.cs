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
                // A kind that a source has got since the form was drawn stays as it is.
                .. Kinds.Select(k => form.ContainsKey($"{k.Name}.who") ? Given(form, k.Name) : Around.Business.RightOf(k)),
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

    private static InstructionRight Given(IFormCollection form, string kind) =>
        new()
        {
            Kind = kind,
            Roles = form[$"{kind}.who"].ToString() switch
            {
                "staff" => ["staff", "supervisor"],
                "teams" => [],
                _ => ["supervisor"],
            },
            Teams = [.. form[$"{kind}.teams"].OfType<string>()],
            SecondYes = form[$"{kind}.second"].Contains("true"),
        };
}
