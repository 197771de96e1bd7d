using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Web.Pages.Orders;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Tests;

public sealed class ListsTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private readonly IServiceProvider services = world.World.Nodes[0].Services;
    private readonly DeskTime clock = new(SystemClock.Instance.GetCurrentInstant(), DateTimeZoneProviders.Tzdb["Europe/Lisbon"]);

    [Theory]
    [InlineData(null)]
    [InlineData("signed-for")]
    public async Task Paging_through_orders_shows_each_once(string? status)
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync();
        var whole = await new OrderFilter { Status = status, Closed = status is "signed-for" or "cancelled" }
            .Apply(db, clock)
            .Select(o => o.Number)
            .ToListAsync();

        // Early in the morning few orders are open: the pages are as small as it takes to have several.
        Assert.True(whole.Count > 2, $"{whole.Count} orders are too few to page through.");
        var size = Math.Min(7, whole.Count / 2);
        var paged = new List<string>();
        for (string? after = null; ;)
        {
            var page = await new OrderFilter
            {
                Status = status,
                Closed = status is "signed-for" or "cancelled",
                After = after,
            }
                .Apply(db, clock)
                .Take(size)
                .ToListAsync();
            paged.AddRange(page.Select(o => o.Number));
            if (page.Count < size)
            {
                break;
            }

            after = $"{page[^1].DueAt!.Value.ToUnixTimeTicks()}|{page[^1].Number}";
        }

        Assert.Equal(whole, paged);
    }

    [Theory]
    [InlineData("order?Q=corvane")]
    [InlineData("order?Risk=medium")]
    [InlineData("order?Due=today")]
    [InlineData("order?Site=galley")]
    [InlineData("order?Told=open")]
    public async Task Every_filter_lets_through_what_it_says_and_nothing_else(string which)
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync();
        var value = which.Split('=')[1];
        var (filter, says) = which.Split('?', '=')[1] switch
        {
            "Q" => (new OrderFilter { Q = value }, (Func<Order, bool>)(o => o.Search.Contains(value, StringComparison.Ordinal))),
            "Risk" => (new OrderFilter { Risk = value }, o => o.Open && o.Risk == RiskLevel.Medium),
            "Due" => (new OrderFilter { Due = value }, o =>
                o.Open && o.DueAt >= clock.Now + Duration.FromHours(1) && o.DueAt?.InZone(clock.Zone).Date == clock.Today
            ),
            "Site" => (new OrderFilter { Site = value }, o => o.Open && o.Sites.Contains(value)),
            _ => (new OrderFilter { Told = value }, o =>
                o.Open && db.Alerts.Any(a => a.OrderNumber == o.Number && a.State == Core.Ladders.AlertState.Open && a.ReachesSomebody)
            ),
        };
        var all = await db.Orders.AsNoTracking().ToListAsync();
        Assert.Equal(
            all.Where(says).Select(o => o.Number).Order(),
            (await filter.Apply(db, clock).Where(o => o.DueAt != null).Select(o => o.Number).ToListAsync()).Order()
        );
    }

    // The demo's past was decided when it was made; deciding it again from what is stored must say the same.
    [Fact]
    public async Task The_trace_of_every_stored_event_agrees_with_what_was_decided()
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync();
        var around = await services.GetRequiredService<SurroundingsCache>().GetAsync(default);
        var business = around.Business;

        // The events first: what is decided between the two has its matches with it, and stands in no list.
        var events = await db.Events.AsNoTracking().Where(e => e.DecidedAt != null).ToListAsync();
        var matches = (await db.Matches.AsNoTracking().ToListAsync()).ToLookup(m => m.EventId);
        Assert.True(events.Count > 200 && matches.Count > 20, $"{events.Count} events and {matches.Count} with matches are too few to say anything.");
        foreach (var happened in events)
        {
            var book = await services.GetRequiredService<RuleShelf>().BookAsync(happened.Book);
            var again = book.Explain(new Facts(happened, business.Zone, business.Currency))
                .Where(d => d.Outcome == Outcome.Matched)
                .Concat(Engine.Decide.OwnRules.Matches(happened, around))
                .Select(d => (d.Rule.Id, d.Case!.Name))
                .Order()
                .ToArray();
            Assert.True(
                matches[happened.Id].Select(m => (m.RuleId, m.Case)).Order().SequenceEqual(again),
                $"{happened.Type} {happened.EventId} of {happened.Subject}, received {happened.Received}, decided {happened.DecidedAt} with book {happened.Book}: "
                    + $"{string.Join(", ", matches[happened.Id].Select(m => m.RuleId))} then, {string.Join(", ", again)} now; {happened.Data} {happened.OrderAfter}"
            );
        }
    }
}
