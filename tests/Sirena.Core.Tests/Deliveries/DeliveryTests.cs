using Sirena.Core.Deliveries;

namespace Sirena.Core.Tests.Deliveries;

/// <summary>Where a delivery stands, and what is gathered into a message.</summary>
public sealed class DeliveryTests
{
    [Theory]
    [InlineData(DeliveryState.Waiting, false, DeliveryState.Waiting)]
    [InlineData(DeliveryState.Waiting, true, DeliveryState.Sending)]
    [InlineData(DeliveryState.HandedOver, false, DeliveryState.HandedOver)]
    [InlineData(DeliveryState.HandedOver, true, DeliveryState.HandedOver)]
    [InlineData(DeliveryState.Failed, true, DeliveryState.Failed)]
    [InlineData(DeliveryState.Skipped, true, DeliveryState.Skipped)]
    public void What_waits_under_a_lease_is_being_sent(DeliveryState state, bool leased, DeliveryState stands) =>
        Assert.Equal(
            stands,
            new Delivery
            {
                RuleId = "r",
                To = "a@a.example",
                State = state,
                Lease = leased ? Guid.NewGuid() : null,
            }.Stands
        );

    [Fact]
    public void What_is_gathered_is_said_once_in_the_subject_and_each_in_a_line()
    {
        var message = new Message
        {
            Subject = "AQ-1 held",
            Text = "AQ-1 is held.\n",
            Html = "<html><body><p>AQ-1</p></body></html>",
        };
        message.Gather("AQ-2 <held>");
        message.Gather("AQ-3 held");
        Assert.Equal("AQ-1 held and more", message.Subject);
        Assert.Equal("AQ-1 is held.\nAlso: AQ-2 <held>\nAlso: AQ-3 held", message.Text);
        Assert.Equal("<html><body><p>AQ-1</p><p><b>Also:</b> AQ-2 &lt;held&gt;</p><p><b>Also:</b> AQ-3 held</p></body></html>", message.Html);
        var plain = new Message { Subject = "s", Text = "t" };
        plain.Gather("more");
        Assert.Null(plain.Html);
    }
}
