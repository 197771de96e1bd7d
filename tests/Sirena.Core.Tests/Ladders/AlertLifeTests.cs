using CsCheck;
using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Ladders;

/// <summary>The table of an alert's life, row by row, and what is always true of it over random histories.</summary>
public class AlertLifeTests
{
    private static readonly Duration Minute = Duration.FromMinutes(1);
    private static readonly Duration Hour = Duration.FromHours(1);

    private static readonly WorkingHours AllDay = new(
        [new Sirena.Core.People.WeeklySpan([.. Enum.GetValues<IsoDayOfWeek>().Where(d => d != IsoDayOfWeek.None)], LocalTime.Midnight, LocalTime.Midnight)],
        System.Collections.Frozen.FrozenSet<LocalDate>.Empty,
        Lisbon
    );

    private static LadderStep After(Duration delay, StepClock clock = StepClock.After) => new(clock, delay, [], null, null);

    private static LadderFacts Ladder(Instant? due, params LadderStep[] steps) => new(steps, due, true, _ => AllDay);

    /// <summary>An alert of noon with its ladder: after 10 minutes, after an hour, an hour before the due time of 18:00.</summary>
    private sealed class Case
    {
        public Case(Instant? held = null, LadderFacts? facts = null, Urgency urgency = Urgency.Urgent)
        {
            Facts = facts ?? Ladder(Noon + Duration.FromHours(6), After(10 * Minute), After(Hour), After(Hour, StepClock.BeforeDue));
            Alert = new Alert
            {
                RuleId = "r",
                Case = "c",
                Urgency = urgency,
                RaisedAt = Noon,
                BeganAt = Noon,
            };
            Alert.Begin(Steps, Facts, Noon);
            var first = new AlertStep { Index = 0, DueAt = Noon };
            Steps.Add(first);
            Alert.Fired([(first, held)], Steps, Facts, Noon);
        }

        public Alert Alert { get; }

        public LadderFacts Facts { get; set; }

        public List<AlertStep> Steps { get; } = [];

        public Answering Say(
            AnswerKind kind,
            string person,
            Instant now,
            Duration within = default,
            string? aim = null,
            Instant? until = null,
            bool nobodyLeft = false
        ) =>
            Alert.Answer(
                new AnswerGiven(kind, person, within)
                {
                    Aim = Recipient.Parse(aim),
                    Until = until,
                    NobodyLeft = nobodyLeft,
                },
                Steps,
                Facts,
                now,
                id => id
            );

        public IEnumerable<(int Rung, double At)> Ahead =>
            Steps.Where(s => s.FiredAt is null && s.Aim is null).OrderBy(s => s.Index).Select(s => (s.Rung, (s.DueAt - Noon).TotalMinutes));

        public AlertStep Fire(int rung, Instant now, Instant? held = null)
        {
            var step = Steps.First(s => s.FiredAt is null && s.Rung == rung);
            Alert.Fired([(step, held)], Steps, Facts, now);
            return step;
        }

        public Case In(AlertState state)
        {
            switch (state)
            {
                case AlertState.Taken:
                    Say(AnswerKind.Taken, "holder", Noon + Minute);
                    break;
                case AlertState.Done:
                    Say(AnswerKind.Done, "holder", Noon + Minute);
                    break;
                case AlertState.Withdrawn:
                    Alert.Withdraw(Noon + Minute);
                    break;
                case AlertState.Lapsed:
                    Steps.RemoveAll(s => s.FiredAt is null);
                    Assert.True(Alert.Lapse(Steps, Noon + (10 * Hour)));
                    break;
            }

            Assert.Equal(state, Alert.State);
            return this;
        }
    }

