using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Rules;

namespace Sirena.Storage.Rules;

/// <summary>What the editor keeps and asks of rules.</summary>
public static class RuleQueries
{
    /// <summary>Keeps a draft in place of the one that its writer had of that rule.</summary>
    public static Task KeepAsync(this SirenaDb db, KeptDraft draft, CancellationToken cancel) =>
        db.Database.ExecuteSqlAsync(
            $"""
            insert into kept_drafts (rule_id, by, form, base_version, at)
                values ({draft.RuleId}, {draft.By}, {draft.Form}::json, {draft.BaseVersion}, {draft.At})
                on conflict (rule_id, by) do update set form = excluded.form, at = excluded.at
            """,
            cancel
        );

    /// <summary>The first event that came under a version within a day of it, or <see langword="null"/>.</summary>
    public static async Task<OrderEvent?> FirstUnderAsync(this SirenaDb db, RuleVersion version, CancellationToken cancel)
    {
        // Plan: the block range index over a day at most; 'offset 0' keeps the planner from walking the primary key.
        var (from, to) = (version.SavedAt - Duration.FromMinutes(1), version.SavedAt + Duration.FromDays(1));
        var first = await db
            .Database.SqlQuery<long?>(
                $"""
                select min(id) as "Value" from (select id from events where received >= {from} and received < {to} and book >= {version.BookFrom} offset 0) e
                """
            )
            .SingleAsync(cancel);
        return first is null ? null : await db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.Id == first, cancel);
    }
}
