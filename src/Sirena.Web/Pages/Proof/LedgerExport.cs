using System.Text;
using System.Text.Json;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Formats.Documents;

namespace Sirena.Web.Pages.Proof;

/// <summary>The ledger as open formats: CSV (RFC 4180) and JSON lines. A row a delivery, without the texts of messages.</summary>
public static class LedgerExport
{
    private static readonly string[] Columns =
    [
        "id",
        "alert",
        "order",
        "rule",
        "step",
        "person",
        "to",
        "audience",
        "channel",
        "state",
        "answered",
        "reason",
        "evidence",
        "createdAt",
        "handedOverAt",
        "landedAt",
        "tries",
    ];

    /// <summary>Writes CSV; a cell that a spreadsheet would take for a formula is guarded with an apostrophe.</summary>
    public static async Task CsvAsync(IAsyncEnumerable<Delivery> rows, Stream to, CancellationToken cancel)
    {
        await using var text = new StreamWriter(to, new UTF8Encoding(false), leaveOpen: true);
        await text.WriteLineAsync(string.Join(',', Columns));
        await foreach (var d in rows.WithCancellation(cancel))
        {
            await text.WriteLineAsync(string.Join(',', Cells(d).Select(c => Quoted(c?.ToString() ?? ""))));
        }
    }

    /// <summary>Writes an object a line.</summary>
    public static async Task JsonLinesAsync(IAsyncEnumerable<Delivery> rows, Stream to, CancellationToken cancel)
    {
        await foreach (var d in rows.WithCancellation(cancel))
        {
            await JsonSerializer.SerializeAsync(to, Columns.Zip(Cells(d)).ToDictionary(c => c.First, c => c.Second), cancellationToken: cancel);
            await to.WriteAsync("\n"u8.ToArray(), cancel);
        }
    }

    private static object?[] Cells(Delivery d) =>
        [
            d.Id,
            d.AlertId,
            d.OrderNumber,
            d.RuleId,
            d.Step,
            d.Person,
            d.To,
            d.Audience.Name(),
            d.Channel.Name(),
            d.Stands.Name(),
            d.Answered,
            d.Reason,
            d.Evidence,
            d.CreatedAt.ToString(),
            d.HandedOverAt?.ToString(),
            d.LandedAt?.ToString(),
            d.Tries,
        ];

    private static string Quoted(string cell)
    {
        var guarded = CsvText.Guarded(cell);
        return guarded.AsSpan().IndexOfAny(",\"\r\n") < 0 ? guarded : $"\"{guarded.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
    }
}