    // The table: state, who answers, what, then the state after, whether it is refused, whether it is noted.
    [Theory]
    [InlineData(AlertState.Open, "me", AnswerKind.Taken, AlertState.Taken, false, true)]
    [InlineData(AlertState.Open, "me", AnswerKind.Passed, AlertState.Open, false, true)]
    [InlineData(AlertState.Open, "me", AnswerKind.Declined, AlertState.Open, false, true)]
    [InlineData(AlertState.Open, "me", AnswerKind.Later, AlertState.Taken, false, true)]
    [InlineData(AlertState.Open, "me", AnswerKind.Done, AlertState.Done, false, true)]
    [InlineData(AlertState.Taken, "holder", AnswerKind.Taken, AlertState.Taken, false, false)]
    [InlineData(AlertState.Taken, "holder", AnswerKind.Passed, AlertState.Open, false, true)]
    [InlineData(AlertState.Taken, "holder", AnswerKind.Declined, AlertState.Open, false, true)]
    [InlineData(AlertState.Taken, "holder", AnswerKind.Later, AlertState.Taken, false, true)]
    [InlineData(AlertState.Taken, "holder", AnswerKind.Done, AlertState.Done, false, true)]
    [InlineData(AlertState.Taken, "me", AnswerKind.Taken, AlertState.Taken, true, false)]
    [InlineData(AlertState.Taken, "me", AnswerKind.Passed, AlertState.Taken, true, false)]
    [InlineData(AlertState.Taken, "me", AnswerKind.Declined, AlertState.Taken, false, true)]
    [InlineData(AlertState.Taken, "me", AnswerKind.Later, AlertState.Taken, true, false)]
    [InlineData(AlertState.Taken, "me", AnswerKind.Done, AlertState.Taken, true, false)]
    [InlineData(AlertState.Lapsed, "me", AnswerKind.Taken, AlertState.Taken, false, true)]
    [InlineData(AlertState.Lapsed, "me", AnswerKind.Passed, AlertState.Open, false, true)]
    [InlineData(AlertState.Lapsed, "me", AnswerKind.Declined, AlertState.Lapsed, false, true)]
    [InlineData(AlertState.Lapsed, "me", AnswerKind.Later, AlertState.Taken, false, true)]
    [InlineData(AlertState.Lapsed, "me", AnswerKind.Done, AlertState.Done, false, true)]
    [InlineData(AlertState.Done, "me", AnswerKind.Taken, AlertState.Done, true, true)]
    [InlineData(AlertState.Done, "me", AnswerKind.Passed, AlertState.Done, true, false)]
    [InlineData(AlertState.Done, "me", AnswerKind.Declined, AlertState.Done, true, true)]
    [InlineData(AlertState.Done, "me", AnswerKind.Later, AlertState.Done, true, false)]
    [InlineData(AlertState.Done, "me", AnswerKind.Done, AlertState.Done, true, false)]
    [InlineData(AlertState.Withdrawn, "me", AnswerKind.Taken, AlertState.Withdrawn, true, true)]
    [InlineData(AlertState.Withdrawn, "me", AnswerKind.Passed, AlertState.Withdrawn, true, false)]
    [InlineData(AlertState.Withdrawn, "me", AnswerKind.Done, AlertState.Withdrawn, true, false)]
    public void An_answer_is_taken_refused_or_noted_as_the_table_says(
        AlertState state,
        string person,
        AnswerKind kind,
        AlertState after,
        bool refused,
        bool noted
    )
    {
        var one = new Case().In(state);
        var holder = one.Alert.TakenBy;
        var said = one.Say(kind, person, Noon + (2 * Minute), aim: "person:other", until: Noon + Hour);
        Assert.Equal((after, refused, noted), (one.Alert.State, said.Problem is not null, said.Noted));
        Assert.Equal(refused, said.Conflict);
        Assert.Equal(
            after switch
            {
                AlertState.Taken when refused || state == AlertState.Taken => holder,
                AlertState.Taken => person,
                AlertState.Done => holder ?? person,
                _ => state == AlertState.Withdrawn ? null
                : holder is not null && after == AlertState.Open ? null
                : holder,
            },
            one.Alert.TakenBy
        );
    }

    [Fact]
    public void Steps_count_from_the_raising_and_back_from_the_due_time() => Assert.Equal([(1, 10d), (2, 60d), (3, 300d)], new Case().Ahead);

    [Fact]
    public void While_all_messages_are_held_the_clock_stands_and_only_the_due_time_counts()
    {
        var one = new Case(held: Noon + Hour);
        Assert.Equal([(1, 70d), (2, 120d), (3, 300d)], one.Ahead);
        Assert.False(one.Alert.Lapse([], Noon + Hour + (29 * Minute)));
        Assert.True(one.Alert.Lapse([], Noon + Hour + (30 * Minute)));
    }

    [Fact]
    public void A_step_that_is_not_held_lets_the_clock_run_again()
    {
        var one = new Case(held: Noon + (10 * Hour));
        one.Fire(3, Noon + (5 * Hour));
        Assert.Equal([(1, 310d), (2, 360d)], one.Ahead);
    }

