using Sirena.Core.Insight;
using Sirena.Core.People;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Insight;

public class WhyNotTests
{
    private static readonly StaffDirectory Staff = new(
        [
            new Person
            {
                Id = "odile.varga",
                Name = "Odile Varga",
                Teams = ["desk"],
            },
            new Person { Id = "ines.calder", Name = "Ines Calder" },
        ],
        [new Team { Id = "desk", Name = "Desk" }],
        [
            new Site
            {
                Id = "galley",
                Name = "Galley",
                Manager = "ines.calder",
                Team = "desk",
            },
            new Site
            {
                Id = "cold-store",
                Name = "Cold store",
                Manager = "odile.varga",
            },
        ]
    );

    private static Why Ask(Rule rule, string order, Outcome? outcome = null, (string, string)[]? told = null, (string, string)[]? left = null)
    {
        var facts = Facts(order);
        var decision = new CompiledRule(rule, 3).Explain(facts);
        return new WhyNot(Staff, new RuleSentence(id => id)).Of("odile.varga", facts, decision, outcome ?? decision.Outcome, told ?? [], left ?? []);
    }

    private static Rule Tells(params Recipient[] tell) =>
        Rule("r", Leaf("order.total", "at-least", "500"), cases: new RuleCase { Name = "always", Tell = [.. tell] });

    [Fact]
    public void The_first_condition_that_failed_is_said_with_what_the_order_had()
    {
        var why = Ask(Tells(new TeamRecipient("desk")), """{"total":212.5}""");
        Assert.Equal((Standing.NotMatched, true, "It did not fit: the total is at least 500.00 – here 212.50."), (why.Standing, why.Names, why.Because));
        Assert.Equal("It did not fit: the total is at least 500.00 – missing here.", Ask(Tells(), "{}").Because);
    }

    // A rule names somebody when one of its cases or steps does, however many others do not.
    [Fact]
    public void A_rule_names_whom_any_of_its_cases_or_steps_names()
    {
        RuleCase Case(string name, Recipient tell, params Recipient[] later) =>
            new()
            {
                Name = name,
                Tell = [tell],
                Ladder = [.. later.Select(l => new Core.Ladders.LadderStep(Core.Ladders.StepClock.After, NodaTime.Duration.FromMinutes(5), [l], null, null))],
            };
        bool Named(params RuleCase[] cases) => Ask(Rule("r", Leaf("order.total", "at-least", "500"), cases: cases), """{"total":1}""").Names;
        var (ines, odile) = (new PersonRecipient("ines.calder"), new PersonRecipient("odile.varga"));
        Assert.True(Named(Case("one", ines), Case("two", odile)));
        Assert.True(Named(Case("one", ines, ines, new TeamRecipient("desk"))));
        Assert.False(Named(Case("one", ines), Case("two", ines, ines)));
    }

    // One of several lines is enough, and a site of which nobody is the manager, or that there is not, is nobody's.
    [Theory]
    [InlineData(OrderRole.LineSiteDuty, """{"lines":[{"site":"cold-store"},{},{"site":"galley"}]}""", true)]
    [InlineData(OrderRole.LineSiteDuty, """{"lines":[{"site":"cold-store"},{"site":7},{"site":"quay"}]}""", false)]
    [InlineData(OrderRole.LineSiteDuty, """{"site":"galley"}""", false)]
    [InlineData(OrderRole.LineSiteManager, """{"lines":[{"site":"galley"},{"site":"cold-store"}]}""", true)]
    [InlineData(OrderRole.LineSiteManager, """{"lines":[{"site":"galley"},{}]}""", false)]
    [InlineData(OrderRole.SiteManager, """{"site":"cold-store"}""", true)]
    [InlineData(OrderRole.SiteManager, """{"site":"galley"}""", false)]
    [InlineData(OrderRole.SiteManager, """{"site":["cold-store"]}""", false)]
    [InlineData(OrderRole.SiteManager, """{"lines":[{"site":"cold-store"}]}""", false)]
    [InlineData(OrderRole.Salesperson, """{"salesperson":"odile.varga"}""", true)]
    [InlineData(OrderRole.Salesperson, """{"salesperson":"ines.calder"}""", false)]
    [InlineData(OrderRole.Salesperson, """{"salesperson":5}""", false)]
    [InlineData(OrderRole.Customer, """{"salesperson":"odile.varga","site":"cold-store"}""", false)]
    public void A_rule_names_somebody_by_a_role_on_the_order(OrderRole role, string order, bool named) =>
        Assert.Equal(named, Ask(Rule("r", cases: new RuleCase { Name = "always", Tell = [new RoleRecipient(role)] }), order).Names);

