using NodaTime;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Engine.Rules;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>
/// The rule with the most dark hours of a week. It is worked out once for each change of the settings, since every rule is asked for every quarter of the week.
/// </summary>
public sealed class DarkestRule(RuleShelf shelf, Signals signals, IClock clock)
{
    // More dark hours than this is a rule for a few hours a week: its darkness is meant.
    private const decimal Meant = 160;
    private readonly SetupKept<Found> kept = new(signals, clock, Duration.FromMinutes(10));

    /// <summary>Its coverage; <see langword="null"/> where no rule tells whoever is on duty.</summary>
    /// <param name="monday">The week's Monday.</param>
    /// <param name="around">The business and its people.</param>
    /// <param name="now">The moment that the drawing marks.</param>
    /// <param name="cancel">Ends the reading of the rules.</param>
    public async Task<CoverageView?> OfAsync(LocalDate monday, Surroundings around, DeskTime now, CancellationToken cancel)
    {
        if (kept.Fresh is { } known && known.Monday == monday)
        {
            return known.View is { } view ? view with { Around = around, Clock = now } : null;
        }

        var begun = kept.Begin();
        var book = await shelf.CurrentAsync(cancel);
        var darkest = book
            .Rules.Where(r => r.Rule.On && r.Rule.Cases.Any(c => c.Tell.OfType<DutyRecipient>().Any()))
            .Select(r => CoverageView.Of(r.Rule, around, monday, now))
            .MaxBy(c => c.Coverage.DarkHours < Meant ? c.Coverage.DarkHours : 0);
        return kept.Keep(new Found(monday, darkest), begun).View;
    }

    private sealed record Found(LocalDate Monday, CoverageView? View);
}
