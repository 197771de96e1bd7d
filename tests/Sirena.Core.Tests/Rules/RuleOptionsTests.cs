using System.Collections.Immutable;
using NodaTime;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Rules;

namespace Sirena.Core.Tests.Rules;

/// <summary>Each option of a rule is read, written, checked, said and compared by its one row.</summary>
public sealed class RuleOptionsTests
{
    private static readonly Rule Plain = new()
    {
        Id = "r",
        Name = "R",
        When = ["order.held"],
        Short = true,
        Cases =
        [
            new RuleCase
            {
                Name = "always",
                Tell = [new TeamRecipient("desk")],
                Ladder = [],
            },
        ],
    };

    public static TheoryData<string> Members => [.. RuleOptions.All.Select(o => o.Member)];

    [Theory]
    [MemberData(nameof(Members))]
    public void A_value_comes_back_from_the_document_and_is_named_where_versions_are_compared(string member)
    {
        var option = RuleOptions.All.Single(o => o.Member == member);
        Assert.Null(option.Get(Plain));
        var rule = option.Set(Plain, Unusual(option));
        Assert.NotNull(option.Get(rule));
        var document = RuleWriter.Write(rule);
        Assert.True(document.ContainsKey(member));
        Assert.False(RuleWriter.Write(Plain).ContainsKey(member));
        var (read, errors) = RuleReader.Read(document.ToJsonString(), yaml: false);
        Assert.Empty(errors);
        Assert.Equal(document.ToJsonString(), RuleWriter.Write(read!).ToJsonString());
        var change = Assert.Single(new RuleDifference(new RuleSentence(id => id)).Between(Plain, rule));
        Assert.Equal((option.What, null), (change.What, change.Before));
        Assert.NotEmpty(change.After!);
        Assert.True(RuleSchema.Make()["properties"]!.AsObject().ContainsKey(member));
    }

    [Theory]
    [MemberData(nameof(Members))]
    public void What_is_no_value_is_a_mistake_at_its_place(string member)
    {
        var document = RuleWriter.Write(Plain);
        document[member] = 7;
        var (rule, errors) = RuleReader.Read(document.ToJsonString(), yaml: false);
        Assert.Null(rule);
        Assert.Contains(errors, e => e.Path.StartsWith(member, StringComparison.Ordinal));
    }

    [Fact]
    public void The_sentence_says_them_in_their_order()
    {
        var rule = RuleOptions.All.Aggregate(Plain, (made, o) => o.Set(made, Unusual(o)));
        Assert.Equal(
            "When an order is held, tell everyone in desk by mail. Gathered for 5 min into one message each. Not again for the same order within 5 min. Whoever takes it has 5 min until it is done. Beyond 3 within 5 min they are gathered into one. With its mails go the shipping note to the customer. It asks the order system at most 3 times within 5 min, then a supervisor says yes. For now it only says what it would have done to the order. Ends when the order is loaded.",
            new RuleSentence(id => id).Of(rule)
        );
    }

    private static object Unusual(RuleOption option) =>
        option.Shape switch
        {
            OptionShape.Switch => option.Member == "trial",
            OptionShape.Span => Duration.FromMinutes(5),
            OptionShape.Limit => new CountWithin(3, Duration.FromMinutes(5)),
            OptionShape.Statuses => ImmutableArray.Create("loaded"),
            _ => ImmutableArray.Create(new Attachment(DocumentKind.ShippingNote, null, Audience.Customer)),
        };
}
