using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Engine;
using Sirena.Engine.Notices;
using Sirena.Engine.Wordings;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>What every message looks like: logo, colour, header and footer, once for all wordings.</summary>
[Authorize(Policies.Change)]
public sealed partial class BrandingModel(SirenaDb db, WordingDesk desk, Signals signals) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => "branding";

    /// <summary>The most bytes of a logo as it is given: 1 MB.</summary>
    public const int MostLogo = 1 << 20;

    /// <summary>What is wrong.</summary>
    public string? Problem { get; private set; }

    /// <summary>What stands in the form: as it is, or as it was typed.</summary>
    public (string Colour, string Accent, string Header, string Footer) Typed { get; private set; }

    /// <summary>Shows it.</summary>
    public void OnGet() => Typed = (Around.Business.BrandColour, Around.Business.BrandAccent, Around.Business.BrandHeader, Around.Business.BrandFooter);

    /// <summary>A mail of the last order as what is typed would make it look, alone in a sandbox.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostLookAsync(string? colour, string? accent, string? header, string? footer, bool without, CancellationToken cancel)
    {
        string Right(string? typed, string now) => typed is not null && Hex().IsMatch(typed) ? typed : now;
        var business = Around.Business;
        var look = new Branding(
            Right(colour, business.BrandColour),
            Branding.Filled((header ?? "").Trim(), business.Name),
            Branding.Filled((footer ?? "").Trim(), business.Name),
            business.Logo is null || without ? null : "cid:logo"
        )
        {
            Accent = Right(accent, business.BrandAccent),
        };
        var facts = await db
            .Events.AsNoTracking()
            .Where(e => e.OrderNumber != null)
            .OrderByDescending(e => e.Id)
            .Select(e => e.OrderNumber)
            .FirstOrDefaultAsync(cancel)
            is { } order
            ? await desk.FactsAsync(order, null, cancel)
            : null;
        facts ??= await desk.FactsOfAsync("{}", "order.placed", null, cancel);
        var parts = Around.TextsFor(null, facts.Event.Type, Audience.Customer, "en");
        var shown = await desk.PreviewAsync(new PreviewQuestion(parts, Audience.Customer, "en", facts, "", null) { Branding = look }, cancel);
        return Sandboxed(shown.Messages[Channel.Mail].Html!);
    }

    /// <summary>The logo.</summary>
    public IActionResult OnGetLogo() => Around.Business.Logo is { } logo ? File(logo, "image/png") : NotFound();

    /// <summary>Saves it, all or nothing.</summary>
    public async Task<IActionResult> OnPostAsync(
        string? colour,
        string? accent,
        string? header,
        string? footer,
        IFormFile? logo,
        bool without,
        CancellationToken cancel
    )
    {
        byte[]? picture = null;
        accent ??= Around.Business.BrandAccent;
        Typed = (colour ?? Around.Business.BrandColour, accent, header ?? "", footer ?? "");
        if (new[] { colour ?? "", accent }.FirstOrDefault(c => !Hex().IsMatch(c)) is { } wrong)
        {
            Problem = $"'{wrong}' is no colour: write # and six digits, such as #12343B.";
        }
        else if ((header ?? "").Length > 80 || (footer ?? "").Length > 400)
        {
            Problem = "The header has 80 characters at most, the footer 400.";
        }
        else if ((Branding.Mistake(header ?? "") ?? Branding.Mistake(footer ?? "")) is { } field)
        {
            Problem = field;
        }
        else if (logo is { Length: > MostLogo })
        {
            Problem =
                $"The logo has {logo.Length / 1024.0 / 1024.0:0.0} MB; 1 MB is the most, since it goes with every mail. Save it smaller, 400 pixels "
                + "wide is plenty.";
        }
        else if (logo is { Length: > 0 })
        {
            using var stream = new MemoryStream();
            await logo.CopyToAsync(stream, cancel);
            (picture, Problem) = Pictures.Logo(stream.ToArray());
        }

        if (Problem is not null)
        {
            Response.StatusCode = 422;
            return Page();
        }

        var business = await db.Businesses.SingleAsync(cancel);
        business.BrandAccent = accent.ToUpperInvariant();
        (business.BrandColour, business.BrandHeader, business.BrandFooter) = (
            colour!.ToUpperInvariant(),
            (header ?? "").Trim(),
            (footer ?? "").Trim().ReplaceLineEndings("\n")
        );
        business.Logo = without ? null : picture ?? business.Logo;
        db.Audit.Add(
            new AuditEntry
            {
                At = Clock.Now,
                By = User.Name(),
                Thing = "branding",
                What = "Saved how messages look.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        Said = "Saved. In force from the next message on.";
        return RedirectToPage();
    }

    [GeneratedRegex(@"^#[0-9a-fA-F]{6}\z")]
    private static partial Regex Hex();
}
