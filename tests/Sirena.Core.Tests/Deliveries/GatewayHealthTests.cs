using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Core.Tests.Deliveries;

/// <summary>What is known of a gateway after each message, to the second and the last try.</summary>
public sealed class GatewayHealthTests
{
    private static readonly Instant T = Build.Noon;
    private static readonly HandOver Taken = new(AttemptOutcome.Accepted, "250", "taken");

    private static Instant At(double seconds) => T + Duration.FromSeconds(seconds);

    private static HandOver Said(Blame blame, string reply = "no", Duration? wait = null) =>
        new(AttemptOutcome.Temporary, "450", reply) { Blame = blame, RetryAfter = wait };

    private static GatewayHealth After(GatewayHealth health, int message, HandOver said, double at, string? address = null) =>
        health.After(new Guid(message, 0, 0, new byte[8]), address ?? $"m{message}@a.example", said, At(at));

    private static GatewayHealth Failing(int times)
    {
        var health = GatewayHealth.New;
        for (var i = 0; i < times; i++)
        {
            health = After(health, i, Said(Blame.Gateway), 0);
            health = health with { TrialsLeft = 0 };
        }

        return health;
    }

    [Fact]
    public void Nothing_is_known_of_a_new_one()
    {
        Assert.True(GatewayHealth.New.Works);
        Assert.False(GatewayHealth.New.Passes);
        Assert.Null(GatewayHealth.New.Tried(T));
        Assert.Null(GatewayHealth.New.PutOffSince(Guid.Empty));
        Assert.False(GatewayHealth.New.Believed("a@a.example"));
    }

    [Theory]
    [InlineData(1, 5)]
    [InlineData(2, 20)]
    [InlineData(3, 60)]
    [InlineData(4, 300)]
    [InlineData(9, 300)]
    public void Its_pauses_grow_to_five_minutes(int failures, int seconds)
    {
        var health = Failing(failures);
        Assert.Equal(T, health.FailingSince);
        Assert.Equal(At(seconds), health.RetryAt);
        Assert.Null(health.Tried(At(seconds - 0.001)));
        Assert.NotNull(health.Tried(At(seconds)));
    }

    [Fact]
    public void Three_messages_that_try_it_at_once_are_one_failure()
    {
        var tried = Failing(1).Tried(At(5))!.Tried(At(5))!.Tried(At(5))!;
        Assert.Equal(0, tried.TrialsLeft);
        var health = After(tried, 1, Said(Blame.Gateway, "one"), 6);
        Assert.Equal(At(26), health.RetryAt);

        var first = Failing(1).Tried(At(5))!;
        Assert.Equal(GatewayHealth.TrialsAtOnce - 1, first.TrialsLeft);
        Assert.Equal(At(6 + 5), After(first, 1, Said(Blame.Gateway), 6).RetryAt);
    }

    [Fact]
    public void It_keeps_since_when_it_fails_and_says_the_newest_reason()
    {
        var health = After(After(GatewayHealth.New, 1, Said(Blame.Gateway, "closed"), 1), 2, Said(Blame.Gateway, "still closed"), 40);
        Assert.Equal(At(1), health.FailingSince);
        Assert.Equal("still closed", health.Because);
    }

    [Fact]
    public void One_message_taken_makes_it_whole()
    {
        var health = After(Failing(3), 7, Taken, 90);
        Assert.True(health.Works);
        Assert.True(health.Passes);
        Assert.Null(health.Because);
        Assert.Equal(At(100 + 5), After(health, 8, Said(Blame.Gateway), 100).RetryAt);
    }

    [Fact]
    public void It_rests_as_long_as_it_asks_for_but_no_longer_than_a_day()
    {
        var asked = After(GatewayHealth.New, 1, Said(Blame.Gateway, wait: Duration.FromSeconds(90)), 10);
        Assert.Equal(At(100), asked.RestsUntil);
        Assert.True(asked.Works);
        Assert.Equal(At(10) + Duration.FromDays(1), After(asked, 1, Said(Blame.None, wait: Duration.FromDays(30)), 10).RestsUntil);
    }

    [Theory]
    [InlineData(Blame.Size)]
    [InlineData(Blame.Content)]
    [InlineData(Blame.Policy)]
    public void What_it_does_not_like_about_a_message_says_that_it_works(Blame blame)
    {
        var health = After(GatewayHealth.New with { Passes = true }, 1, Said(blame), 0);
        Assert.True(health.Works);
        var again = After(Failing(2) with { Passes = true }, 1, Said(blame), 60);
        Assert.True(again.Works);
        Assert.True(again.Passes);
        Assert.False(After(Failing(2), 1, Said(blame), 60).Passes);
        Assert.Equal(At(70 + 5), After(again, 2, Said(Blame.Gateway), 70).RetryAt);
    }

