using NodaTime;
using Sirena.Core.Orders;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Orders;

/// <summary>What lists filter by, read from an order as it stands.</summary>
public sealed class OrderColumnsTests
{
    private static Order From(string order)
    {
        var state = OrderState.First(Json(order), Noon);
        return OrderColumns.From("AQ-20418", state, state.Document.ToJsonString(), 3, Noon, ["ledger"]);
    }

    [Fact]
    public void Each_column_has_its_member()
    {
        var order = From(
            """
            {
              "number": "AQ-20418", "status": "picking", "dueAt": "2026-11-24T15:30:00Z", "total": 1284.5, "currency": "EUR", "salesperson": "IC",
              "customer": { "code": "C-77", "name": "MV Corvane" }, "extra": { "berth": "N3", "vessel": "MV Corvane" },
              "risk": { "level": "high", "score": 82 }, "hold": { "reason": "over the limit" }, "site": "quay",
              "lines": [ { "sku": "A", "site": "galley" }, { "sku": "B", "site": "quay" }, { "sku": "C" } ]
            }
            """
        );
        Assert.Equal(("AQ-20418", 3L, "picking", "MV Corvane"), (order.Number, order.Seq, order.Status, order.Customer));
        Assert.Equal((Instant.FromUtc(2026, 11, 24, 15, 30), 1284.5m, "EUR", "IC"), (order.DueAt, order.Total, order.Currency, order.Salesperson));
        Assert.Equal((RiskLevel.High, 82m, "over the limit"), (order.Risk, order.RiskScore, order.HoldReason));
        Assert.Equal(["quay", "galley"], order.Sites);
        Assert.Equal(["ledger"], order.ToldBy);
        Assert.Equal(Noon, order.ChangedAt);
    }

    [Theory]
    [InlineData("{}", RiskLevel.None)]
    [InlineData("""{"risk":{"level":"low"}}""", RiskLevel.Low)]
    [InlineData("""{"risk":{"level":"medium"}}""", RiskLevel.Medium)]
    [InlineData("""{"risk":{"level":"enormous"}}""", RiskLevel.None)]
    [InlineData("""{"risk":{"level":3}}""", RiskLevel.None)]
    public void A_risk_that_is_none_of_the_three_is_not_said(string order, RiskLevel level) => Assert.Equal(level, From(order).Risk);

    [Theory]
    [InlineData("{}", null)]
    [InlineData("""{"hold":{"reason":"credit"}}""", "credit")]
    [InlineData("""{"hold":{"since":"today"}}""", "held")]
    [InlineData("""{"hold":{}}""", null)]
    public void A_hold_without_a_reason_is_a_hold(string order, string? reason) => Assert.Equal(reason, From(order).HoldReason);

    [Fact]
    public void Who_has_no_name_is_known_by_the_code_and_an_empty_text_is_none()
    {
        Assert.Equal("C-77", From("""{"customer":{"code":"C-77","name":""}}""").Customer);
        Assert.Null(From("""{"customer":{"code":""},"status":"","dueAt":"soon"}""").Customer);
        Assert.Equal((null, null), (From("""{"status":""}""").Status, From("""{"dueAt":"soon"}""").DueAt));
    }

    [Fact]
    public void Words_of_its_own_are_found_by_their_names_and_long_ones_are_none()
    {
        var order = From($$$"""{"customer":{"name":"Café Órion"},"extra":{"berth":"N3","story":"{{{new string('x', 81)}}}","deep":{"a":"b"},"empty":""}}""");
        Assert.Contains(" berth n3", order.Search, StringComparison.Ordinal);
        Assert.Contains("cafe orion", order.Search, StringComparison.Ordinal);
        Assert.StartsWith(" aq-20418 ", order.Search, StringComparison.Ordinal);
        Assert.EndsWith(" ", order.Search, StringComparison.Ordinal);
        Assert.DoesNotContain("story", order.Search, StringComparison.Ordinal);
        Assert.DoesNotContain("deep", order.Search, StringComparison.Ordinal);
    }

    [Fact]
    public void At_most_eight_sites_are_a_column()
    {
        var lines = string.Join(',', Enumerable.Range(0, 12).Select(i => $$"""{"site":"s{{i}}"}"""));
        Assert.Equal(Enumerable.Range(0, 8).Select(i => $"s{i}"), From($$"""{"lines":[{{lines}}]}""").Sites);
    }

    [Fact]
    public void A_status_says_what_it_means_by_its_kind()
    {
        static Status Of(StatusKind kind) =>
            new()
            {
                Id = "s",
                Name = "Status",
                Mark = "a",
                Kind = kind,
            };
        Assert.Equal(
            [(false, false, false), (true, false, false), (true, true, false), (true, true, true)],
            Enum.GetValues<StatusKind>().Select(k => (Of(k).Closed, Of(k).Final, Of(k).Void))
        );
        var next = new Status
        {
            Id = "next",
            Name = "Next",
            Mark = "b",
        };
        Assert.Null(Of(StatusKind.Closed).WhyNot(next));
        Assert.Equal("Status cannot be left", Of(StatusKind.Final).WhyNot(next));
        Assert.Equal("Status cannot be left", Of(StatusKind.Void).WhyNot(next));
        var only = Of(StatusKind.Open);
        only.Follows = ["other"];
        Assert.Equal("Next does not follow Status", only.WhyNot(next));
        Assert.Null(only.WhyNot(only));
    }
}