    [Fact]
    public void A_pause_moves_what_the_clock_counts_and_nothing_else()
    {
        var one = new Case();
        one.Alert.Hold(7, Noon + (5 * Minute));
        Assert.False(one.Alert.Lapse([], Noon + (20 * Hour)));
        one.Alert.Resume(one.Steps, one.Facts, Noon + (35 * Minute));
        Assert.Equal([(1, 40d), (2, 90d), (3, 300d)], one.Ahead);
        Assert.Equal((null, null, 30 * Minute), (one.Alert.PausedBy, one.Alert.StoppedAt, one.Alert.Stood));
    }

    [Fact]
    public void Standing_for_two_reasons_at_once_counts_once()
    {
        var one = new Case(held: Noon + (20 * Minute));
        one.Alert.Hold(7, Noon + (10 * Minute));
        one.Alert.Resume(one.Steps, one.Facts, Noon + (30 * Minute));
        Assert.Equal(30 * Minute, one.Alert.Stood);
        one.Say(AnswerKind.Taken, "me", Noon + (31 * Minute), within: Hour);
        one.Alert.Hold(8, Noon + (32 * Minute));
        one.Alert.Resume(one.Steps, one.Facts, Noon + (42 * Minute));
        Assert.Equal(Noon + (101 * Minute), one.Alert.DoneBy);
        one.Alert.Late(one.Steps, one.Facts, Noon + (101 * Minute));
        Assert.Equal(100 * Minute, one.Alert.Stood);
        Assert.Equal([(1, 110d), (2, 160d), (3, 300d)], one.Ahead);
    }

    [Fact]
    public void What_was_taken_and_is_not_done_by_its_time_burns_on_with_the_holder_told_first()
    {
        var one = new Case();
        one.Say(AnswerKind.Taken, "me", Noon + (4 * Minute), within: Hour);
        Assert.Equal(Noon + (64 * Minute), one.Alert.DoneBy);
        one.Alert.Late(one.Steps, one.Facts, Noon + (65 * Minute));
        Assert.Equal((AlertState.Open, null), (one.Alert.State, one.Alert.TakenBy));
        Assert.Equal(
            ("person:me", Noon + (65 * Minute), StepCause.Due),
            one.Steps.Where(s => s.Aim is not null).Select(s => (s.Aim!.Key, s.DueAt, s.Cause)).Single()
        );
        Assert.Equal([(1, 71d), (2, 121d), (3, 300d)], one.Ahead);
    }

    [Fact]
    public void Put_off_at_most_twice_and_not_beyond_the_due_time()
    {
        var one = new Case();
        Assert.NotNull(one.Say(AnswerKind.Later, "me", Noon, until: Noon).Problem);
        Assert.NotNull(one.Say(AnswerKind.Later, "me", Noon, until: Noon + (7 * Hour)).Problem);
        Assert.NotNull(one.Say(AnswerKind.Later, "me", Noon, until: Noon + (6 * Hour) + Duration.Epsilon).Problem);
        Assert.Null(new Case().Say(AnswerKind.Later, "me", Noon, until: Noon + (6 * Hour)).Problem);
        Assert.Null(one.Say(AnswerKind.Later, "me", Noon, until: Noon + Hour).Problem);
        Assert.Equal((AlertState.Taken, "me", Noon + Hour), (one.Alert.State, one.Alert.TakenBy, one.Alert.DoneBy));
        Assert.Null(one.Say(AnswerKind.Later, "me", Noon, until: Noon + (2 * Hour)).Problem);
        Assert.Contains("twice", one.Say(AnswerKind.Later, "me", Noon, until: Noon + (3 * Hour)).Problem);
    }

    [Fact]
    public void Passing_on_tells_the_other_at_once_and_begins_the_ladder_anew()
    {
        var one = new Case();
        one.Fire(1, Noon + (10 * Minute));
        one.Say(AnswerKind.Passed, "me", Noon + (20 * Minute), aim: "team:desk");
        Assert.Equal(
            [(0, null), (1, null), (2, "team:desk"), (3, null), (4, null), (5, null)],
            one.Steps.OrderBy(s => s.Index).Select(s => (s.Index, s.Aim?.Key))
        );
        Assert.Equal([(1, 30d), (2, 80d), (3, 300d)], one.Ahead);
        Assert.Equal(StepCause.Passed, one.Steps.Single(s => s.Aim is not null).Cause);
    }

