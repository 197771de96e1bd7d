using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Mine;

/// <summary>Why somebody was told: the rule as a sentence, and what made its reader one of those. For the reader, and for whoever sees all.</summary>
public sealed class WhyModel(SirenaDb db, RuleShelf shelf) : SirenaPage
{
    /// <summary>The delivery.</summary>
    public Delivery? Delivery { get; private set; }

    /// <summary>Its alert.</summary>
    public Alert? Alert { get; private set; }

    /// <summary>The rule's sentence as it was then; <see langword="null"/> for a note or a notice.</summary>
    public string? Sentence { get; private set; }

    /// <summary>What made the reader one of those who are told.</summary>
    public string? Because { get; private set; }

    /// <inheritdoc/>
    protected override Core.Wordings.TextLanguage PageLanguage => OfReader;

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(Guid id, CancellationToken cancel)
    {
        Delivery = await db.Deliveries.AsNoTracking().FirstOrDefaultAsync(d => d.Id == id, cancel);
        if (Delivery is null || (!User.SeesAll() && Delivery.Person != User.FindFirst("person")?.Value))
        {
            Delivery = null;
            Response.StatusCode = 404;
            return Page();
        }

        Alert = await db.Alerts.AsNoTracking().FirstAsync(a => a.Id == Delivery.AlertId, cancel);
        Sentence = (await shelf.RuleAsync(Alert.RuleId, Alert.Version, cancel))?.Rule is { } rule ? Around.Sentences.Of(rule) : null;
        var step = await db.AlertSteps.AsNoTracking().FirstOrDefaultAsync(s => s.AlertId == Alert.Id && s.Index == Delivery.Step, cancel);
        Because = Delivery.Person is { } person ? step?.BecauseOf(person) : null;
        return Page();
    }
}
