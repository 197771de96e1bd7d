using Microsoft.EntityFrameworkCore;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Storage;

namespace Sirena.Web.Pages.Watch;

/// <summary>An alert with what its fuse is made of.</summary>
/// <param name="Alert">The alert.</param>
/// <param name="Case">The case of its rule's version, or <see langword="null"/> for one without a rule.</param>
/// <param name="Steps">Its steps.</param>
/// <param name="Deliveries">Its messages, oldest first.</param>
public sealed record BurningAlert(Alert Alert, RuleCase? Case, IReadOnlyList<AlertStep> Steps, IReadOnlyList<Delivery> Deliveries)
{
    /// <summary>Reads what belongs to alerts; steps and messages by the alerts' ids, cases from the shelf.</summary>
    public static async Task<IReadOnlyList<BurningAlert>> ReadAsync(SirenaDb db, RuleShelf shelf, IReadOnlyCollection<Alert> alerts, CancellationToken cancel)
    {
        Guid[] ids = [.. alerts.Select(a => a.Id)];
        var steps = (await db.AlertSteps.AsNoTracking().Where(s => ids.Contains(s.AlertId)).ToListAsync(cancel)).ToLookup(s => s.AlertId);
        var deliveries = (await db.Deliveries.AsNoTracking().Where(d => ids.Contains(d.AlertId)).OrderBy(d => d.CreatedAt).ToListAsync(cancel)).ToLookup(d =>
            d.AlertId
        );
        var read = new List<BurningAlert>(alerts.Count);
        foreach (var alert in alerts)
        {
            read.Add(new BurningAlert(alert, (await shelf.OfAsync(alert, cancel)).Case, [.. steps[alert.Id]], [.. deliveries[alert.Id]]));
        }

        return read;
    }
}
