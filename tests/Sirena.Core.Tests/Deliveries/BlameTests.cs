using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Core.Tests.Deliveries;

/// <summary>Whose fault a refusal is: the table of the decision, row by row, with the words of real servers.</summary>
public sealed class BlameTests
{
    [Theory]
    [InlineData(MailStage.Recipient, 550, "5.1.1 <who@known.example>: Recipient address rejected: User unknown in virtual mailbox table", Blame.Address)]
    [InlineData(MailStage.Recipient, 550, "5.1.2 bad destination system", Blame.Address)]
    [InlineData(MailStage.Recipient, 556, "5.1.10 the domain takes no mail", Blame.Address)]
    [InlineData(MailStage.Recipient, 550, "5.2.1 mailbox disabled", Blame.Address)]
    [InlineData(MailStage.Recipient, 550, "No such user here", Blame.Address)]
    [InlineData(MailStage.Recipient, 551, "user not local", Blame.Address)]
    [InlineData(MailStage.Recipient, 553, "mailbox name not allowed", Blame.Address)]
    [InlineData(MailStage.Recipient, 450, "4.7.1 Greylisted, come back later", Blame.Mailbox)]
    [InlineData(MailStage.Recipient, 452, "4.2.2 over quota", Blame.Mailbox)]
    [InlineData(MailStage.Recipient, 552, "5.2.2 mailbox full", Blame.Mailbox)]
    [InlineData(MailStage.Recipient, 451, "local error", Blame.Mailbox)]
    [InlineData(MailStage.Message, 451, "4.3.0 try again", Blame.Mailbox)]
    [InlineData(MailStage.Sender, 552, "5.3.4 Message size exceeds fixed limit", Blame.Size)]
    [InlineData(MailStage.Message, 552, "5.3.4 Message size exceeds fixed limit", Blame.Size)]
    [InlineData(MailStage.Message, 552, "message too large", Blame.Size)]
    [InlineData(MailStage.Recipient, 552, "5.2.3 message length exceeds", Blame.Size)]
    [InlineData(MailStage.Message, 554, "5.6.0 message content rejected", Blame.Content)]
    [InlineData(MailStage.Message, 554, "no thanks", Blame.Content)]
    [InlineData(MailStage.Sender, 530, "5.7.0 Must issue a STARTTLS command first", Blame.Gateway)]
    [InlineData(MailStage.Sender, 530, "Authentication required", Blame.Gateway)]
    [InlineData(MailStage.Opening, 535, "5.7.8 authentication failed", Blame.Gateway)]
    [InlineData(MailStage.Opening, 504, "5.5.2 <x>: Helo command rejected: need fully-qualified hostname", Blame.Gateway)]
    [InlineData(MailStage.Recipient, 504, "5.5.2 <x>: Helo command rejected", Blame.Gateway)]
    [InlineData(MailStage.Sender, 550, "5.7.1 sender not allowed", Blame.Gateway)]
    [InlineData(MailStage.Sender, 503, "5.5.1 bad sequence", Blame.Gateway)]
    [InlineData(MailStage.Recipient, 421, "4.4.2 timeout exceeded", Blame.Gateway)]
    [InlineData(MailStage.Sender, 451, "4.3.0 queue file write error", Blame.Mailbox)]
    public void A_refusal_has_one_to_blame(MailStage stage, int code, string words, Blame blame) =>
        Assert.Equal(blame, new MailRefusal(stage, code, words).Whose(othersPass: true));

    [Theory]
    [InlineData("5.7.1 <a@elsewhere.example>: Relay access denied", true, Blame.Policy)]
    [InlineData("5.7.1 <a@elsewhere.example>: Relay access denied", false, Blame.Gateway)]
    [InlineData("5.7.1 Message rejected due to local policy", true, Blame.Policy)]
    public void Relaying_denied_is_a_policy_only_where_others_pass(string words, bool othersPass, Blame blame) =>
        Assert.Equal(blame, new MailRefusal(MailStage.Recipient, 554, words).Whose(othersPass));

    private static readonly Instant T = Instant.FromUtc(2026, 11, 27, 12, 0);

