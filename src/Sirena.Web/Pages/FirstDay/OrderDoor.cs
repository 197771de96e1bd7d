using Sirena.Engine.FirstDay;
using Sirena.Engine.Intake;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.FirstDay;

/// <summary>The door for an order system's events, as whoever connects one sees it.</summary>
/// <param name="Address">Where they are posted to.</param>
/// <param name="Currency">The business's currency, for the example.</param>
/// <param name="Key">A key that was made just now, shown once; or <see langword="null"/>.</param>
/// <param name="Order">What came and was understood, or <see langword="null"/>.</param>
/// <param name="Refused">The last calls that were not taken, the newest first.</param>
/// <param name="Clock">The moment.</param>
public sealed record OrderDoor(string Address, string Currency, string? Key, OrderEvidence? Order, IReadOnlyList<RefusedCall> Refused, DeskTime Clock)
{
    /// <summary>The source that the first day makes.</summary>
    public const string Source = "orders";

    /// <summary>A line for a shell that posts an order; it works as it stands once the key is in it.</summary>
    public string Line =>
        $"curl -sS {Address} \\\n  -H 'Authorization: Bearer {Key ?? "YOUR-KEY"}' \\\n  -H 'Content-Type: application/cloudevents+json' \\\n  -d "
        + $"'{{\"specversion\":\"1.0\",\"id\":\"first-1\",\"source\":\"my-order-system\",\n       "
        + $"\"type\":\"order.placed\",\"subject\":\"1001\",\n       \"data\":{{\"order\":{{\"number\":\"1001\",\"total\":86.40,\n         "
        + $"\"currency\":\"{Currency}\"}}}}}}'";

    /// <summary>Makes a key in place of any other; the source with the first.</summary>
    /// <returns>The key, or what is wrong.</returns>
    public static async Task<(string? Key, string? Problem)> MakeKeyAsync(SourceShelf shelf, SourceDesk sources, string by, CancellationToken cancel)
    {
        if (await shelf.FindAsync(Source, cancel) is null)
        {
            var made = await sources.SaveAsync(Source, DocumentText.Read("""{ "name": "Orders", "kind": "events" }""", yaml: false).Node!, by, cancel);
            if (made.Source is null)
            {
                return (null, string.Join(" ", made.Errors.Select(e => e.Problem)));
            }
        }

        return (await sources.MakeKeyAsync(Source, instead: true, by, cancel), null);
    }
}