    [Fact]
    public void When_the_holder_declines_or_is_gone_the_next_step_fires_at_once()
    {
        foreach (var gone in new[] { false, true })
        {
            var one = new Case().In(AlertState.Taken);
            if (gone)
            {
                one.Alert.HolderGone(one.Steps, one.Facts, Noon + (5 * Minute));
            }
            else
            {
                one.Say(AnswerKind.Declined, "holder", Noon + (5 * Minute));
            }

            Assert.Equal([(1, 5d), (2, 64d), (3, 300d)], one.Ahead);
            Assert.Equal((StepCause.Declined, true), one.Steps.Where(s => s.Rung == 1).Select(s => (s.Cause, s.PulledForward)).Single());
        }
    }

    [Fact]
    public void When_all_who_were_told_decline_the_next_step_fires_at_once()
    {
        var one = new Case();
        one.Say(AnswerKind.Declined, "me", Noon + Minute);
        Assert.Equal(10d, one.Ahead.First().At);
        one.Say(AnswerKind.Declined, "you", Noon + (2 * Minute), nobodyLeft: true);
        Assert.Equal(2d, one.Ahead.First().At);
    }

    [Fact]
    public void A_new_due_time_moves_what_counts_from_it_and_pulls_the_next_step_forward()
    {
        var one = new Case();
        one.Facts = one.Facts with { Due = Noon + (8 * Minute) };
        one.Alert.Time(one.Steps, one.Facts, Noon + Minute);
        Assert.Equal([(1, 8d), (2, 60d), (3, 1d)], one.Ahead);
        Assert.Equal(StepCause.OrderDue, one.Steps.Single(s => s.Rung == 1).Cause);
        one.Facts = one.Facts with { Due = null };
        one.Alert.Time(one.Steps, one.Facts, Noon + Minute);
        Assert.Equal([(1, 10d), (2, 60d)], one.Ahead);
        one.Facts = one.Facts with { Due = Noon + (3 * Hour) };
        one.Alert.Time(one.Steps, one.Facts, Noon + Minute);
        Assert.Equal([(1, 10d), (2, 60d), (3, 120d)], one.Ahead);
        Assert.Equal(one.Steps.Count, one.Steps.Select(s => s.Index).Distinct().Count());
    }

    // A step that fired before the alert was passed on is no step of the ladder that began with it.
    [Fact]
    public void After_passing_on_a_due_time_that_comes_back_brings_its_step_though_it_fired_before()
    {
        var one = new Case();
        one.Fire(3, Noon + (5 * Minute));
        one.Say(AnswerKind.Passed, "me", Noon + (20 * Minute), aim: "team:desk");
        foreach (var (due, ahead) in new (Instant?, (int, double)[])[] { (null, [(1, 30d), (2, 80d)]), (Noon + (4 * Hour), [(1, 30d), (2, 80d), (3, 180d)]) })
        {
            one.Facts = one.Facts with { Due = due };
            one.Alert.Time(one.Steps, one.Facts, Noon + (21 * Minute));
            Assert.Equal(ahead, one.Ahead);
        }
    }

    [Fact]
    public void Whoever_is_told_again_because_they_are_late_begins_no_ladder_anew()
    {
        var one = new Case().In(AlertState.Taken);
        one.Alert.Late(one.Steps, one.Facts, Noon + (5 * Minute));
        var ahead = one.Ahead.ToArray();
        one.Alert.Time(one.Steps, one.Facts, Noon + (6 * Minute));
        Assert.Equal(3, ahead.Length);
        Assert.Equal(ahead, one.Ahead);
    }

    // Two look at one alert, and the second read the clock before the first wrote down that everybody declined.
    [Fact]
    public void A_step_that_fires_at_once_keeps_its_cause()
    {
        var one = new Case();
        one.Say(AnswerKind.Declined, "me", Noon + Minute, nobodyLeft: true);
        var next = one.Steps.First(s => s.FiredAt is null);
        Assert.Equal((StepCause.Declined, Noon + Minute), (next.Cause, next.DueAt));
        Alert.Hurry(one.Steps, StepCause.Failed, Noon + Minute - Duration.FromMilliseconds(1));
        Assert.Equal((StepCause.Declined, Noon + Minute), (next.Cause, next.DueAt));
    }

    [Theory]
    [InlineData(AlertState.Taken)]
    [InlineData(AlertState.Done)]
    [InlineData(AlertState.Withdrawn)]
    public void A_new_due_time_moves_nothing_while_the_clock_stands_or_after_the_end(AlertState state)
    {
        var one = new Case().In(state);
        one.Alert.Time(one.Steps, one.Facts with { Due = Noon + (8 * Minute) }, Noon + (2 * Minute));
        Assert.Equal([(1, 10d), (2, 60d), (3, 300d)], one.Ahead);
    }

