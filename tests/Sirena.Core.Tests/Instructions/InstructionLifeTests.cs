using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.People;

namespace Sirena.Core.Tests.Instructions;

/// <summary>The states of an instruction, over random interleavings of what comes from the order system, from events and from people.</summary>
public sealed class InstructionLifeTests
{
    private static readonly Instant Begin = Instant.FromUtc(2026, 11, 24, 8, 0);

    private static Instruction New(InstructionWait? waits = null) =>
        new()
        {
            Id = Guid.NewGuid(),
            Source = "s",
            Lane = "order 1",
            Kind = "hold",
            With = "{}",
            By = "x",
            AskedAt = Begin,
            DueAt = Begin,
            Deadline = Begin + Instruction.UsualDeadline,
            Waits = waits,
        };

    [Fact]
    public void No_instruction_is_done_that_nothing_showed_and_none_that_was_done_is_undone()
    {
        var chance = new Random(16);
        for (var run = 0; run < 20_000; run++)
        {
            var one = New(chance.Next(4) == 0 ? InstructionWait.SecondYes : null);
            var (shown, now) = (false, Begin);
            for (var i = 0; i < 12; i++)
            {
                now += Duration.FromSeconds(chance.Next(1, 200));
                var (before, waited) = (one.State, one.Waits);
                var counted = chance.Next(9) switch
                {
                    0 => one.Take(now, "ok"),
                    1 => one.Refuse(now, "no"),
                    2 => See(now, chance.Next(2) == 0 ? 7 : null),
                    3 => one.Unsee(now),
                    4 => one.Fail(now, "away"),
                    5 => one.Drop(now, "stop"),
                    6 => one.Go(now, "me"),
                    7 => one.Handed = one.State == InstructionState.Asked && one.Waits is null || one.Handed,
                    _ => false,
                };
                bool See(Instant at, long? happened)
                {
                    var seen = one.See(at, happened);
                    shown |= seen;
                    return seen;
                }

                Assert.True(one.State != InstructionState.Seen || shown, "done without anything that showed it");
                Assert.True(before != InstructionState.Seen || one.State == InstructionState.Seen, "what was done came undone");
                Assert.True(before is not (InstructionState.Refused or InstructionState.Dropped) || one.State == before, "what ended goes on");
                Assert.True(
                    waited is null || one.State is InstructionState.Asked or InstructionState.Dropped || one.Waits is null,
                    "what waits for a yes went without it"
                );
                Assert.True(
                    !counted || one.State != InstructionState.Dropped || before is InstructionState.Asked or InstructionState.Dropped,
                    "what had gone was stopped"
                );
                Assert.Equal(one.State == InstructionState.Seen, one.SeenAt is not null);
                Assert.Equal(one.UnderWay || one.State == InstructionState.Seen, one.EndedAt is null);
            }
        }
    }

    [Fact]
    public void It_is_unseen_at_its_time_and_not_before_and_may_be_seen_after()
    {
        var one = New();
        one.Handed = true;
        Assert.True(one.Take(Begin, "ok"));
        Assert.False(one.Unsee(Begin + Instruction.UsualSight - Duration.Epsilon));
        Assert.True(one.Unsee(Begin + Instruction.UsualSight));
        Assert.Equal("instruction.unseen", one.News);
        Assert.True(one.See(Begin + Duration.FromMinutes(9), 4));
        Assert.Null(one.News);
    }

    [Fact]
    public void What_was_not_given_out_is_not_shown_by_an_event_that_happens_to_be_so()
    {
        var one = New();
        Assert.False(one.See(Begin, 4));
        one.Handed = true;
        Assert.True(one.See(Begin, 4));
    }

    [Fact]
    public void A_choice_leaves_out_customer_or_staff_and_makes_no_fault_of_it()
    {
        var who = new Resolution(
            [
                new Told("ines.calder", Core.Deliveries.Channel.Mail, "i@x.example", "named"),
                new Told(null, Core.Deliveries.Channel.Mail, "c@x.example", "customer", Customer: true),
            ],
            [],
            [new LeftOut("kitchen", "nobody is on duty", Nobody: true)]
        );
        Assert.Same(who, who.Chosen(null));
        var quiet = who.Chosen(new TellChoice(true, false, "Maren Holt"));
        Assert.Equal(("c@x.example", 0), (Assert.Single(quiet.Told).Contact, quiet.Unreached));
        Assert.Contains(quiet.Left, l => l is { Person: "ines.calder", Because: "not to be told, chosen by Maren Holt" });
        Assert.Equal("ines.calder", Assert.Single(who.Chosen(new TellChoice(false, true, "x")).Told).Person);
        Assert.Equal(1, who.Chosen(new TellChoice(false, true, "x")).Unreached);
    }

    [Theory]
    [InlineData("2026-12-24T21:59:00Z", false, "early closing", "2026-12-24T22:00:00Z")]
    [InlineData("2026-12-24T23:00:00Z", true, null, "2026-12-25T02:00:00Z")]
    [InlineData("2026-12-25T01:59:00Z", true, null, "2026-12-25T02:00:00Z")]
    [InlineData("2026-12-25T02:00:00Z", false, "outside its hours", null)]
    public void An_exception_may_end_on_the_next_day(string at, bool open, string? because, string? until)
    {
        var hours = new IntakeHours
        {
            Exceptions = [new IntakeException(new LocalDate(2026, 12, 24), new LocalTime(22, 0), new LocalTime(2, 0), "early closing")],
        };
        Instant Parse(string text) => NodaTime.Text.InstantPattern.ExtendedIso.Parse(text).Value;
        Assert.Equal((open, because, until is null ? null : Parse(until)), hours.At(Parse(at), DateTimeZone.Utc, []));
    }

    [Theory]
    [InlineData("2026-11-24T10:00:00Z", true, null, "2026-11-24T18:00:00Z")]
    [InlineData("2026-11-24T19:00:00Z", false, "outside its hours", "2026-11-25T08:00:00Z")]
    [InlineData("2026-11-25T13:30:00Z", false, "early closing", "2026-11-27T08:00:00Z")]
    [InlineData("2026-11-26T10:00:00Z", false, "Quay day", "2026-11-27T08:00:00Z")]
    [InlineData("2026-11-28T10:00:00Z", false, "outside its hours", "2026-11-30T08:00:00Z")]
    public void The_intake_is_open_by_its_hours_with_their_exceptions(string at, bool open, string? because, string until)
    {
        var hours = new IntakeHours
        {
            Open = [Core.Ladders.WorkingHours.Usual],
            Exceptions = [new IntakeException(new LocalDate(2026, 11, 25), new LocalTime(8, 0), new LocalTime(13, 0), "early closing")],
        };
        Instant Parse(string text) => NodaTime.Text.InstantPattern.ExtendedIso.Parse(text).Value;
        Assert.Equal((open, because, (Instant?)Parse(until)), hours.At(Parse(at), DateTimeZone.Utc, [new Holiday(new LocalDate(2026, 11, 26), "Quay day")]));
    }
}
