using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Core.Deliveries;

namespace Sirena.Web.Pages.Proof;

/// <summary>What the ledger adds up to over a period, from at most the newest 10,000 deliveries in it.</summary>
/// <param name="ByMark">How many bear each mark.</param>
/// <param name="Total">All of them, 10,001 for more than 10,000.</param>
/// <param name="MedianToLand">The median time from made to landed, or <see langword="null"/> when none landed.</param>
/// <param name="Slots">How many in each slot of the chart, and how many of these did not arrive.</param>
public sealed record Ledger(IReadOnlyDictionary<string, int> ByMark, int Total, Duration? MedianToLand, IReadOnlyList<(int All, int Bad)> Slots)
{
    /// <summary>Where counting stops.</summary>
    public const int Most = 10_000;

    /// <summary>The marks by which the ledger can be filtered, in the order of a delivery's life.</summary>
    public static readonly string[] Marks = ["waiting", "handed-over", "landed", "answered", "failed", "skipped"];

    /// <summary>Reads it. Plan: an index-only scan of ix_deliveries_ledger from the newest row down, stopped at 10,000.</summary>
    /// <param name="source">The database.</param>
    /// <param name="from">The period's begin.</param>
    /// <param name="slot">The width of a slot of the chart.</param>
    /// <param name="slots">How many slots there are.</param>
    /// <param name="channel">Only this channel, or <see langword="null"/>.</param>
    /// <param name="cancel">Stops it.</param>
    public static async Task<Ledger> ReadAsync(NpgsqlDataSource source, Instant from, Duration slot, int slots, Channel? channel, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            """
            select state, answered, least(floor(extract(epoch from created_at - $1) / $2), $3)::int, count(*)::int from
                (select state, answered, created_at from deliveries where created_at >= $1 and ($4::text is null or channel = $4) order by created_at desc, id desc limit 10001) x
            group by 1, 2, 3
            """);
        command.Parameters.Add(new NpgsqlParameter { Value = from });
        command.Parameters.Add(new NpgsqlParameter { Value = slot.TotalSeconds });
        command.Parameters.Add(new NpgsqlParameter { Value = slots - 1 });
        command.Parameters.Add(new NpgsqlParameter { Value = (object?)channel?.Name() ?? DBNull.Value, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Text });
        var (marks, total, bars) = (Marks.ToDictionary(m => m, _ => 0), 0, new (int All, int Bad)[slots]);
        await using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            while (await reader.ReadAsync(cancel))
            {
                var (mark, count, at) = (MarkOf(Names.Parse<DeliveryState>(reader.GetString(0))!.Value, reader.GetBoolean(1)), reader.GetInt32(3), Math.Clamp(reader.GetInt32(2), 0, slots - 1));
                marks[mark] += count;
                total += count;
                bars[at] = (bars[at].All + count, bars[at].Bad + (mark == "failed" ? count : 0));
            }
        }

        await using var median = source.CreateCommand(
            "select percentile_cont(0.5) within group (order by extract(epoch from landed_at - created_at)) from (select landed_at, created_at from deliveries where created_at >= $1 and state = 'landed' order by created_at desc limit 1000) x");
        median.Parameters.Add(new NpgsqlParameter { Value = from });
        return new Ledger(marks, total, await median.ExecuteScalarAsync(cancel) is double seconds ? Duration.FromSeconds(seconds) : null, bars);
    }

    /// <summary>The filter that a delivery falls under.</summary>
    public static string MarkOf(DeliveryState state, bool answered) => (state, answered) switch
    {
        (DeliveryState.Landed or DeliveryState.HandedOver, true) => "answered",
        (DeliveryState.Waiting, _) => "waiting",
        (DeliveryState.Failed or DeliveryState.Expired, _) => "failed",
        _ => state.Name(),
    };
}
