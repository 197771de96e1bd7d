using System.Text.RegularExpressions;
using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Core.Deliveries;

namespace Sirena.Engine.Trail;

/// <summary>What the ledger adds up to over a period, from at most the newest 10,000 deliveries in it.</summary>
/// <param name="ByMark">How many bear each mark.</param>
/// <param name="Total">All of them, 10,001 for more than 10,000.</param>
/// <param name="MedianToLand">The median time from made to landed, or <see langword="null"/> when none landed.</param>
/// <param name="NinetiethToLand">The 90th percentile of it.</param>
/// <param name="Slots">How many in each slot of the chart, and how many of these did not arrive.</param>
public sealed partial record Ledger(
    IReadOnlyDictionary<string, int> ByMark,
    int Total,
    Duration? MedianToLand,
    Duration? NinetiethToLand,
    IReadOnlyList<(int All, int Bad)> Slots
)
{
    /// <summary>Where counting stops.</summary>
    public const int Most = 10_000;

    /// <summary>The marks by which the ledger can be filtered, in the order of a delivery's life.</summary>
    public static readonly string[] Marks = ["waiting", "handed-over", "landed", "answered", "failed", "skipped"];

    /// <summary>Those that were really sent: neither waiting nor skipped.</summary>
    public int Sent => Math.Max(0, Total - ByMark["skipped"] - ByMark["waiting"]);

    /// <summary>Confirmed by the far end, answers among them.</summary>
    public int Landed => ByMark["landed"] + ByMark["answered"];

    /// <summary>
    /// Reads it. Plan: an index-only scan of ix_deliveries_ledger from the newest row down, stopped at 10,000; with a filter the rows of the period.
    /// </summary>
    /// <param name="source">The database.</param>
    /// <param name="filter">Which deliveries; its mark does not count.</param>
    /// <param name="around">The people.</param>
    /// <param name="slot">The width of a slot of the chart.</param>
    /// <param name="slots">How many slots there are.</param>
    /// <param name="cancel">Stops it.</param>
    public static async Task<Ledger> ReadAsync(
        NpgsqlDataSource source,
        LedgerFilter filter,
        Surroundings around,
        Duration slot,
        int slots,
        CancellationToken cancel
    )
    {
        var (where, values) = filter.Where(around, withMark: false);
        await using var command = Command(
            source,
            $"select state, answered, least(floor(extract(epoch from created_at - {{{values.Length}}}) / {{{values.Length + 1}}}), "
                + $"{{{values.Length + 2}}})::int, count(*)::int from (select state, answered, created_at from deliveries d where {where} order by "
                + "created_at desc, id desc limit 10001) x group by 1, 2, 3",
            [.. values, filter.From, slot.TotalSeconds, slots - 1]
        );
        var (marks, total, bars) = (Marks.ToDictionary(m => m, _ => 0), 0, new (int All, int Bad)[slots]);
        await using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            while (await reader.ReadAsync(cancel))
            {
                var (mark, count, at) = (
                    MarkOf(Names.Parse<DeliveryState>(reader.GetString(0))!.Value, reader.GetBoolean(1)),
                    reader.GetInt32(3),
                    Math.Clamp(reader.GetInt32(2), 0, slots - 1)
                );
                marks[mark] += count;
                total += count;
                bars[at] = (bars[at].All + count, bars[at].Bad + (mark == "failed" ? count : 0));
            }
        }

        await using var times = Command(
            source,
            "select percentile_cont(array[0.5, 0.9]) within group (order by extract(epoch from landed_at - created_at)) from (select landed_at, "
                + $"created_at from deliveries d where {where} and state = 'landed' order by created_at desc limit 1000) x",
            values
        );
        var found = await times.ExecuteScalarAsync(cancel) as double[];
        Duration? At(int i) => found is null ? null : Duration.FromSeconds(found[i]);
        return new Ledger(marks, total, At(0), At(1), bars);
    }

    /// <summary>The filter that a delivery falls under.</summary>
    public static string MarkOf(DeliveryState state, bool answered) =>
        (state, answered) switch
        {
            (DeliveryState.Landed or DeliveryState.HandedOver, true) => "answered",
            (DeliveryState.Waiting or DeliveryState.Sending, _) => "waiting",
            (DeliveryState.Failed or DeliveryState.Expired, _) => "failed",
            _ => state.Name(),
        };

    /// <summary>A command of a statement whose values are written <c>{0}</c>, <c>{1}</c>, …</summary>
    public static NpgsqlCommand Command(NpgsqlDataSource source, string sql, IReadOnlyList<object> values)
    {
        var command = source.CreateCommand(
            Places().Replace(sql, m => "$" + (int.Parse(m.Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture) + 1))
        );
        foreach (var value in values)
        {
            command.Parameters.Add(new NpgsqlParameter { Value = value });
        }

        return command;
    }

    [GeneratedRegex(@"\{(\d+)\}")]
    private static partial Regex Places();
}