    [Fact]
    public void Only_a_step_before_the_due_time_is_skipped_whichever_it_is()
    {
        static LadderStep On(StepClock clock) => new(clock, Hour, [], null, null);
        var due = Noon + (2 * Hour);
        foreach (var clock in Enum.GetValues<StepClock>())
        {
            LadderFacts Facts(Instant? at) => LadderFacts.None with { Ladder = [On(clock), On(StepClock.After)], Due = at };
            string?[] Skipped(int rung, Instant? at) =>
                [
                    .. new[] { due, due + Alert.Grace, due + Alert.Grace + Duration.Epsilon }.Select(now =>
                        Alert.Skips(new AlertStep { Rung = rung }, Facts(at), now)
                    ),
                ];
            Assert.Equal([null, null, clock == StepClock.BeforeDue ? "the order's due time has passed" : null], Skipped(1, due));
            Assert.All([.. Skipped(0, due), .. Skipped(2, due), .. Skipped(3, due), .. Skipped(1, null)], Assert.Null);
        }
    }

    [Fact]
    public void A_step_before_the_due_time_is_skipped_once_that_has_passed()
    {
        var one = new Case();
        var before = one.Steps.Single(s => s.Rung == 3);
        Assert.Null(Alert.Skips(before, one.Facts, Noon + (6 * Hour)));
        Assert.NotNull(Alert.Skips(before, one.Facts, Noon + (6 * Hour) + Alert.Grace + Minute));
        Assert.Null(Alert.Skips(one.Steps.Single(s => s.Rung == 1), one.Facts, Noon + (9 * Hour)));
    }

    [Fact]
    public void An_alert_lapses_when_its_last_wait_has_run()
    {
        var one = new Case(facts: Ladder(null, After(10 * Minute)));
        Assert.False(one.Alert.Lapse(one.Steps, Noon + (10 * Hour)));
        one.Fire(1, Noon + (10 * Minute));
        Assert.False(one.Alert.Lapse(one.Steps, Noon + (39 * Minute)));
        Assert.True(one.Alert.Lapse(one.Steps, Noon + (40 * Minute)));
        Assert.Equal((AlertState.Lapsed, Noon + (40 * Minute)), (one.Alert.State, one.Alert.EndedAt));
    }

    [Fact]
    public void A_match_that_raises_what_lapsed_opens_it_with_the_new_ladder()
    {
        var one = new Case().In(AlertState.Lapsed);
        one.Alert.Rejoin(one.Steps, Ladder(null, After(5 * Minute)), null, Noon + (11 * Hour));
        Assert.Equal((AlertState.Open, null), (one.Alert.State, one.Alert.EndedAt));
        Assert.Equal([(1, 665d)], one.Ahead);
    }

    private enum Event
    {
        Take,
        Pass,
        Decline,
        Later,
        Done,
        Late,
        Fire,
        FireHeld,
        Fail,
        Due,
        Withdraw,
        Rejoin,
        Pause,
        Resume,
        Lapse,
        Gone,
    }

