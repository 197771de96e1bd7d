using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Storage;

namespace Sirena.Engine.Orders;

/// <summary>
/// Lets the catalogue of fields grow by what events carry: notes each field with its type and last values, and stores what is new every few seconds. It may
/// miss some under load; a field that matters comes again.
/// </summary>
public sealed class FieldWatch(IDbContextFactory<SirenaDb> factory, IClock clock, ILogger<FieldWatch> log) : Worker(log)
{
    private const int MostASecond = 40;
    private const int MostFields = 2_000;
    private const int LookedBack = 1_500;
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(2);
    private static readonly Duration Fresh = Duration.FromHours(1);
    private readonly Lock gate = new();
    private Dictionary<string, (FieldType Type, List<string> Values)> seen = [];
    private long second;
    private int inSecond;

    /// <summary>Notes what an event carries.</summary>
    public void Note(OrderEvent happened)
    {
        lock (gate)
        {
            var now = clock.GetCurrentInstant().ToUnixTimeSeconds();
            (second, inSecond) = now == second ? (second, inSecond + 1) : (now, 1);
            if (inSecond <= MostASecond)
            {
                Take(happened, seen);
            }
        }
    }

    /// <summary>Stores what was noted since the last time.</summary>
    public async Task StoreAsync(CancellationToken cancel)
    {
        Dictionary<string, (FieldType Type, List<string> Values)> fresh;
        lock (gate)
        {
            (fresh, seen) = (seen, []);
        }

        await StoreAsync(fresh, cancel);
    }

    /// <summary>What events carried, by path.</summary>
    public async Task<IReadOnlyDictionary<string, SeenField>> SeenAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.SeenFields.AsNoTracking().ToDictionaryAsync(f => f.Path, cancel);
    }

    /// <summary>Fills an empty catalogue from the last events.</summary>
    public async Task CatchUpAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.SeenFields.AnyAsync(cancel))
        {
            return;
        }

        var fields = new Dictionary<string, (FieldType Type, List<string> Values)>();
        foreach (var happened in await db.Events.AsNoTracking().OrderByDescending(e => e.Id).Take(LookedBack).ToListAsync(cancel))
        {
            Take(happened, fields);
        }

        await StoreAsync(fields, cancel);
    }

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping)
    {
        var caughtUp = false;
        return TurnsAsync(
            Pause,
            async () =>
            {
                if (!caughtUp)
                {
                    await CatchUpAsync(stopping);
                    caughtUp = true;
                }

                await StoreAsync(stopping);
            },
            stopping
        );
    }

    private static void Take(OrderEvent happened, Dictionary<string, (FieldType Type, List<string> Values)> fields)
    {
        foreach (var (path, type, value) in Sightings.In(happened))
        {
            if (!fields.TryGetValue(path, out var known))
            {
                if (fields.Count >= MostFields)
                {
                    continue;
                }

                known = (type, []);
            }

            if (value is not null && !known.Values.Contains(value) && known.Values.Count < SeenField.Kept)
            {
                known.Values.Add(value);
            }

            fields[path] = (type, known.Values);
        }
    }

    private async Task StoreAsync(Dictionary<string, (FieldType Type, List<string> Values)> fields, CancellationToken cancel)
    {
        if (fields.Count == 0)
        {
            return;
        }

        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var stored = await db.SeenFields.ToDictionaryAsync(f => f.Path, cancel);
        foreach (var (path, (type, values)) in fields)
        {
            if (!stored.TryGetValue(path, out var field))
            {
                if (stored.Count < MostFields)
                {
                    db.SeenFields.Add(
                        stored[path] = new SeenField
                        {
                            Path = path,
                            Type = type,
                            Values = [.. values],
                            At = now,
                        }
                    );
                }

                continue;
            }

            var fresh = values.Except(field.Values).ToArray();
            if (fresh.Length > 0 || field.Type != type || now - field.At > Fresh)
            {
                (field.Type, field.At, field.Values) = (type, now, [.. fresh.Concat(field.Values).Take(SeenField.Kept)]);
            }
        }

        await db.SaveChangesAsync(cancel);
    }
}
