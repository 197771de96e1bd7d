using Sirena.Core.Rules;
using Sirena.Formats.Rules;

namespace Sirena.Core.Tests.Rules;

/// <summary>Each kind of recipient is read, written, said and kept as one text by what stands of it in one place.</summary>
public sealed class RecipientKindsTests
{
    private static readonly Dictionary<RecipientHolds, string> Ids = new()
    {
        [RecipientHolds.Person] = "ines.calder",
        [RecipientHolds.Team] = "kitchen",
        [RecipientHolds.Role] = "line-site-manager",
        [RecipientHolds.Address] = "harbour@port.example",
    };

    public static TheoryData<string> Members => [.. RecipientKinds.All.Select(k => k.Member)];

    [Theory]
    [MemberData(nameof(Members))]
    public void It_is_the_same_after_it_was_written_and_read(string member)
    {
        var kind = RecipientKinds.Find(member)!;
        var one = kind.Make(Ids[kind.Holds], kind.MayBeOutside)!;
        Assert.Equal((kind.Member, Ids[kind.Holds], kind.MayBeOutside), (one.Member, one.Id, one.Permitted));
        var rule = new Rule
        {
            Id = "r",
            Name = "Rule",
            When = ["order.placed"],
            Cases = [new RuleCase { Name = "always", Tell = [one] }],
        };
        var (read, errors) = RuleReader.Read(RuleWriter.Write(rule).ToJsonString(), yaml: false, id: "r");
        Assert.Empty(errors);
        Assert.Equal([one], Assert.Single(read!.Cases).Tell);
        Assert.Equal(kind.MayBeOutside ? kind.Make(one.Id, false) : one, Recipient.Parse(one.Key));
    }

    [Theory]
    [MemberData(nameof(Members))]
    public void It_is_said_with_the_names_of_whom_it_names(string member)
    {
        var kind = RecipientKinds.Find(member)!;
        var one = kind.Make(Ids[kind.Holds], false)!;
        var said = one.Said(id => $"<{id}>");
        Assert.Equal(kind.Holds is RecipientHolds.Person or RecipientHolds.Team, said.Contains($"<{one.Id}>", StringComparison.Ordinal));
        Assert.Equal(kind.Holds == RecipientHolds.Team ? one.Id : null, one.OfTeam);
        Assert.NotEmpty(one.Brief(id => id, word => word));
    }

    [Theory]
    [InlineData("")]
    [InlineData(null)]
    [InlineData("team")]
    [InlineData("team:")]
    [InlineData("crew:kitchen")]
    [InlineData("role:cook")]
    public void What_names_nobody_is_none(string? key) => Assert.Null(Recipient.Parse(key));

    [Fact]
    public void Where_there_is_little_room_the_team_says_that_it_is_on_duty()
    {
        Assert.Equal("Kitchen de serviço", new DutyRecipient("kitchen").Brief(_ => "Kitchen", _ => "de serviço"));
        Assert.Equal("site manager", new RoleRecipient(OrderRole.SiteManager).Brief(id => id, word => word));
    }
}