    [Fact]
    public void What_is_always_true_holds_over_random_histories() =>
        Gen.Select(Gen.Select(Gen.Enum<Event>(), Gen.Int[0, 90], Gen.Int[0, 2]).Array[1, 40], Gen.Int[0, 1], Gen.Int[0, 600])
            .Sample(
                (history, heldFirst, due) =>
                {
                    var one = new Case(
                        heldFirst == 0 ? null : Noon + (15 * Minute),
                        Ladder(
                            due < 60 ? null : Noon + (due * Minute),
                            After(10 * Minute),
                            After(30 * Minute, StepClock.AfterWorking),
                            After(20 * Minute, StepClock.BeforeDue) with
                            {
                                Repeat = new StepRepeat(1, 5 * Minute),
                            },
                            After(Hour)
                        )
                    );
                    var (alert, now, fired, ended) = (one.Alert, Noon, new HashSet<AlertStep>(one.Steps.Where(s => s.FiredAt is not null)), (AlertState?)null);
                    foreach (var (what, minutes, who) in history)
                    {
                        now += minutes * Minute;
                        var (before, person) = (
                            alert.State,
                            who == 0 ? "a"
                            : who == 1 ? "b"
                            : "c"
                        );
                        switch (what)
                        {
                            case Event.Take:
                                one.Say(AnswerKind.Taken, person, now, within: 40 * Minute);
                                break;
                            case Event.Pass:
                                one.Say(AnswerKind.Passed, person, now, aim: "person:z");
                                break;
                            case Event.Decline:
                                one.Say(AnswerKind.Declined, person, now, nobodyLeft: who == 0);
                                break;
                            case Event.Later:
                                one.Say(AnswerKind.Later, person, now, until: now + (15 * Minute));
                                break;
                            case Event.Done:
                                one.Say(AnswerKind.Done, person, now);
                                break;
                            case Event.Late when alert.State == AlertState.Taken && alert.PausedBy is null && alert.DoneBy <= now:
                                alert.Late(one.Steps, one.Facts, now);
                                break;
                            case Event.Gone when alert.State == AlertState.Taken && alert.PausedBy is null:
                                alert.HolderGone(one.Steps, one.Facts, now);
                                break;
                            case Event.Fire or Event.FireHeld when alert.State == AlertState.Open && alert.PausedBy is null:
                                var together = new List<(AlertStep, Instant?)>();
                                foreach (var step in one.Steps.Where(s => s.FiredAt is null && s.DueAt <= now).OrderBy(s => s.DueAt).ToArray())
                                {
                                    Assert.True(fired.Add(step), "a step fires at most once");
                                    var skipped = Alert.Skips(step, one.Facts, now) is not null;
                                    if (!skipped && step.Rung > 0 && one.Facts.Ladder[step.Rung - 1].Clock == StepClock.BeforeDue)
                                    {
                                        Assert.True(now <= one.Facts.Due + Alert.Grace, "no step before the due time after it");
                                    }

                                    if (!skipped && step is { Rung: > 0, Cause: StepCause.Due } && one.Facts.Ladder[step.Rung - 1].Clock == StepClock.After)
                                    {
                                        Assert.True(now - alert.BeganAt >= one.Facts.Ladder[step.Rung - 1].Delay, "never before its time");
                                    }

                                    together.Add((step, what == Event.FireHeld && !skipped ? now + (10 * Minute) : null));
                                }

                                if (together.Count > 0)
                                {
                                    alert.Fired(together, one.Steps, one.Facts, now);
                                }

                                break;
                            case Event.Fail when alert.State == AlertState.Open && alert.PausedBy is null:
                                Alert.Hurry(one.Steps, StepCause.Failed, now);
                                break;
                            case Event.Due:
                                one.Facts = one.Facts with { Due = who == 0 ? null : now + (who * Hour) };
                                alert.Time(one.Steps, one.Facts, now);
                                break;
                            case Event.Withdraw when !alert.Ended && who == 0:
                                alert.Withdraw(now);
                                break;
                            case Event.Rejoin when !alert.Ended && alert.State != AlertState.Taken:
                                alert.Rejoin(one.Steps, one.Facts, null, now);
                                break;
                            case Event.Pause when alert.State is AlertState.Open or AlertState.Taken && alert.PausedBy is null:
                                alert.Hold(1, now);
                                break;
                            case Event.Resume when alert.PausedBy is not null:
                                alert.Resume(one.Steps, one.Facts, now);
                                break;
                            case Event.Lapse:
                                alert.Lapse(one.Steps, now);
                                break;
                        }

                        Assert.True(ended is null || alert.State == ended, "done and withdrawn are left by nothing");
                        ended = alert.Ended ? alert.State : null;
                        Assert.True(
                            alert.State != AlertState.Lapsed || before == AlertState.Lapsed || (alert.PausedBy is null && alert.WaitsUntil <= now),
                            "a held alert never lapses"
                        );
                        Assert.Equal(alert.State is AlertState.Done or AlertState.Withdrawn or AlertState.Lapsed, alert.EndedAt is not null);
                        Assert.True(
                            alert.State switch
                            {
                                AlertState.Taken => alert.TakenBy is not null,
                                AlertState.Open => alert.TakenBy is null,
                                _ => true,
                            },
                            "whoever has it is known, and nobody has what is open"
                        );
                        Assert.True(
                            alert.Stood >= Duration.Zero && alert.Stood <= Instant.Max(now, alert.HeldUntil ?? now) - alert.BeganAt,
                            "its clock never stood longer than it was raised"
                        );
                        Assert.Equal(one.Steps.Count, one.Steps.Select(s => s.Index).Distinct().Count());
                        Assert.True(fired.IsSubsetOf(one.Steps), "what fired stays as proof");
                        Assert.All(one.Steps.Where(s => s.FiredAt is null), s => Assert.True(s.DueAt >= alert.BeganAt));
                    }
                },
                iter: 20_000
            );
}
