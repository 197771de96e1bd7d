using Sirena.Core.Notices;
using Sirena.Core.People;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Notices;

public class MentionsTests
{
    private static readonly StaffDirectory Staff = new(
        [
            new Person { Id = "bram.osei", Name = "Bram Osei" },
            new Person { Id = "ines.calder", Name = "Ines Calder" },
            new Person
            {
                Id = "gone.person",
                Name = "Gone Person",
                ArchivedAt = Noon,
            },
        ],
        [new Team { Id = "kitchen", Name = "Kitchen" }, new Team { Id = "quayside-drivers", Name = "Quayside drivers" }],
        []
    );

    [Theory]
    [InlineData("@bram.osei sealed stores for this one", "bram.osei")]
    [InlineData("ask @kitchen and @Bram.Osei, then @kitchen again", "kitchen|bram.osei")]
    [InlineData("(@quayside-drivers)", "quayside-drivers")]
    [InlineData("the seal is @bram.osei.", "bram.osei")]
    [InlineData("write to purser@corvane.example or x.@kitchen", "")]
    [InlineData("nobody here", "")]
    [InlineData("@gone.person @stranger", "")]
    public void A_note_names_people_and_teams_each_once(string text, string named) =>
        Assert.Equal(
            named,
            string.Join(
                '|',
                Mentions
                    .Find(text, Staff)
                    .Select(r =>
                        r switch
                        {
                            PersonRecipient p => p.Person,
                            TeamRecipient t => t.Team,
                            _ => "?",
                        }
                    )
            )
        );

    [Fact]
    public void A_name_of_nobody_is_answered_with_the_nearest()
    {
        Assert.Equal([("bram.ossei", " Did you mean 'bram.osei'?"), ("zebra", "")], Mentions.Unknown("@bram.ossei and @zebra and @kitchen", Staff));
        Assert.Equal("gone.person", Assert.Single(Mentions.Unknown("@gone.person", Staff)).Name);
    }
}
