using NodaTime;
using Sirena.Core.Deliveries;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Deliveries;

public class HandOverTests
{
    private static Verdict After(AttemptOutcome outcome, Duration left) => new HandOver(outcome, "451", "later").After(1, Noon, Noon + left, spread: 0);

    [Theory]
    [InlineData(AttemptOutcome.Accepted, DeliveryState.HandedOver)]
    [InlineData(AttemptOutcome.Permanent, DeliveryState.Failed)]
    [InlineData(AttemptOutcome.Temporary, DeliveryState.Waiting)]
    [InlineData(AttemptOutcome.Gateway, DeliveryState.Waiting)]
    [InlineData(AttemptOutcome.Unknown, DeliveryState.Waiting)]
    public void What_the_far_end_said_decides_where_the_delivery_stands(AttemptOutcome outcome, DeliveryState state) =>
        Assert.Equal(state, After(outcome, Duration.FromHours(1)).State);

    [Theory]
    [InlineData(AttemptOutcome.Temporary, "not now: ")]
    [InlineData(AttemptOutcome.Unknown, "not now: ")]
    [InlineData(AttemptOutcome.Gateway, "the gateway could not be used: ")]
    [InlineData(AttemptOutcome.Permanent, "refused for good: ")]
    public void Why_it_waits_or_failed_stands_before_the_far_end_s_words(AttemptOutcome outcome, string begin) =>
        Assert.StartsWith(begin, After(outcome, Duration.FromHours(1)).Reason, StringComparison.Ordinal);

    [Fact]
    public void Past_its_deadline_a_delivery_expires_with_the_last_words() =>
        Assert.Equal(new Verdict(DeliveryState.Expired, "gave up after 1 try: later", Noon), After(AttemptOutcome.Temporary, Duration.FromSeconds(4)));

    [Fact]
    public void Durations_are_read_and_written_as_ISO_8601()
    {
        Assert.Equal(Duration.FromMinutes(5), Durations.Parse("PT5M"));
        Assert.Equal(Duration.FromHours(26), Durations.Parse("P1DT2H"));
        Assert.Null(Durations.Parse("P1M"));
        Assert.Equal("PT0S", Duration.Zero.Iso());
        Assert.Equal(
            ["2 h 28", "5 h", "18 min", "40 s", "3 days"],
            new[] { 148 * 60, 5 * 3600, 18 * 60, 40, 3 * 86400 }.Select(s => Duration.FromSeconds(s).InWords())
        );
    }
}
