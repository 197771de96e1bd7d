using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Demo.StandIns;
using Sirena.Engine.People;
using Sirena.Formats.People;

namespace Sirena.Engine.Tests;

/// <summary>What people's addresses, wishes and leave do to real deliveries.</summary>
public sealed class PeopleTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private async Task AddAsync(Person person) =>
        Assert.Empty(
            (
                await desk
                    .Services.GetRequiredService<PeopleDesk>()
                    .SaveAsync(new PeopleDocument([new PersonEntry(person, [])], [], 0), false, "the test", TestContext.Current.CancellationToken)
            ).Errors
        );

    private static ContactPoint Mail(string address, bool verified = true) =>
        new()
        {
            Channel = Channel.Mail,
            Address = address,
            Verified = verified,
        };

    private async Task<string> TellAsync(string rule, string person, string urgency = "prompt")
    {
        var order = desk.NextOrder();
        await desk.RuleAsync($"name: {rule}\nwhen: [test.{rule}]\nurgency: {urgency}\ntell: [ {{ person: {person} }} ]");
        await desk.PostAsync($"test.{rule}", $$"""{"number":"{{order}}"}""");
        return order;
    }

    [Fact]
    public async Task An_address_that_is_refused_for_good_is_marked_broken_and_the_next_one_is_used()
    {
        await AddAsync(
            new Person
            {
                Id = "two.boxes",
                Name = "Two Boxes",
                Contacts = { Mail("old.box@a.example"), Mail("new.box@a.example", verified: false) },
            }
        );
        desk.StandIns.Faults.Add(new Fault("mail", "old.box@*", "refuse", 0));
        var order = await TellAsync("two-boxes", "two.boxes");
        var both = await desk.DeliveriesAsync(order, d => d.Count == 2 && d.Exists(x => x.State == DeliveryState.HandedOver));
        Assert.Equal(
            [("new.box@a.example", DeliveryState.HandedOver), ("old.box@a.example", DeliveryState.Failed)],
            both.Select(d => (d.To, d.State)).OrderBy(x => x.To)
        );
        Assert.Single(desk.StandIns.Mail.Mails, m => m.To == "new.box@a.example");
        await using var db = await desk.DbAsync();
        var broken = (await db.People.AsNoTracking().SingleAsync(p => p.Id == "two.boxes")).Contacts.Single(c => c.BrokenAt is not null);
        Assert.Equal("old.box@a.example", broken.Address);
        Assert.Contains("The mailbox does not exist", broken.BrokenBecause);

        order = desk.NextOrder();
        await desk.PostAsync("test.two-boxes", $$"""{"number":"{{order}}"}""");
        Assert.Equal("new.box@a.example", Assert.Single(await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver)).To);
    }

    [Fact]
    public async Task Quiet_hours_hold_a_prompt_message_until_they_end_and_an_urgent_one_goes()
    {
        var zone = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];
        var now = SystemClock.Instance.GetCurrentInstant().InZone(zone).TimeOfDay;
        var span = new WeeklySpan([], now.PlusHours(-1), now.PlusHours(2));
        await AddAsync(
            new Person
            {
                Id = "likes.quiet",
                Name = "Likes Quiet",
                Contacts = { Mail("quiet@a.example") },
                Quiet = [span],
            }
        );
        var held = Assert.Single(await desk.DeliveriesAsync(await TellAsync("quiet-prompt", "likes.quiet"), d => true));
        Assert.Equal(DeliveryState.Waiting, held.State);
        Assert.StartsWith("held by quiet hours until", held.Reason);
        Assert.InRange((held.DueAt - SystemClock.Instance.GetCurrentInstant()).TotalMinutes, 115, 121);
        Assert.True(held.Deadline > held.DueAt + Duration.FromHours(3));
        await desk.DeliveriesAsync(await TellAsync("quiet-urgent", "likes.quiet", "urgent"), d => d[0].State == DeliveryState.HandedOver);
        Assert.Single(desk.StandIns.Mail.Mails, m => m.To == "quiet@a.example");
    }

    [Fact]
    public async Task A_recipient_that_is_nobody_makes_an_event_that_rules_hear_once_and_that_makes_none_itself()
    {
        await desk.RuleAsync(
            "name: Mend\nwhen: [recipient.unreachable]\nonlyIf: { field: event.extra.alert.rule, is: equal, value: nobody-there }\ntell: [ { address: 'mend@a.example', outside: true }, { duty: account-managers }, { role: salesperson } ]"
        );
        await AddAsync(new Person { Id = "no.address", Name = "No Address" });
        var order = desk.NextOrder();
        await desk.RuleAsync("id: nobody-there\nname: Nobody there\nwhen: [test.unreachable]\ntell: [ { person: no.address } ]");
        await desk.PostAsync("test.unreachable", $$"""{"number":"{{order}}","total":12}""");
        await desk.DeliveriesAsync(order, d => d.Exists(x => x.To == "mend@a.example" && x.State == DeliveryState.HandedOver));

        // What comes after it and has nobody either is heard by now, so an event that told of the telling would have come.
        var after = desk.NextOrder();
        await desk.PostAsync("test.unreachable", $$"""{"number":"{{after}}"}""");
        await desk.UntilAsync(
            db => db.Events.AnyAsync(e => e.OrderNumber == after && e.Type == "recipient.unreachable" && e.DecidedAt != null),
            "the next one is told of"
        );
        await using var db = await desk.DbAsync();
        Assert.Equal(
            ["test.unreachable", "recipient.unreachable"],
            await db.Events.Where(e => e.OrderNumber == order).OrderBy(e => e.Seq).Select(e => e.Type).ToListAsync()
        );
        Assert.Contains("\"total\":12", (await db.Orders.SingleAsync(o => o.Number == order)).Document);
    }

    [Fact]
    public async Task What_came_too_late_is_gathered_into_one_notice_to_the_supervisors()
    {
        await desk.RuleAsync("name: Too late\nwhen: [test.late]\nnotOlderThan: PT1H\ntell: [ { person: ines.calder } ]");
        await using (var db = await desk.DbAsync())
        {
            db.Users.Add(
                new Storage.Access.User
                {
                    Id = Guid.CreateVersion7(),
                    Name = "Maren Holt",
                    Email = "boss@a.example",
                    NormalizedEmail = "BOSS@A.EXAMPLE",
                    UserName = "boss@a.example",
                    NormalizedUserName = "BOSS@A.EXAMPLE",
                    EmailConfirmed = true,
                    Role = Storage.Access.Role.Supervisor,
                }
            );
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        string[] orders = [desk.NextOrder(), desk.NextOrder()];
        var old = SystemClock.Instance.GetCurrentInstant() - Duration.FromHours(3);
        await desk.PostAsync(orders.Select(o => (Guid.NewGuid().ToString(), "test.late", $$"""{"number":"{{o}}"}""", (Instant?)old)));
        var notice = desk.Services.GetServices<Microsoft.Extensions.Hosting.IHostedService>().OfType<Decide.LateNotice>().Single();
        await desk.UntilAsync(async db => await db.Matches.CountAsync(m => m.RuleId == "too-late") >= 2, "both came too late");
        Assert.Equal(0, await notice.SendAsync(Duration.FromMinutes(1), TestContext.Current.CancellationToken));
        Assert.Equal(2, await notice.SendAsync(Duration.Zero, TestContext.Current.CancellationToken));
        Assert.Equal(0, await notice.SendAsync(Duration.Zero, TestContext.Current.CancellationToken));
        var mail = Assert.Single(desk.StandIns.Mail.Mails, m => m.To == "boss@a.example");
        Assert.Equal("2 events came too late to tell anybody", mail.Subject);
        Assert.All(orders, o => Assert.Contains(o, mail.Text));
    }

    [Fact]
    public async Task A_join_that_tells_anew_leaves_its_resolution_with_the_first()
    {
        var order = desk.NextOrder();
        await desk.RuleAsync(
            "name: Two cases\nwhen: [test.cases]\ncases:\n  - { name: high, onlyIf: { field: order.total, is: at-least, value: 100 }, tell: [ { person: odile.varga } ] }\n  - { name: low, tell: [ { person: ines.calder } ] }"
        );
        await desk.PostAsync("test.cases", $$"""{"number":"{{order}}","total":5}""");
        await desk.DeliveriesAsync(order, d => d.Count == 1);
        await desk.PostAsync("test.cases", $$"""{"number":"{{order}}","total":500}""");
        await desk.DeliveriesAsync(order, d => d.Count == 2);
        await using var db = await desk.DbAsync();
        var step = await (from a in db.Alerts where a.OrderNumber == order join s in db.AlertSteps on a.Id equals s.AlertId select s).SingleAsync();
        Assert.Contains(step.Told, t => t.Person == "ines.calder");
        Assert.Contains(step.Told, t => t.Person == "odile.varga");
    }
}
