using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Rules;
using Sirena.Storage;
using Sirena.Storage.Orders;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages;

/// <summary>Finds an order, a person or a rule by a part of its name; one that is certain is opened at once.</summary>
public sealed class JumpModel(SirenaDb db) : SirenaPage
{
    /// <summary>What was looked for.</summary>
    public string To { get; private set; } = "";

    /// <summary>What was found.</summary>
    public List<(string Kind, string Name, string Href, string More)> Found { get; } = [];

    /// <summary>Looks.</summary>
    public async Task<IActionResult> OnGetAsync(string? to, CancellationToken cancel)
    {
        To = to?.Trim() ?? "";
        if (To.Length is 0 or > 100)
        {
            return Redirect("/orders");
        }

        var upper = To.ToUpperInvariant();
        if (await db.Orders.AnyAsync(o => o.Number == To || o.Number == upper, cancel))
        {
            return Redirect("/orders/" + Uri.EscapeDataString(await db.Orders.AnyAsync(o => o.Number == To, cancel) ? To : upper));
        }

        var folded = TextFolding.Fold(To);
        var orders = await db.Orders.AsNoTracking().Finding(To).OrderByDescending(o => o.ChangedAt).Take(15).ToListAsync(cancel);
        Found.AddRange(orders.Select(o => ("order", o.Number, "/orders/" + Uri.EscapeDataString(o.Number), $"{o.Customer} {Around.OwnValuesOf(o)}".Trim())));
        if (User.SeesAll())
        {
            Found.AddRange(
                Around
                    .Staff.People.Where(p => TextFolding.Fold(p.Name).Contains(folded, StringComparison.Ordinal))
                    .Select(p => ("person", p.Name, "/people/" + p.Id, p.Post ?? ""))
            );
            var rules = await db.RuleVersions.AsNoTracking().Where(v => v.BookTo == null).Select(v => new { v.RuleId, v.Name }).ToListAsync(cancel);
            Found.AddRange(
                rules.Where(r => TextFolding.Fold(r.Name).Contains(folded, StringComparison.Ordinal)).Select(r => ("rule", r.Name, "/rules/" + r.RuleId, ""))
            );
        }

        return Found.Count == 1 ? Redirect(Found[0].Href) : Page();
    }
}
