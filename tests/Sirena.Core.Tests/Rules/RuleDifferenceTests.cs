using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

public class RuleDifferenceTests
{
    private static readonly RuleDifference Difference = new(new RuleSentence(id => id));

    private static readonly Rule Base = Rule(
        "r",
        Leaf("order.total", "at-least", "500"),
        cases:
        [
            new RuleCase
            {
                Name = "high",
                OnlyIf = Leaf("order.risk.level", "equal", "\"high\""),
                Tell = [new TeamRecipient("desk")],
                By = Ways.AllAtOnce(Channel.Mail),
            },
            new RuleCase { Name = "otherwise" },
        ]
    );

    [Fact]
    public void The_same_rule_has_no_difference() => Assert.Empty(Difference.Between(Base, Base with { }));

    [Fact]
    public void Each_part_that_differs_is_named_in_the_order_of_the_sentence()
    {
        var step = new LadderStep(StepClock.After, Duration.FromMinutes(5), [new PersonRecipient("ines.calder")], Ways.AllAtOnce(Channel.Sms), null);
        var after = Base with
        {
            On = false,
            OnlyIf = null,
            Cases = [Base.Cases[0] with { Tell = [new DutyRecipient("desk")], Ladder = [step] }, Base.Cases[1] with { Name = "rest" }],
            Rest = Duration.FromMinutes(90),
            WithdrawAt = ["loaded", "cancelled"],
        };
        Assert.Equal(
            [
                ("On", "on", "off"),
                ("Only if", "the total is at least 500.00", null),
                ("Case high, tell", "everyone in desk", "whoever is on duty in desk"),
                ("Case otherwise, tell", "nobody", null),
                ("Case otherwise, by", "by mail", null),
                ("Case high, step 1", null, "after 5 min ines.calder by SMS"),
                ("Case rest, tell", null, "nobody"),
                ("Case rest, by", null, "by mail"),
                ("Not again within", null, "1 h 30 min"),
                ("Ends when the order is", null, "loaded or cancelled"),
            ],
            Difference.Between(Base, after).Select(c => (c.What, c.Before, c.After))
        );
    }

    [Fact]
    public void Another_order_of_the_cases_is_a_difference() =>
        Assert.Equal(
            ("Order of the cases", "high, otherwise", "otherwise, high"),
            Difference.Between(Base, Base with { Cases = [Base.Cases[1], Base.Cases[0]] }).Select(c => (c.What, c.Before, c.After)).Single()
        );
}
