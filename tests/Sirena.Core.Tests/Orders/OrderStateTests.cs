using System.Text.Json.Nodes;
using CsCheck;
using NodaTime;
using Sirena.Core.Orders;

namespace Sirena.Core.Tests.Orders;

public class OrderStateTests
{
    private static readonly Instant T = Build.Noon;

    private static Instant At(int minutes) => T + Duration.FromMinutes(minutes);

    private static string Merged(params (int Minute, string Order)[] events)
    {
        OrderState? state = null;
        foreach (var (minute, order) in events)
        {
            state = state is null ? OrderState.First(Build.Json(order), At(minute)) : state.Merge(Build.Json(order), At(minute));
            state = OrderState.Read(state.Document.ToJsonString(), state.TimesJson());
        }

        return state!.Document.ToJsonString();
    }

    private static void Same(string expected, string actual) =>
        Assert.True(JsonNode.DeepEquals(JsonNode.Parse(expected), JsonNode.Parse(actual)), $"expected {expected}, was {actual}");

    [Fact]
    public void An_absent_member_stays_a_null_clears_and_a_list_replaces_the_list() =>
        Same("""{"a":1,"l":[3]}""", Merged((0, """{"a":1,"b":2,"l":[1,2]}"""), (1, """{"b":null,"l":[3]}""")));

    [Fact]
    public void The_newest_time_wins_member_by_member_not_the_last_to_arrive() =>
        Same(
            """{"status":"loaded","total":9}""",
            Merged((0, """{"status":"received"}"""), (5, """{"status":"loaded"}"""), (3, """{"status":"picking","total":9}"""))
        );

    [Fact]
    public void A_tie_goes_to_the_order_of_intake() => Same("""{"a":2}""", Merged((0, """{"a":1}"""), (0, """{"a":2}""")));

    [Fact]
    public void Members_of_an_object_are_merged_one_by_one() =>
        Same(
            """{"customer":{"name":"MV Corvane","phone":"2"}}""",
            Merged((0, """{"customer":{"name":"MV Corvane","phone":"1"}}"""), (1, """{"customer":{"phone":"2"}}"""))
        );

    [Fact]
    public void What_was_cleared_is_not_brought_back_by_an_older_event() =>
        Same("""{"number":"1"}""", Merged((0, """{"number":"1","hold":{"reason":"x"}}"""), (5, """{"hold":null}"""), (3, """{"hold":{"reason":"y"}}""")));

    [Fact]
    public void A_cleared_object_can_be_set_again_later() =>
        Same("""{"hold":{"reason":"z"}}""", Merged((0, """{"hold":{"reason":"x"}}"""), (5, """{"hold":null}"""), (6, """{"hold":{"reason":"z"}}""")));

    [Fact]
    public void Clearing_an_object_leaves_members_that_are_newer() =>
        Same("""{"risk":{"score":9}}""", Merged((0, """{"risk":{"level":"low"}}"""), (9, """{"risk":{"score":9}}"""), (5, """{"risk":null}""")));

    [Fact]
    public void Clearing_goes_through_all_depths_and_leaves_what_is_newer_there() =>
        Assert.Multiple(
            () => Same("""{"a":1}""", Merged((0, """{"a":1,"customer":{"name":"A","home":{"street":"x","city":"y"}}}"""), (5, """{"customer":null}"""))),
            () =>
                Same(
                    """{"customer":{"home":{"city":"z"}}}""",
                    Merged(
                        (0, """{"customer":{"name":"A","home":{"street":"x","city":"y"},"ship":{"berth":"N3"}}}"""),
                        (9, """{"customer":{"home":{"city":"z"}}}"""),
                        (5, """{"customer":null}""")
                    )
                ),
            () => Same("""{"customer":{"home":{"city":"y"}}}""", Merged((5, """{"customer":{"home":{"city":"y"}}}"""), (3, """{"customer":null}"""))),
            () => Same("{}", Merged((5, """{"customer":{"home":{"city":"y"}}}"""), (5, """{"customer":null}""")))
        );

    // Whatever order events of different times arrive in, the same order stands in the end.
    [Fact]
    public void The_order_of_arrival_does_not_matter_when_all_times_differ()
    {
        var member = Gen.OneOf(Gen.Int[0, 9].Select(i => (JsonNode?)i), Gen.Const((JsonNode?)null));
        var order = Gen.Select(Gen.Bool, Gen.Bool, member, member)
            .Select(
                (hasA, hasB, a, b) =>
                {
                    var json = new JsonObject();
                    if (hasA)
                    {
                        json["a"] = a?.DeepClone();
                    }

                    if (hasB)
                    {
                        json["o"] = new JsonObject { ["b"] = b?.DeepClone() };
                    }

                    return json.ToJsonString();
                }
            );
        Gen.Select(order.Array[2, 5], Gen.Int[0, 1000])
            .Sample(
                (orders, seed) =>
                {
                    var events = orders.Select((o, i) => (Minute: i, Order: o)).ToArray();
                    var shuffled = events.OrderBy(e => ((e.Minute + 7) * 7919 * (seed + 1)) % 101).ToArray();
                    return Plain(Merged(events)) == Plain(Merged(shuffled));
                }
            );
    }

    // An object that lost all its members may remain as an empty one or not: no field can tell.
    private static string Plain(string json)
    {
        var node = Build.Json(json);
        if (node["o"] is JsonObject { Count: 0 })
        {
            node.Remove("o");
        }

        return string.Join(',', node.OrderBy(m => m.Key, StringComparer.Ordinal).Select(m => m.Key + m.Value?.ToJsonString()));
    }

    [Fact]
    public void The_newest_time_is_the_one_of_whatever_was_set_last()
    {
        var first = OrderState.First(Build.Json("""{"a":1}"""), At(5));
        OrderState With(OrderState state, string member, int minute) => state.Merge(Build.Json($$"""{"{{member}}":2}"""), At(minute));
        Assert.Equal(At(5), first.Newest);
        Assert.Equal(At(9), With(With(first, "b", 9), "c", 7).Newest);
        Assert.Equal(At(9), With(With(first, "b", 7), "c", 9).Newest);
        Assert.Equal(At(5), With(first, "b", 3).Newest);
    }
}
