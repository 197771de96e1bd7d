using NodaTime;
using Sirena.Core.Insight;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Formats.Rules;

namespace Sirena.Core.Tests.Insight;

/// <summary>The stations of the first day, the rules to begin with, the orders that nobody placed.</summary>
public sealed class FirstDayTests
{
    private static string Of(Station[] proved, params Station[] broken) =>
        string.Concat(
            FirstDay
                .Stations(proved.ToHashSet(), broken.ToHashSet())
                .Select(s =>
                    s.State switch
                    {
                        StationState.Proved => 'p',
                        StationState.Open => 'o',
                        StationState.Broken => 'b',
                        _ => '-',
                    }
                )
        );

    [Fact]
    public void The_first_without_evidence_is_open_and_those_after_it_wait_or_are_proved_already()
    {
        Assert.Equal("o----", Of([]));
        Assert.Equal("po---", Of([Station.Mail]));
        Assert.Equal("popp-", Of([Station.Mail, Station.Orders, Station.Rule]));
        Assert.Equal("ppppp", Of(Enum.GetValues<Station>()));
    }

    [Fact]
    public void One_whose_evidence_fails_is_broken_and_no_other_is_opened_for_it() =>
        Assert.Equal("bpp--", Of([Station.Mail, Station.People, Station.Orders], Station.Mail));

    [Fact]
    public void Each_ready_rule_is_a_rule_that_fits_a_made_up_order_of_its_event()
    {
        var names = new KnownNames(
            ["maren.holt"],
            [],
            [],
            System.Collections.Frozen.FrozenDictionary<string, System.Collections.Immutable.ImmutableArray<Core.Ladders.LadderStep>>.Empty
        );
        foreach (var ready in ReadyRule.All)
        {
            var (rule, errors) = RuleReader.Read(ready.Document("maren.holt").ToJsonString(), yaml: false, names, ready.Id);
            Assert.True(rule is not null, string.Join("; ", errors.Select(e => $"{e.Path}: {e.Problem}")));
            var now = Instant.FromUtc(2026, 11, 24, 9, 0);
            var made = MadeUpOrder.Event(3, ready.Type, "Maren Holt", "EUR", "received", now);
            Assert.Equal("TRY-3", made.OrderNumber);
            Assert.Equal(ready.Type == "order.held", made.Data["order"]!["hold"] is not null);
            var (_, problem) = IncomingEvent.Check(
                name =>
                    name switch
                    {
                        "specversion" => "1.0",
                        "id" => made.EventId,
                        "source" => made.Source,
                        "type" => made.Type,
                        "subject" => made.Subject,
                        _ => null,
                    },
                made.Data
            );
            Assert.Null(problem);
            Assert.Contains(ready.Type, rule!.When);
            var order = made.Data["order"]!;
            Assert.Equal(ready.Type == "order.risk-flagged", order["risk"] is not null);
            Assert.Equal(Outcome.Matched, new CompiledRule(rule, 1).Decide(Build.Facts(order.ToJsonString(), type: ready.Type, time: now)).Outcome);
            var calm = Build.Facts("""{"number":"TRY-3","dueAt":"2026-11-24T14:00:01Z","risk":{"level":"low"}}""", type: ready.Type, time: now);
            Assert.Equal(ready.If is null ? Outcome.Matched : Outcome.NotMatched, new CompiledRule(rule, 1).Decide(calm).Outcome);
        }
    }

    [Fact]
    public void A_ready_rule_is_found_by_its_id_and_there_is_none_of_another()
    {
        Assert.All(ReadyRule.All, r => Assert.Same(r, ReadyRule.Find(r.Id)));
        Assert.Null(ReadyRule.Find("no-such"));
        Assert.Null(ReadyRule.Find(null));
    }

    [Theory]
    [InlineData("order.placed", "")]
    [InlineData("order.held", ""","hold":{"reason":"made up, to try it"}""")]
    [InlineData("order.risk-flagged", ""","risk":{"level":"high","score":90}""")]
    public void A_made_up_order_says_that_nobody_placed_it_and_is_due_in_three_hours(string type, string more)
    {
        var made = MadeUpOrder.Event(12, type, "Maren Holt", "GBP", "received", Build.Noon);
        Assert.Equal(
            $$$"""{"number":"TRY-12","status":"received","total":86.40,"currency":"GBP","placedAt":"2026-11-24T12:00:00Z","dueAt":"2026-11-24T15:00:00Z","customer":{"name":"Made up by Maren Holt"},"lines":[{"sku":"TRY","title":"Nothing: a made-up order","quantity":1}]{{{more}}}}""",
            made.Data["order"]!.ToJsonString()
        );
        Assert.Equal(("made-up-12-" + type, "/made-up", type, "TRY-12", Build.Noon), (made.EventId, made.Source, made.Type, made.Subject, made.Time));
    }
}