    [Fact]
    public void A_refused_address_says_that_one_that_has_taken_messages_works()
    {
        Assert.True(After(Failing(1) with { Passes = true }, 1, Said(Blame.Address), 60).Works);
        Assert.False(After(Failing(1), 1, Said(Blame.Address), 60).Works);
        Assert.Null(After(Failing(1) with { Passes = true }, 1, Said(Blame.Address), 60).Because);
    }

    [Fact]
    public void An_address_that_is_refused_again_is_one_and_however_it_is_written()
    {
        var health = GatewayHealth.New with { Passes = true };
        foreach (var (n, address) in new[] { (1, "One@a.example"), (2, "one@A.example"), (3, "ONE@A.EXAMPLE") })
        {
            health = After(health, n, Said(Blame.Address), n, address);
        }

        Assert.True(health.Works);
        Assert.Equal(new Guid(3, 0, 0, new byte[8]), Assert.Single(health.Refused).Value);
        Assert.True(health.Believed("one@a.EXAMPLE"));
        Assert.False(health.Believed("two@a.example"));
        Assert.False((health with { Passes = false }).Believed("one@a.example"));
        Assert.False(After(health, 4, Said(Blame.Address), 9).Believed("one@a.example"));
    }

    [Fact]
    public void A_message_that_is_put_off_is_remembered_since_when()
    {
        var health = After(After(GatewayHealth.New, 1, Said(Blame.Mailbox), 3), 1, Said(Blame.Mailbox), 30);
        Assert.Equal(At(3), health.PutOffSince(new Guid(1, 0, 0, new byte[8])));
        Assert.True(After(health, 1, Said(Blame.Mailbox), 62.9).Works);
        var failing = After(health, 1, Said(Blame.Mailbox, "busy"), 63);
        Assert.False(failing.Works);
        Assert.Equal("it puts messages off: busy", failing.Because);
        Assert.Null(failing.Changed().PutOffSince(new Guid(1, 0, 0, new byte[8])));
    }

    [Fact]
    public void One_that_fails_and_puts_off_whoever_tries_it_goes_on_failing_for_its_own_reason()
    {
        var health = After(After(GatewayHealth.New, 1, Said(Blame.Gateway, "closed"), 0), 2, Said(Blame.Mailbox, "busy"), 6);
        Assert.False(health.Works);
        Assert.Equal("closed", health.Because);
        Assert.Equal(At(6 + 20), health.RetryAt);
    }

    [Fact]
    public void A_line_that_breaks_twice_is_a_failure_and_a_message_between_makes_it_one()
    {
        var once = After(GatewayHealth.New, 1, Said(Blame.None), 0);
        Assert.True(once.Works);
        Assert.False(After(once, 2, Said(Blame.None), 1).Works);
        Assert.True(After(After(once, 2, Taken, 1), 3, Said(Blame.None), 2).Works);
        Assert.True(After(once.Changed(), 2, Said(Blame.None), 1).Works);
        var twice = After(once, 2, Said(Blame.None), 1);
        Assert.False(After(twice, 3, Said(Blame.None), 7).Works);
        Assert.True(After(After(twice, 3, Taken, 7), 4, Said(Blame.None), 8).Works);
    }

    [Fact]
    public void With_other_settings_it_is_tried_at_once_and_has_to_show_anew_that_it_passes()
    {
        var health = After(Failing(4) with { Passes = true, TrialsLeft = 2 }, 1, Said(Blame.Address), 0).Changed();
        Assert.Empty(health.Refused);
        Assert.False(health.Passes);
        Assert.Equal(0, health.TrialsLeft);
        var failing = Failing(4).Changed();
        Assert.False(failing.Works);
        Assert.NotNull(failing.Tried(T));
    }

    [Theory]
    [InlineData(AttemptOutcome.Gateway, Blame.Gateway)]
    [InlineData(AttemptOutcome.Permanent, Blame.Address)]
    [InlineData(AttemptOutcome.Temporary, Blame.Mailbox)]
    [InlineData(AttemptOutcome.Accepted, Blame.None)]
    public void Who_says_nothing_of_whose_fault_it_was_means_the_usual(AttemptOutcome outcome, Blame blame) =>
        Assert.Equal(blame, new HandOver(outcome, null, "").Blame);
}