    private static HandOver Said(Blame blame) =>
        new(
            blame switch
            {
                Blame.Mailbox => AttemptOutcome.Temporary,
                Blame.Gateway => AttemptOutcome.Gateway,
                Blame.None => AttemptOutcome.Unknown,
                _ => AttemptOutcome.Permanent,
            },
            "1",
            $"words of {blame}"
        )
        {
            Blame = blame,
        };

    private static readonly HandOver Taken = new(AttemptOutcome.Accepted, "250", "taken");

    private static GatewayHealth Run(GatewayHealth from, params (string Message, HandOver Said, int At)[] all) =>
        all.Aggregate(from, (health, one) =>
            health.After(new Guid(one.Message.PadLeft(32, '0')), $"{one.Message}@a.example", one.Said, T + Duration.FromSeconds(one.At))
        );

    [Fact]
    public void It_fails_when_it_puts_off_three_different_messages_or_one_for_a_minute()
    {
        Assert.True(Run(GatewayHealth.New, ("1", Said(Blame.Mailbox), 0), ("1", Said(Blame.Mailbox), 5), ("2", Said(Blame.Mailbox), 6)).Works);
        Assert.False(Run(GatewayHealth.New, ("1", Said(Blame.Mailbox), 0), ("2", Said(Blame.Mailbox), 5), ("3", Said(Blame.Mailbox), 6)).Works);
        Assert.False(Run(GatewayHealth.New, ("1", Said(Blame.Mailbox), 0), ("1", Said(Blame.Mailbox), 60)).Works);
        Assert.True(
            Run(
                GatewayHealth.New,
                ("1", Said(Blame.Mailbox), 0),
                ("9", Taken, 30),
                ("1", Said(Blame.Mailbox), 60),
                ("2", Said(Blame.Mailbox), 61),
                ("9", Taken, 62),
                ("3", Said(Blame.Mailbox), 63)
            ).Works
        );
    }

    [Fact]
    public void It_fails_when_it_refuses_three_addresses_and_remembers_whom_it_refused()
    {
        var two = Run(GatewayHealth.New, ("9", Taken, 0), ("1", Said(Blame.Address), 1), ("2", Said(Blame.Address), 2));
        Assert.True(two.Works);
        Assert.True(Run(GatewayHealth.New, ("9", Taken, 0)).Believed("1@a.example"));
        Assert.False(two.Believed("3@a.example"));
        var three = Run(two, ("3", Said(Blame.Address), 3));
        Assert.False(three.Works);
        Assert.Equal(3, three.Refused.Count);
        Assert.StartsWith("it refuses everybody: ", three.Because);
        Assert.False(GatewayHealth.New.Believed("1@a.example"));
    }

    [Fact]
    public void It_fails_when_it_breaks_off_twice_and_at_once_when_it_says_so()
    {
        Assert.True(Run(GatewayHealth.New, ("1", Said(Blame.None), 0)).Works);
        Assert.False(Run(GatewayHealth.New, ("1", Said(Blame.None), 0), ("1", Said(Blame.None), 5)).Works);
        Assert.False(Run(GatewayHealth.New, ("1", Said(Blame.Gateway), 0)).Works);
    }

    [Fact]
    public void Up_to_three_messages_try_it_when_its_pause_is_over_and_one_bad_message_does_not_hold_it_down()
    {
        var failing = Run(GatewayHealth.New, ("1", Said(Blame.Gateway), 0));
        Assert.Null(failing.Tried(T + Duration.FromSeconds(4)));
        var first = failing.Tried(T + Duration.FromSeconds(5))!;
        var second = first.Tried(T + Duration.FromSeconds(5))!;
        var third = second.Tried(T + Duration.FromSeconds(5))!;
        Assert.Null(third.Tried(T + Duration.FromSeconds(5)));
        Assert.True(Run(third, ("1", Said(Blame.Size), 6)).Works);
        Assert.True(Run(third, ("1", Said(Blame.Gateway), 6), ("2", Taken, 6)).Works);
        var again = Run(third, ("1", Said(Blame.Gateway), 6), ("2", Said(Blame.Gateway), 6), ("3", Said(Blame.Gateway), 6));
        Assert.False(again.Works);
        Assert.Null(again.Tried(T + Duration.FromSeconds(8)));
        Assert.NotNull(again.Tried(T + Duration.FromSeconds(6 + 300)));
        Assert.NotNull(again.Changed().Tried(T + Duration.FromSeconds(7)));
    }
}
