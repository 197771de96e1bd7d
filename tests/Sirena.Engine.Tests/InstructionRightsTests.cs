using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Engine.Instructions;

namespace Sirena.Engine.Tests;

/// <summary>Who may ask for what, and whoever is not to be told of it.</summary>
public sealed class InstructionRightsTests(DeskFixture desk) : InstructionCase(desk)
{
    [Fact]
    public async Task An_order_of_no_taking_source_a_kind_that_is_not_taken_and_who_may_not_are_refused_with_the_way_out()
    {
        await using var far = await SystemAsync();
        var (source, number, lost) = (await SourceAsync(far, "\"hold\""), Quay.NextOrder(), Quay.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        await Quay.PostAsync("order.placed", $$"""{ "number": "{{lost}}" }""");
        Assert.Equal(404, (await AskAsync("NONE-1", "hold")).Status);
        Assert.Equal(422, (await AskAsync(lost, "hold")).Status);
        Assert.Contains("does not take 'cancel'", Assert.Single((await AskAsync(number, "cancel")).Errors).Problem);
        Assert.Contains("There is no instruction 'hodl'. Did you mean 'hold'?", Assert.Single((await AskAsync(number, "hodl")).Errors).Problem);
        Assert.Equal(403, (await AskAsync(number, "hold", by: new Asker("clara.bonnet", "Clara Bonnet", "reader"))).Status);
        Assert.Contains("no member 'resaon'", (await AskAsync(number, "hold", """{ "resaon": "x" }""")).Errors[0].Problem);
        Assert.Empty(far.Got);
    }

    [Fact]
    public async Task Whoever_was_not_to_be_told_of_a_move_stands_with_the_reason_and_nobody_is_waited_for()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
        var rule = await Quay.RuleAsync(
            $$"""
            name: Alongside {{number}}
            when: [order.status-changed]
            onlyIf: { field: order.number, is: equal, value: "{{number}}" }
            tell: [ { role: customer }, { person: ines.calder } ]
            ladder: [ { after: PT1M, tell: [ { team: desk } ] } ]
            """
        );
        await SayAsync(source, "order.placed", number, """, "status": "loaded", "customer": { "name": "MV Corvane", "email": "purser@corvane.example" }""");
        var asked = await AskAsync(number, "status", """{ "to": "alongside" }""", tell: new TellChoice(false, false, "Maren Holt"));
        await UntilAsync(asked.Instruction!.Id, InstructionState.Taken);
        Assert.False((bool)JsonNode.Parse(far.Got[0].Body)!["data"]!["tell"]!["customer"]!);
        await SayAsync(source, "order.status-changed", number, """, "status": "alongside" """);
        await UntilAsync(asked.Instruction.Id, InstructionState.Seen);
        await using var db = await Quay.DbAsync();
        var alert = await db.Alerts.AsNoTracking().FirstAsync(a => a.RuleId == rule, TestContext.Current.CancellationToken);
        var steps = await db.AlertSteps.AsNoTracking().Where(s => s.AlertId == alert.Id).ToListAsync(TestContext.Current.CancellationToken);
        Assert.Equal(AlertState.Done, alert.State);
        var left = Assert.Single(steps).Left;
        Assert.Equal(["ines.calder", "purser@corvane.example"], left.Select(l => l.Person).Order());
        Assert.All(left, l => Assert.Equal("not to be told, chosen by Maren Holt", l.Because));
        Assert.False(await db.Deliveries.AnyAsync(d => d.OrderNumber == number, TestContext.Current.CancellationToken));
    }

    [Fact]
    public async Task An_order_system_may_say_itself_that_the_customer_is_not_to_be_told()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
        await Quay.RuleAsync(
            $$"""
            name: Quietly {{number}}
            when: [order.cancelled]
            onlyIf: { field: order.number, is: equal, value: "{{number}}" }
            tell: [ { role: customer }, { person: ines.calder } ]
            """
        );
        await SayAsync(
            source,
            "order.cancelled",
            number,
            """, "status": "cancelled", "customer": { "name": "MV Corvane", "email": "purser@corvane.example" }""",
            """, "tell": { "customer": false, "by": "the till" }"""
        );
        var told = await Quay.DeliveriesAsync(number, d => d.Count > 0);
        Assert.All(told, d => Assert.Equal("ines.calder", d.Person));
        await using var db = await Quay.DbAsync();
        var alert = await Quay.AlertAsync(number);
        var step = await db.AlertSteps.AsNoTracking().FirstAsync(s => s.AlertId == alert.Id && s.Index == 0, TestContext.Current.CancellationToken);
        Assert.Contains(step.Left, l => l.Because == "not to be told, chosen by the till");
    }
}
