using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Core.Tests.Deliveries;

/// <summary>What is done with a message after a try (semantics 45), every row of it.</summary>
public class CourseTests
{
    private static readonly bool[] Both = [false, true];

    private static HandOver Said(Blame blame, AttemptOutcome outcome = AttemptOutcome.Temporary, Duration? wait = null) =>
        new(outcome, "x", "x") { Blame = blame, RetryAfter = wait };

    [Theory]
    [InlineData(Blame.Size, false, false, false, false, Course.Bare)]
    [InlineData(Blame.Size, true, true, true, true, Course.Refused)]
    [InlineData(Blame.Policy, false, false, true, false, Course.Next)]
    [InlineData(Blame.Policy, false, false, false, true, Course.Refused)]
    [InlineData(Blame.Content, false, false, true, true, Course.Refused)]
    [InlineData(Blame.Gateway, false, false, false, true, Course.Over)]
    [InlineData(Blame.Gateway, false, false, true, false, Course.Usual)]
    [InlineData(Blame.Mailbox, false, false, true, true, Course.Usual)]
    [InlineData(Blame.None, false, false, true, true, Course.Usual)]
    public void Whoever_is_to_blame_decides_what_is_done(Blame blame, bool bare, bool believed, bool othersLeft, bool othersWork, Course course) =>
        Assert.Equal(course, Course.After(Said(blame), bare, believed, othersLeft, othersWork));

    // An address is given up only where the gateway that refuses it is believed, or where no other that works could be asked.
    [Theory]
    [InlineData(false, true, true, Course.Next)]
    [InlineData(true, true, true, Course.Refused)]
    [InlineData(false, false, true, Course.Refused)]
    [InlineData(false, true, false, Course.Refused)]
    public void A_refused_address_is_asked_of_another_gateway_before_it_is_given_up(bool believed, bool othersLeft, bool othersWork, Course course) =>
        Assert.Equal(course, Course.After(Said(Blame.Address, AttemptOutcome.Permanent), bare: true, believed, othersLeft, othersWork));

    [Fact]
    public void An_address_that_is_only_not_ready_is_tried_again() =>
        Assert.Equal(Course.Usual, Course.After(Said(Blame.Address), bare: true, believed: false, othersLeft: true, othersWork: true));

    [Fact]
    public void What_was_taken_is_left_alone_whoever_is_blamed()
    {
        foreach (var blame in Enum.GetValues<Blame>())
        {
            foreach (var (a, b, c) in Both.SelectMany(a => Both.SelectMany(b => Both.Select(c => (a, b, c)))))
            {
                Assert.Equal(Course.Usual, Course.After(Said(blame, AttemptOutcome.Accepted, Duration.FromMinutes(1)), a, b, c, othersWork: true));
            }
        }
    }

    [Theory]
    [InlineData(true, Course.Over)]
    [InlineData(false, Course.Usual)]
    public void A_far_end_that_asks_to_wait_is_left_for_one_that_works(bool othersWork, Course course) =>
        Assert.Equal(course, Course.After(Said(Blame.Mailbox, wait: Duration.FromMinutes(5)), bare: false, believed: false, othersLeft: true, othersWork));
}
