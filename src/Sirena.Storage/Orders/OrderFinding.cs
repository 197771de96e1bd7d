using Microsoft.EntityFrameworkCore;
using Sirena.Core.Orders;
using Sirena.Core.Rules;

namespace Sirena.Storage.Orders;

/// <summary>Finding orders by words.</summary>
public static class OrderFinding
{
    private const int MostWords = 8;

    /// <summary>
    /// The orders in which each word stands, wherever, one of one or two letters as a whole word: in the number, the customer's name or code, or one of the
    /// order's own fields, which are found by their names too ("berth N3"). Letters with and without marks, large and small, are the same.
    /// </summary>
    public static IQueryable<Order> Finding(this IQueryable<Order> orders, string? words)
    {
        foreach (var word in TextFolding.Fold(words ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Take(MostWords))
        {
            var around = word.Length < 3 ? " " : "";
            var pattern = $"%{around}{LikePattern.Literal(word)}{around}%";
            orders = orders.Where(o => EF.Functions.Like(o.Search, pattern));
        }

        return orders;
    }
}