    [Theory]
    [InlineData(Outcome.TooLate, Standing.Silent, "came too late")]
    [InlineData(Outcome.Resting, Standing.Silent, "rest period")]
    [InlineData(Outcome.Joined, Standing.Silent, "joined it")]
    [InlineData(Outcome.Off, Standing.Off, "was off")]
    public void What_became_of_a_match_is_said(Outcome outcome, Standing standing, string words)
    {
        var why = Ask(Tells(new TeamRecipient("desk")), """{"total":900}""", outcome);
        Assert.Equal(standing, why.Standing);
        Assert.Contains(words, why.Because);
    }

    [Fact]
    public void Told_left_out_and_others_are_told_apart()
    {
        const string order = """{"total":900,"salesperson":"ines.calder","site":"galley","lines":[{"site":"galley"}]}""";
        Assert.Equal((Standing.Told, "Odile Varga was told by mail."), Two(Ask(Tells(), order, told: [("odile.varga", "by mail")])));
        Assert.Equal((Standing.LeftOut, "Odile Varga was left out: no mail address."), Two(Ask(Tells(), order, left: [("odile.varga", "no mail address")])));
        var others = Ask(Tells(new RoleRecipient(OrderRole.Salesperson), new RoleRecipient(OrderRole.SiteManager)), order, told: [("ines.calder", "by mail")]);
        Assert.Equal((Standing.Others, false), (others.Standing, others.Names));
        Assert.Contains("It told Ines Calder", others.Because);
        Assert.True(Ask(Tells(new RoleRecipient(OrderRole.LineSiteDuty)), order).Names);
        Assert.Contains("which tells nobody", Ask(Tells(), order).Because);
        Assert.Contains("reached nobody: Desk, nobody is on duty", Ask(Tells(new DutyRecipient("desk")), order, left: [("desk", "nobody is on duty")]).Because);
    }

    [Fact]
    public void Of_several_ways_the_first_is_said_and_of_several_causes_each_once()
    {
        const string order = """{"total":900}""";
        (string, string)[] twice = [("odile.varga", "by mail"), ("odile.varga", "by SMS")];
        Assert.Equal((Standing.Told, "Odile Varga was told by mail."), Two(Ask(Tells(), order, told: twice)));
        Assert.Equal(
            (Standing.LeftOut, "Odile Varga was left out: on leave."),
            Two(Ask(Tells(), order, left: [("ines.calder", "no mail address"), ("odile.varga", "on leave"), ("odile.varga", "opted out")]))
        );

        // Who was told is told, though left out by another way too.
        Assert.Equal(Standing.Told, Ask(Tells(), order, told: twice, left: [("odile.varga", "no telephone")]).Standing);

        // Others' names stand once each, in the order in which they were told.
        var others = Ask(Tells(), order, Outcome.Joined, told: [("ines.calder", "by mail"), ("ines.calder", "by SMS")]);
        Assert.Equal((Standing.Silent, "The case 'always' fitted, which tells nobody."), Two(others));
        Assert.Equal(
            "It told Ines Calder, and does not name Odile Varga for this order.",
            Ask(Tells(new PersonRecipient("ines.calder")), order, Outcome.Joined, told: [("ines.calder", "by mail"), ("ines.calder", "by SMS")]).Because
        );
        Assert.Equal(
            "It fitted and reached nobody: Desk, nobody is on duty; Ines Calder, on leave.",
            Ask(
                Tells(new DutyRecipient("desk")),
                order,
                left: [("desk", "nobody is on duty"), ("ines.calder", "on leave"), ("desk", "nobody is on duty")]
            ).Because
        );
        Assert.Equal("It fitted, and told nobody.", Ask(Tells(new DutyRecipient("desk")), order).Because);
    }

    private static (Standing, string) Two(Why why) => (why.Standing, why.Because);
}
