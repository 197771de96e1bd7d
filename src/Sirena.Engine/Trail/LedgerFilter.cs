using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Rules;
using Sirena.Storage;

namespace Sirena.Engine.Trail;

/// <summary>Which deliveries of the ledger are asked for. All that is given must hold.</summary>
/// <param name="From">Made at or after.</param>
/// <param name="To">Made before; <see langword="null"/> for up to now.</param>
public sealed record LedgerFilter(Instant From, Instant? To = null)
{
    /// <summary>A mark of <see cref="Ledger.Marks"/>.</summary>
    public string? Mark { get; init; }

    /// <summary>The channel.</summary>
    public Channel? Channel { get; init; }

    /// <summary>A gateway's name, as it stands in attempts.</summary>
    public string? Gateway { get; init; }

    /// <summary>A rule's id.</summary>
    public string? Rule { get; init; }

    /// <summary>A team's id: its members.</summary>
    public string? Team { get; init; }

    /// <summary>A person, an order, or words of the reason or address.</summary>
    public string? Find { get; init; }

    /// <summary>The deliveries that it lets through.</summary>
    public IQueryable<Delivery> In(SirenaDb db, Surroundings around)
    {
        // The condition has the values as places only.
        var (where, values) = Where(around);
        var sql = "select d.* from deliveries d where " + where;
        return db.Deliveries.FromSqlRaw(sql, values).AsNoTracking();
    }

    /// <summary>The condition on <c>deliveries d</c>, with its values as <c>{0}</c>, <c>{1}</c>, …</summary>
    /// <param name="around">The people, for names and teams.</param>
    /// <param name="withMark">Whether the mark counts.</param>
    public (string Sql, object[] Values) Where(Surroundings around, bool withMark = true)
    {
        var (parts, values) = (new List<string>(), new List<object>());
        string Value(object value)
        {
            values.Add(value);
            return $"{{{values.Count - 1}}}";
        }

        parts.Add($"d.created_at >= {Value(From)}");
        if (To is { } to)
        {
            parts.Add($"d.created_at < {Value(to)}");
        }

        if (Channel is { } channel)
        {
            parts.Add($"d.channel = {Value(channel.Name())}");
        }

        if (Rule is { Length: > 0 } rule)
        {
            parts.Add($"d.rule_id = {Value(rule)}");
        }

        if (Gateway is { Length: > 0 } gateway)
        {
            parts.Add($"exists (select from attempts t where t.delivery_id = d.id and t.gateway = {Value(gateway)})");
        }

        if (Team is { Length: > 0 } team)
        {
            parts.Add($"d.person = any({Value(around.Staff.People.Where(p => p.Teams.Contains(team)).Select(p => p.Id).ToArray())})");
        }

        if (withMark && Mark is { Length: > 0 } mark)
        {
            parts.Add(
                mark switch
                {
                    "failed" => "d.state in ('failed', 'expired')",
                    "answered" => "d.answered",
                    "handed-over" or "landed" => $"d.state = '{mark}' and not d.answered",
                    "waiting" or "skipped" => $"d.state = '{mark}'",
                    _ => "true",
                }
            );
        }

        if (Find?.Trim() is { Length: > 0 } find)
        {
            parts.Add(Found(around, find, Value));
        }

        return (string.Join(" and ", parts), [.. values]);
    }

    // A name is a person, a word with a figure is an order; else it is looked for in rules, addresses and reasons.
    private static string Found(Surroundings around, string find, Func<object, string> value)
    {
        var folded = TextFolding.Fold(find);
        string[] people =
        [
            .. around.Staff.People.Where(p => TextFolding.Fold(p.Name).Contains(folded, StringComparison.Ordinal) || p.Id == folded).Select(p => p.Id),
        ];
        if (people.Length > 0)
        {
            return $"d.person = any({value(people)})";
        }

        if (
            find.Any(char.IsAsciiDigit)
            && !find.Contains('@', StringComparison.Ordinal)
            && !find.Contains(' ', StringComparison.Ordinal)
            && !find.StartsWith('+')
        )
        {
            return $"d.order_number = any({value(new[] { find, find.ToUpperInvariant() })})";
        }

        var like = value($"%{LikePattern.Literal(find)}%");
        return $"(d.reason ilike {like} or d.\"to\" ilike {like} or d.evidence ilike {like} or d.rule_id = {value(folded)})";
    }
}
