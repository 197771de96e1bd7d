using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Ladders;

/// <summary>
/// Histories drawn by a seed, kept event by event as they were found good: what an alert says to each answer, where it stands, and when its steps come. Times
/// are minutes from when it was raised. What is always true of them, and the table row by row, stand beside it.
/// </summary>
public sealed class AlertHistoriesSweepTests
{
    private static readonly Duration Minute = Duration.FromMinutes(1);

    private static readonly WorkingHours Until13 = new(
        [new Sirena.Core.People.WeeklySpan([.. Enum.GetValues<IsoDayOfWeek>().Where(d => d != IsoDayOfWeek.None)], new LocalTime(9, 0), new LocalTime(13, 0))],
        System.Collections.Frozen.FrozenSet<LocalDate>.Empty,
        Lisbon
    );

    private static LadderStep Step(int minutes, StepClock clock = StepClock.After, int times = 0) =>
        new(clock, minutes * Minute, [], null, null) { Repeat = times == 0 ? null : new StepRepeat(times, 5 * Minute) };

    private static readonly LadderStep[][] Ladders =
    [
        [Step(10), Step(60)],
        [Step(10), Step(40, StepClock.AfterWorking), Step(30, StepClock.BeforeDue)],
        [Step(5, times: 2), Step(20, StepClock.BeforeDue, times: 1), Step(90)],
        [Step(0), Step(30, StepClock.AfterWorking, times: 2)],
        [],
    ];

    private static string At(Instant? at) => at is { } i ? $"{(i - Noon).TotalMinutes:0.#}" : "-";

    private static string Of(Alert alert, IEnumerable<AlertStep> steps) =>
        string.Concat(
            alert.State,
            alert.TakenBy is { } by ? $" by {by} at {At(alert.TakenAt)}, done by {At(alert.DoneBy)}" : "",
            alert.EndedAt is { } ended ? $" ended {At(ended)}" : "",
            alert.PausedBy is not null ? $" paused {At(alert.PausedAt)}" : "",
            $", began {At(alert.BeganAt)}, stood {alert.Stood.TotalMinutes:0.#}, stopped {At(alert.StoppedAt)}, held {At(alert.HeldUntil)}, waits {At(alert.WaitsUntil)}, put off {alert.PutOff}; ",
            string.Join(
                ' ',
                steps
                    .OrderBy(s => s.Index)
                    .Select(s =>
                        $"{s.Index}/{(s.Aim is null ? $"{s.Rung}" : "aimed")}@{At(s.DueAt)}{(s.FiredAt is null ? "" : $"!{At(s.FiredAt)}")}{(s.Cause == StepCause.Due ? "" : $"({s.Cause})")}"
                    )
            )
        );

    // What happens next: an answer, or what else changes an alert; what it says, where it answers.
    private static string Happen(Random chance, Alert alert, List<AlertStep> steps, ref LadderFacts facts, Instant now)
    {
        var (person, ladder) = (Any(chance, "a", "a", "b"), facts);
        switch (chance.Next(16))
        {
            case 0 or 1:
                return Say(new AnswerGiven(AnswerKind.Taken, person, Any(chance, Duration.Zero, 20 * Minute)));
            case 2:
                return Say(new AnswerGiven(AnswerKind.Passed, person) { Aim = Recipient.Parse(Any(chance, "person:z", "team:desk")) });
            case 3:
                return Say(new AnswerGiven(AnswerKind.Declined, person) { NobodyLeft = chance.Next(2) == 0 });
            case 4:
                return Say(new AnswerGiven(AnswerKind.Later, person) { Until = Any<Instant?>(chance, now + (15 * Minute), now, null, now + (300 * Minute)) });
            case 5 when chance.Next(3) == 0:
                return Say(new AnswerGiven(AnswerKind.Done, person));
            case 6 when alert.State == AlertState.Taken && alert.PausedBy is null:
                if (chance.Next(2) == 0)
                {
                    alert.Late(steps, facts, now);
                    return "late";
                }

                alert.HolderGone(steps, facts, now);
                return "holder gone";
            case 7 when alert.State == AlertState.Open:
                Alert.Hurry(steps, StepCause.Failed, now);
                return "failed";
            case 8:
                facts = facts with { Due = Any<Instant?>(chance, null, now + (25 * Minute), now + (120 * Minute)), Pull = chance.Next(2) == 0 };
                alert.Time(steps, facts, now);
                return $"due {At(facts.Due)}{(facts.Pull ? " pulls" : "")}";
            case 9 when !alert.Ended && alert.State != AlertState.Taken:
                var held = Any<Instant?>(chance, null, now + (8 * Minute));
                alert.Rejoin(steps, facts, held, now);
                return $"joined again, held {At(held)}";
            case 10 when !alert.Ended && alert.PausedBy is null:
                alert.Hold(1, now);
                return "paused";
            case 11 when alert.PausedBy is not null:
                alert.Resume(steps, facts, now);
                return "resumed";
            case 12 when !alert.Ended && chance.Next(4) == 0:
                alert.Withdraw(now);
                return "withdrawn";
            case 13:
                return alert.Lapse(steps, now) ? "lapsed" : "does not lapse";
        }

        if (alert.State != AlertState.Open || alert.PausedBy is not null)
        {
            return "nothing";
        }

        var due = steps.Where(s => s.FiredAt is null && s.DueAt <= now).OrderBy(s => s.DueAt).ToArray();
        if (due.Length == 0)
        {
            return "nothing is due";
        }

        alert.Fired([.. due.Select(s => (s, chance.Next(3) == 0 ? (Instant?)(now + (10 * Minute)) : null))], steps, facts, now);
        return string.Join(", ", due.Select(s => $"fires {s.Index}{(Alert.Skips(s, ladder, now) is { } why ? $": {why}" : "")}"));

        string Say(AnswerGiven given)
        {
            var said = alert.Answer(given, steps, ladder, now, id => $"[{id}]");
            return $"{given.Kind} by {person}{(said.Noted ? "" : ", not noted")}{(said.Conflict ? ", conflict" : "")}{(said.Problem is { } problem ? $", {problem}" : "")}";
        }
    }

    [Fact]
    public void Histories_go_as_they_went()
    {
        var (chance, told) = (new Random(25), new List<string>());
        for (var history = 1; history <= 100; history++)
        {
            var facts = new LadderFacts(
                Any(chance, Ladders),
                Any<Instant?>(chance, null, Noon + (50 * Minute), Noon + (200 * Minute)),
                chance.Next(2) == 0,
                _ => Until13
            );
            var (alert, steps, now) = (
                new Alert
                {
                    RuleId = "r",
                    Case = "c",
                    Urgency = Any(chance, Enum.GetValues<Urgency>()),
                    RaisedAt = Noon,
                    BeganAt = Noon,
                },
                new List<AlertStep>(),
                Noon
            );
            alert.Begin(steps, facts, now);
            var first = new AlertStep { Index = 0, DueAt = now };
            steps.Add(first);
            alert.Fired([(first, Any<Instant?>(chance, null, null, Noon + (12 * Minute)))], steps, facts, now);
            told.Add($"{history}: {alert.Urgency}, due {At(facts.Due)}{(facts.Pull ? ", pulls" : "")}: {Of(alert, steps)}");
            for (var i = 0; i < 9; i++)
            {
                now += Any(chance, 0, 0, 1, 5, 10, 20, 45, 120) * Minute;
                var what = Happen(chance, alert, steps, ref facts, now);
                told.Add($"  {At(now)} {what}: {Of(alert, steps)}");
            }
        }

        Kept.Same("alert-histories", told);
    }
}
