using Sirena.Core.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>A list that looks broken waits for a person; its limits are met to the row.</summary>
public class DoubtTests
{
    private static readonly ListingPlan Plan = new();

    [Theory]
    [InlineData(10, 0, 3, null)]
    [InlineData(10, 0, 4, "4 of 10 rows are gone, 40 %; up to 30 % is usual.")]
    [InlineData(2, 0, 1, "1 of 2 rows is gone, 50 %; up to 30 % is usual.")]
    [InlineData(10, 5, 0, null)]
    [InlineData(10, 6, 0, "6 of 10 rows changed, 60 %; up to 50 % is usual.")]
    [InlineData(10, 10, 10, "10 of 10 rows are gone, 100 %; up to 30 % is usual.")]
    [InlineData(0, 9, 9, null)]
    public void So_many_gone_or_changed_are_no_usual_day(int before, int changed, int gone, string? doubt) =>
        Assert.Equal(doubt, Doubt.Of(Plan, before, changed, gone, []));

    [Fact]
    public void The_source_s_own_limits_hold()
    {
        var plan = Plan with { GoneAtMost = 0, ChangedAtMost = 1 };
        Assert.StartsWith("1 of 100 rows is gone, 1 %; up to 0 %", Doubt.Of(plan, 100, 100, 1, []), StringComparison.Ordinal);
        Assert.Null(Doubt.Of(plan, 100, 100, 0, []));
    }

    [Fact]
    public void A_column_that_is_missing_comes_first()
    {
        Assert.Equal("The column 'Order' is missing.", Doubt.Of(Plan, 10, 9, 9, ["Order"]));
        Assert.Equal("The columns 'Order', 'Status' are missing.", Doubt.Of(Plan, 0, 0, 0, ["Order", "Status"]));
    }

    [Fact]
    public void A_gone_row_means_what_a_person_said_then_what_is_usual_then_nothing()
    {
        var edits = new RunEdits().With("AQ-1", RunEdits.Stays);
        Assert.Equal(
            (RunEdits.Stays, "cancelled", RunEdits.Nothing),
            (edits.MeaningOf("AQ-1", "cancelled"), edits.MeaningOf("AQ-2", "cancelled"), edits.MeaningOf("AQ-2", null))
        );
    }

    [Fact]
    public void The_event_that_was_missed_is_a_new_order_or_a_new_status()
    {
        static string Event(MissedKind kind) =>
            new MissedOrder
            {
                Source = "list",
                Order = "AQ-1",
                Kind = kind,
            }.Event;
        Assert.Equal(
            ("order.placed", "order.status-changed", "order.status-changed"),
            (Event(MissedKind.Unknown), Event(MissedKind.Status), Event(MissedKind.Gone))
        );
    }
}
