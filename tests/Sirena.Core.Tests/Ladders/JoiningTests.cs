using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Ladders;

public class JoiningTests
{
    private static Alert Known(AlertState state, string ofCase = "always", Urgency urgency = Urgency.Prompt, Instant? ended = null) =>
        new()
        {
            RuleId = "r",
            Case = ofCase,
            Urgency = urgency,
            State = state,
            RaisedAt = Noon,
            EndedAt = ended,
        };

    private static Joining Of(Alert? latest, Duration age = default, Urgency urgency = Urgency.Prompt, Duration rest = default)
    {
        var rule = Rule("r", urgency: urgency) with { Rest = rest };
        return Joining.Of(new Decision(rule, 1, Outcome.Matched, rule.Cases[0], []), Event("{}"), latest, Noon + age);
    }

    [Fact]
    public void A_match_raises_an_alert_where_none_is_open() =>
        Assert.Equal((Outcome.Matched, true), (Of(null).Outcome, Of(Known(AlertState.Done, ended: Noon)).Tells));

    [Theory]
    [InlineData(AlertState.Open)]
    [InlineData(AlertState.Taken)]
    public void A_further_match_joins_and_tells_nobody_anew(AlertState state) =>
        Assert.Equal((Outcome.Joined, false), (Of(Known(state)).Outcome, Of(Known(state)).Tells));

    [Fact]
    public void A_join_tells_anew_when_its_case_changes_or_its_urgency_rises()
    {
        Assert.True(Of(Known(AlertState.Open, "another")).Tells);
        Assert.True(Of(Known(AlertState.Open), urgency: Urgency.Urgent).Tells);
        Assert.False(Of(Known(AlertState.Open, urgency: Urgency.Urgent)).Tells);
    }

    [Fact]
    public void Rest_counts_from_the_alert_s_end()
    {
        var ended = Known(AlertState.Withdrawn, ended: Noon - Duration.FromMinutes(10));
        Assert.Equal(Outcome.Resting, Of(ended, rest: Duration.FromMinutes(11)).Outcome);
        Assert.Equal(Outcome.Matched, Of(ended, rest: Duration.FromMinutes(10)).Outcome);
    }

    [Theory]
    [InlineData(Urgency.Urgent, 31, Outcome.TooLate)]
    [InlineData(Urgency.Urgent, 30, Outcome.Matched)]
    [InlineData(Urgency.Routine, 12 * 60, Outcome.Matched)]
    [InlineData(Urgency.Routine, (12 * 60) + 1, Outcome.TooLate)]
    public void An_event_that_is_too_old_tells_nobody(Urgency urgency, int minutes, Outcome outcome) =>
        Assert.Equal(outcome, Of(null, Duration.FromMinutes(minutes), urgency).Outcome);

    // Whether somebody is told, and which alert it is about, follow from the outcome but for a join.
    [Fact]
    public void Every_state_before_meets_every_match()
    {
        foreach (var state in Enum.GetValues<AlertState>())
        {
            foreach (
                var (ofCase, was) in new[] { ("always", Urgency.Prompt), ("another", Urgency.Prompt), ("always", Urgency.Routine), ("always", Urgency.Urgent) }
            )
            {
                foreach (var ended in new Instant?[] { null, Noon - Duration.FromMinutes(5), Noon - Duration.FromMinutes(10) })
                {
                    var latest = Known(state, ofCase, was, ended);
                    var (fresh, late) = (Of(latest, rest: Duration.FromMinutes(10)), Of(latest, Duration.FromDays(2), rest: Duration.FromMinutes(10)));
                    Assert.Equal(new Joining(Outcome.TooLate, false, null), late);
                    Assert.Equal(
                        !latest.Ended ? new Joining(Outcome.Joined, state == AlertState.Lapsed || ofCase == "another" || was == Urgency.Routine, latest)
                            : ended == Noon - Duration.FromMinutes(5) ? new Joining(Outcome.Resting, false, null)
                            : new Joining(Outcome.Matched, true, null),
                        fresh
                    );
                }
            }
        }
    }
}
