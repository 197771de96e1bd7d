using NodaTime;
using Sirena.Core.People;

namespace Sirena.Core.Insight;

/// <summary>A quarter of an hour of a week.</summary>
/// <param name="Day">Its day.</param>
/// <param name="Index">From 0 at midnight to 95.</param>
/// <param name="Skipped">The clocks skip it.</param>
/// <param name="Reached">How many people would be reached at a verified address.</param>
/// <param name="Doubtful">How many more would be told at an address that nobody has verified.</param>
/// <param name="Because">Why nobody would be told, or <see langword="null"/>.</param>
/// <param name="Unreachable">The id of somebody who is on duty and cannot be reached, where nobody would be told; else <see langword="null"/>.</param>
public sealed record CoverageQuarter(LocalDate Day, int Index, bool Skipped, int Reached, int Doubtful, string? Because, string? Unreachable)
{
    /// <summary>Somebody is on duty and cannot be reached.</summary>
    public bool OnDuty => Unreachable is not null;

    /// <summary>Nobody would be told.</summary>
    public bool Dark => !Skipped && Reached + Doubtful == 0;

    /// <summary>When it begins.</summary>
    public LocalDateTime From => Day.At(new LocalTime(Index / 4, Index % 4 * 15));
}

/// <summary>A time in which nobody would be told.</summary>
/// <param name="From">Its begin.</param>
/// <param name="To">Its end.</param>
/// <param name="Because">Why.</param>
/// <param name="Unreachable">The id of somebody who is on duty and cannot be reached, of whom the reason speaks; else <see langword="null"/>.</param>
public sealed record DarkTime(LocalDateTime From, LocalDateTime To, string Because, string? Unreachable)
{
    /// <summary>Somebody is on duty and cannot be reached.</summary>
    public bool OnDuty => Unreachable is not null;
}

/// <summary>The hours of a week in which a rule would reach somebody, and those in which it would reach nobody.</summary>
public sealed class Coverage
{
    private Coverage(IReadOnlyList<CoverageQuarter> quarters) => Quarters = quarters;

    /// <summary>The 672 quarters of the week, from Monday midnight.</summary>
    public IReadOnlyList<CoverageQuarter> Quarters { get; }

    /// <summary>How many hours are dark.</summary>
    public decimal DarkHours => Quarters.Count(q => q.Dark) / 4m;

    /// <summary>How many hours the week has: 168, or one less in the week in which the clocks skip one; an hour that comes twice counts once.</summary>
    public decimal Hours => Quarters.Count(q => !q.Skipped) / 4m;

    /// <summary>Works it out.</summary>
    /// <param name="monday">The first day.</param>
    /// <param name="zone">The business's time zone.</param>
    /// <param name="ask">Who is told at an instant. Of an hour that comes twice the darker one counts.</param>
    public static Coverage Of(LocalDate monday, DateTimeZone zone, Func<Instant, Resolution> ask)
    {
        var quarters = new List<CoverageQuarter>(7 * 96);
        for (var i = 0; i < 7 * 96; i++)
        {
            var (day, index) = (monday.PlusDays(i / 96), i % 96);
            var map = zone.MapLocal(day.At(new LocalTime(index / 4, index % 4 * 15)));
            quarters.Add(
                map.Count switch
                {
                    0 => new CoverageQuarter(day, index, true, 0, 0, null, null),
                    1 => Quarter(day, index, ask(map.Single().ToInstant())),
                    _ => new[] { Quarter(day, index, ask(map.First().ToInstant())), Quarter(day, index, ask(map.Last().ToInstant())) }.MinBy(q =>
                        q.Reached + q.Doubtful
                    )!,
                }
            );
        }

        return new Coverage(quarters);
    }

    /// <summary>The dark times, those that follow one another for one reason as one.</summary>
    public IReadOnlyList<DarkTime> DarkTimes()
    {
        var found = new List<DarkTime>();
        foreach (var quarter in Quarters.Where(q => q.Dark))
        {
            var to = quarter.From.PlusMinutes(15);
            if (found.Count > 0 && found[^1].To == quarter.From && found[^1].Unreachable == quarter.Unreachable)
            {
                found[^1] = found[^1] with { To = to };
            }
            else
            {
                found.Add(new DarkTime(quarter.From, to, quarter.Because ?? "", quarter.Unreachable));
            }
        }

        return found;
    }

    private static CoverageQuarter Quarter(LocalDate day, int index, Resolution who)
    {
        var verified = who.Told.Where(t => t.Verified).Select(t => t.Person ?? t.Contact).Distinct().Count();
        var all = who.Told.Select(t => t.Person ?? t.Contact).Distinct().Count();
        var unreachable = all > 0 ? null : who.Left.FirstOrDefault(l => !l.Nobody && !l.OffDuty);
        var because = all > 0 ? null : unreachable?.Because ?? who.Left.FirstOrDefault(l => l.Nobody)?.Because ?? "nobody is named";
        return new CoverageQuarter(day, index, false, verified, all - verified, because, unreachable?.Person);
    }
}
