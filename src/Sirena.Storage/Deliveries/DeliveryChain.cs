namespace Sirena.Storage.Deliveries;

/// <summary>
/// The two moves of a chain of deliveries of which the first that lands is enough, as parts of the statement that writes what became of one. Each reads a row
/// with <c>id</c>, <c>chain</c> and <c>channel</c>.
/// </summary>
internal static class DeliveryChain
{
    /// <summary>It landed: those that wait are not needed.</summary>
    /// <param name="row">The name under which the statement knows the delivery that landed.</param>
    public static string Skip(string row) =>
        $" update deliveries o set state = 'skipped', reason = 'landed by ' || {row}.channel || ' already' from {row} where o.chain = {row}.chain and "
        + $"o.id <> {row}.id and o.state = 'waiting' and o.tries = 0";

    /// <summary>It failed: the next one is due now.</summary>
    /// <param name="row">The name under which the statement knows the delivery that failed.</param>
    /// <param name="now">The parameter that holds the moment.</param>
    public static string Onward(string row, string now) =>
        $" update deliveries d set due_at = {now} from {row} where d.id = (select n.id from deliveries n where n.chain = {row}.chain and n.id <> "
        + $"{row}.id and n.state = 'waiting' and n.tries = 0 order by n.due_at limit 1)";
}
