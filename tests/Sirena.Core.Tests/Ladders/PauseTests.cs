using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Ladders;

public class PauseTests
{
    private static readonly Recipient[] Tell = [new PersonRecipient("ines.calder"), new DutyRecipient("kitchen")];

    private static Pause Over(string scope) =>
        new()
        {
            Scope = PauseScope.Parse(scope)!,
            Reason = "stocktaking",
            By = "Maren Holt",
            Since = Noon,
            Until = Noon + Duration.FromHours(1),
        };

    [Theory]
    [InlineData("all", true)]
    [InlineData("rule:risky-order", true)]
    [InlineData("rule:other", false)]
    [InlineData("team:kitchen", true)]
    [InlineData("team:desk", false)]
    [InlineData("team:k", false)]
    [InlineData("rule:r", false)]
    public void It_holds_what_its_scope_says(string scope, bool holds)
    {
        Assert.Equal(holds, Over(scope).Holds("risky-order", Tell));
        Assert.Equal(scope, PauseScope.Parse(scope)!.Key);
    }

    [Theory]
    [InlineData("person:ines.calder")]
    [InlineData("team:")]
    [InlineData("rule:")]
    [InlineData("rule")]
    [InlineData("")]
    [InlineData(null)]
    public void A_scope_that_says_nothing_is_none(string? scope) => Assert.Null(PauseScope.Parse(scope));

    [Fact]
    public void A_team_is_held_whether_the_rule_tells_it_whole_or_whoever_is_on_duty()
    {
        Assert.True(Over("team:kitchen").Holds("r", [new TeamRecipient("kitchen")]));
        Assert.True(Over("team:kitchen").Holds("r", [new DutyRecipient("kitchen")]));
        Assert.False(Over("team:kitchen").Holds("r", [new RoleRecipient(OrderRole.Salesperson), new AddressRecipient("kitchen@b.example", true)]));
    }

    [Fact]
    public void It_is_over_from_its_end_on()
    {
        Assert.False(Over("all").Over(Noon + Duration.FromMinutes(59)));
        Assert.True(Over("all").Over(Noon + Duration.FromHours(1)));
    }
}
