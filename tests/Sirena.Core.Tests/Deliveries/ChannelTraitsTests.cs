using Sirena.Core.Deliveries;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests.Deliveries;

/// <summary>What is so for each channel.</summary>
public sealed class ChannelTraitsTests
{
    [Fact]
    public void Each_channel_has_its_row_in_its_place()
    {
        Assert.Equal(Enum.GetValues<Channel>(), ChannelTraits.All.Select(t => t.Channel));
        Assert.All(Enum.GetValues<Channel>(), c => Assert.Equal(c, c.Traits().Channel));
        Assert.Distinct(ChannelTraits.All.Select(t => t.Word));
        Assert.Distinct(ChannelTraits.All.Select(t => t.Glyph));
    }

    [Fact]
    public void What_a_reader_holds_in_their_hand_can_be_answered() =>
        Assert.Equal([Channel.Mail, Channel.Sms, Channel.Chat, Channel.Push], ChannelTraits.All.Where(t => t.CanAnswer).Select(t => t.Channel).Order());

    [Fact]
    public void Every_text_of_a_wording_belongs_to_one_channel_which_has_one_that_is_the_message()
    {
        Assert.Equal(WordingParts.Names, ChannelTraits.All.SelectMany(t => t.Parts).Select(p => p.Name));
        Assert.Equal(["mail.text", "sms", "chat", "push", "screen", "ticket"], ChannelTraits.All.Select(t => t.Body));
    }

    [Fact]
    public void What_can_be_answered_goes_to_a_person_and_what_is_connected_has_addresses()
    {
        Assert.All(ChannelTraits.All.Where(t => t.CanAnswer), t => Assert.True(t.ToPerson));
        Assert.All(ChannelTraits.All.Where(t => t.ByGateway), t => Assert.True(t.ByAddress));
        Assert.Equal([Channel.Screen], ChannelTraits.All.Where(t => t.OnSight).Select(t => t.Channel));
    }

    [Theory]
    [InlineData(Channel.Mail, "a@b.example; c@d.example", "a@b.example|c@d.example", null)]
    [InlineData(Channel.Sms, "+44 7700 900123 +44 7700 900124", "+447700900123|+447700900124", null)]
    [InlineData(Channel.Chat, "#galley, @noor", "#galley|@noor", null)]
    [InlineData(Channel.Ticket, "192.0.2.7:9100", "192.0.2.7:9100", null)]
    [InlineData(Channel.Mail, "a@b.example nobody", "a@b.example", "'nobody'")]
    public void A_field_is_read_as_its_channel_writes_addresses(Channel channel, string field, string good, string? problem)
    {
        var (addresses, problems) = Sirena.Core.People.Addresses.Read(channel, field);
        Assert.Equal(good.Split('|'), addresses);
        Assert.Equal(problem is null, problems.Count == 0);
        Assert.All(problems, p => Assert.StartsWith(problem!, p, StringComparison.Ordinal));
    }
}
