using Microsoft.EntityFrameworkCore;

namespace Sirena.Storage.Access;

/// <summary>What is asked about those who can sign in.</summary>
public static class UserQueries
{
    /// <summary>
    /// Whether a supervisor other than somebody can sign in: invited is not enough. Nobody's role or place changes until the transaction ends, so that of two
    /// who take it from each other the second is told.
    /// </summary>
    /// <param name="db">The database, in a transaction.</param>
    /// <param name="but">The user who is left out.</param>
    public static async Task<bool> AnotherSupervisorAsync(this SirenaDb db, Guid but, CancellationToken cancel)
    {
        var all = await db
            .Users.FromSql($"select * from users where removed_at is null and email_confirmed order by id for update")
            .AsNoTracking()
            .ToListAsync(cancel);
        return all.Exists(u => u.Role == Role.Supervisor && u.Id != but);
    }
}
