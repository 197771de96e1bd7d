using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine.Ladders;
using Sirena.Engine.Notices;
using Sirena.Engine.Orders;
using SkiaSharp;

namespace Sirena.Engine.Tests;

/// <summary>What Sirena tells by itself: overdue orders, backlogs, notes that name somebody, notices; and what goes with mails.</summary>
public sealed class OwnEventsTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private Task<List<OrderEvent>> EventsAsync(string type, string subject, int count = 1) =>
        desk.UntilAsync(
            db => db.Events.AsNoTracking().Where(e => e.Type == type && e.Subject == subject).ToListAsync(),
            found => found.Count >= count,
            found => $"{found.Count} events {type} of {subject}"
        );

    private async Task NoneAsync(string type, string subject)
    {
        await using var db = await desk.DbAsync();
        Assert.False(await db.Events.AnyAsync(e => e.Type == type && e.Subject == subject));
    }

    // The watch itself, to look once more at once.
    private OrderWatch Watch => desk.Services.GetServices<IHostedService>().OfType<OrderWatch>().Single();

    private static string Time(Instant at) => at.ToString("uuuu-MM-dd'T'HH:mm:ss.fff'Z'", null);

    [Fact]
    public async Task An_order_that_is_not_final_when_it_is_due_is_overdue_once()
    {
        await desk.RuleAsync("id: overdue\nname: overdue\nwhen: [order.overdue]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }");
        var (late, done) = (desk.NextOrder(), desk.NextOrder());
        var due = SystemClock.Instance.GetCurrentInstant() + Duration.FromSeconds(2);
        await desk.PostAsync("order.placed", $$"""{"number":"{{late}}","status":"picking","dueAt":"{{Time(due)}}"}""");
        await desk.PostAsync("order.placed", $$"""{"number":"{{done}}","status":"signed-for","dueAt":"{{Time(due)}}"}""");
        var found = await EventsAsync("order.overdue", late);
        Assert.Equal("due", (string)JsonNode.Parse(found[0].Data)!["overdue"]!["by"]!);
        await desk.DeliveriesAsync(late, d => d.Exists(x => x is { RuleId: "overdue", State: DeliveryState.HandedOver or DeliveryState.Landed }));
        Assert.Equal(0, await Watch.DueAsync(Duration.FromMinutes(15), TestContext.Current.CancellationToken));
        await Watch.StandingAsync(Duration.FromMinutes(15), TestContext.Current.CancellationToken);
        Assert.Single(await EventsAsync("order.overdue", late));
        await NoneAsync("order.overdue", done);
    }

    [Fact]
    public async Task A_status_that_is_not_left_in_time_is_overdue_and_a_backlog_is_told_once()
    {
        await using (var db = await desk.DbAsync())
        {
            await db
                .Statuses.Where(s => s.Id == "alongside")
                .ExecuteUpdateAsync(s => s.SetProperty(x => x.AllowedMinutes, 1).SetProperty(x => x.BacklogLimit, 2));
        }

        desk.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        var since = SystemClock.Instance.GetCurrentInstant() - Duration.FromSeconds(58);
        var orders = Enumerable.Range(0, 3).Select(_ => desk.NextOrder()).ToArray();
        foreach (var order in orders)
        {
            await desk.PostAsync((Guid.NewGuid().ToString(), "order.status-changed", $$"""{"number":"{{order}}","status":"alongside"}""", since));
        }

        var overdue = await EventsAsync("order.overdue", orders[0]);
        Assert.Equal("alongside", (string)JsonNode.Parse(overdue[0].Data)!["overdue"]!["status"]!);
        var backlog = await EventsAsync("order.backlog", "alongside");
        Assert.Equal((3, 2), ((int)JsonNode.Parse(backlog[0].Data)!["backlog"]!["count"]!, (int)JsonNode.Parse(backlog[0].Data)!["backlog"]!["limit"]!));
        await Watch.BacklogAsync(TestContext.Current.CancellationToken);
        Assert.Single(await EventsAsync("order.backlog", "alongside"));
    }

    [Fact]
    public async Task A_note_tells_whom_it_names_with_its_picture_and_one_for_the_customer_tells_the_customer()
    {
        var order = desk.NextOrder();
        await desk.PostAsync(
            "order.placed",
            $$"""{"number":"{{order}}","customer":{"name":"MV Corvane","email":"purser-{{order.ToLowerInvariant()}}@corvane.example"} }"""
        );
        var notes = desk.Services.GetRequiredService<NoteDesk>();
        using var bitmap = new SKBitmap(2400, 600);
        using var png = bitmap.Encode(SKEncodedImageFormat.Png, 90);
        Assert.Null(await notes.AddAsync(order, "maren.holt", "@ines.calder look at the seal, mail x@y.example", false, png.ToArray(), default));
        var told = await desk.DeliveriesAsync(order, d =>
            d.Exists(x => x is { Channel: Channel.Mail, State: DeliveryState.HandedOver or DeliveryState.Landed })
        );
        Assert.All(told, d => Assert.Equal(("ines.calder", "sirena.note"), (d.Person, d.RuleId)));
        var mail = desk.StandIns.Mail.Mails.Last(m =>
            m.To.StartsWith("ines.calder", StringComparison.Ordinal) && m.Raw.Contains(order, StringComparison.Ordinal)
        );
        Assert.Contains("image/jpeg", mail.Raw);
        Assert.Contains(
            "cid:picture-",
            MimeKit.MimeMessage.Load(new MemoryStream(System.Text.Encoding.UTF8.GetBytes(mail.Raw)), TestContext.Current.CancellationToken).HtmlBody
        );

        Assert.Null(await notes.AddAsync(order, "maren.holt", "We deliver at four.", true, null, default));
        var outside = await desk.UntilAsync(
            _ => Task.FromResult(desk.StandIns.Mail.Mails.LastOrDefault(m => m.To == $"purser-{order.ToLowerInvariant()}@corvane.example")),
            mail => mail is not null,
            _ => "the customer got no mail"
        );
        Assert.Contains("We deliver at four.", outside!.Text);
        Assert.DoesNotContain("the seal", outside.Raw);
    }

    [Theory]
    [InlineData("", false, "Write something")]
    [InlineData("@ines.caldr look", false, "names nobody")]
    [InlineData("@ines.calder look", true, "cannot name colleagues")]
    public async Task A_note_that_would_go_wrong_is_refused(string text, bool customer, string words) =>
        Assert.Contains(words, await desk.Services.GetRequiredService<NoteDesk>().AddAsync("T-x", "maren.holt", text, customer, null, default));

    [Fact]
    public async Task A_picture_that_is_none_is_refused_and_nothing_is_told() =>
        Assert.Contains("no picture", await desk.Services.GetRequiredService<NoteDesk>().AddAsync("T-x", "maren.holt", "look", false, [1, 2, 3], default));

    [Fact]
    public async Task A_notice_tells_each_reader_by_themselves_and_hears_who_read_it()
    {
        var notices = desk.Services.GetRequiredService<NoticeDesk>();
        var telling = (JsonObject)JsonNode.Parse("""{"tell":[{"team":"desk"},{"person":"ines.calder"}],"by":{"allAtOnce":["mail"]},"ask":true}""")!;
        var (made, errors) = await notices.MakeAsync("Berths 4 to 7 closed", "From 15:00 to 15:40.", telling, Urgency.Urgent, null, "Maren Holt", default);
        Assert.Empty(errors);
        var subject = NoticeDesk.Subject(made!);
        var events = await EventsAsync(EventTypes.NoticeSent, subject, 2);
        Assert.True(events.Count >= 2);
        var alerts = await desk.UntilAsync(
            db => db.Alerts.AsNoTracking().Where(a => a.Subject == subject).ToArrayAsync(),
            found => found.Length >= events.Count,
            found => $"{found.Length} alerts for {events.Count} events"
        );
        Assert.Equal(events.Count, alerts.Length);
        await desk
            .Services.GetRequiredService<AnswerDesk>()
            .AnswerAsync(alerts[0].Id, "ines.calder", AnswerKind.Taken, "api", "Maren Holt", null, null, default);
        await using var after = await desk.DbAsync();
        Assert.Equal(AlertState.Done, (await after.Alerts.AsNoTracking().FirstAsync(a => a.Id == alerts[0].Id)).State);
        Assert.Equal(alerts.Length - 1, await after.Alerts.CountAsync(a => a.Subject == subject && a.State == AlertState.Open));
        Assert.Contains(desk.StandIns.Mail.Mails, m =>
            m.Subject == "Berths 4 to 7 closed" && m.Text.Contains("From 15:00 to 15:40.", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task A_planned_notice_can_be_called_off_and_one_that_asks_nothing_is_done_at_once()
    {
        var notices = desk.Services.GetRequiredService<NoticeDesk>();
        JsonObject Telling() => (JsonObject)JsonNode.Parse("""{"tell":[{"person":"ines.calder"}],"by":{"allAtOnce":["mail"]},"ask":false}""")!;
        var (planned, _) = await notices.MakeAsync(
            "Never",
            "",
            Telling(),
            Urgency.Prompt,
            SystemClock.Instance.GetCurrentInstant() + Duration.FromSeconds(1),
            "Maren Holt",
            default
        );
        Assert.True(await notices.CallOffAsync(planned!.Id, "Maren Holt", default));
        var (soon, _) = await notices.MakeAsync(
            "Soon",
            "",
            Telling(),
            Urgency.Urgent,
            SystemClock.Instance.GetCurrentInstant() + Duration.FromSeconds(2),
            "Maren Holt",
            default
        );

        // It goes after the time of the one that was called off.
        Assert.NotEmpty(await EventsAsync(EventTypes.NoticeSent, NoticeDesk.Subject(soon!)));
        await desk.UntilAsync(
            db => db.Alerts.AnyAsync(a => a.Subject == NoticeDesk.Subject(soon!) && a.State == AlertState.Done),
            "the notice that asks nothing is done"
        );
        await NoneAsync(EventTypes.NoticeSent, NoticeDesk.Subject(planned));
        Assert.Contains(await MistakesAsync(notices), p => p.Contains("in one line", StringComparison.Ordinal));
    }

    private static async Task<IEnumerable<string>> MistakesAsync(NoticeDesk notices) =>
        (await notices.MakeAsync(" ", "", (JsonObject)JsonNode.Parse("""{"tell":[]}""")!, Urgency.Prompt, Instant.MinValue, "x", default)).Errors.Select(e =>
            e.Problem
        );

    [Fact]
    public async Task A_shipment_of_part_sends_the_customer_a_note_with_its_document_and_the_site_its_picking_list_and_a_file_inside_is_not_fetched()
    {
        await desk.RuleAsync(
            "part-shipped",
            """
            id: part-shipped
            name: Part shipped
            when: [order.shipped]
            tell: [ { role: customer }, { person: ines.calder } ]
            by: { allAtOnce: [mail] }
            attach:
              - { document: shipping-note, audience: customer }
              - { document: picking-list, audience: staff }
              - { file: order.extra.drawing, audience: staff }
            """
        );
        var order = desk.NextOrder();
        var to = $"part-{order.ToLowerInvariant()}@corvane.example";
        string Doc(int shipped) =>
            $$"""{"number":"{{order}}","customer":{"name":"MV Corvane","email":"{{to}}"},"extra":{"drawing":"http://10.1.2.3/plan.pdf"},"lines":[{"sku":"A","title":"Fish pie","quantity":12,"shipped":{{shipped}},"site":"galley"}]}""";
        await desk.PostAsync("order.placed", Doc(0));
        await desk.PostAsync("order.shipped", Doc(4));
        var found = await desk.DeliveriesAsync(order, d => d.Count == 2 && d.TrueForAll(x => x.State is DeliveryState.HandedOver or DeliveryState.Landed), 20);
        var outside = desk.StandIns.Mail.Mails.Last(m => m.To == to);
        Assert.Contains("4 now, 8 to follow", outside!.Text);
        Assert.Contains($"shipping-note-{order}.pdf", outside.Raw);
        var inside = desk.StandIns.Mail.Mails.Last(m =>
            m.To.StartsWith("ines.calder", StringComparison.Ordinal) && m.Raw.Contains(order, StringComparison.Ordinal)
        );
        Assert.Contains($"picking-list-{order}.pdf", inside.Raw);
        Assert.Contains("could not be fetched: 10.1.2.3 lies inside this network", inside.Text.ReplaceLineEndings(" "));
        await using var db = await desk.DbAsync();
        Guid[] ids = [.. found.Select(d => d.Id)];
        var files = await db.MessageFiles.AsNoTracking().Where(f => ids.Contains(f.DeliveryId)).ToListAsync();
        Assert.Equal(2, files.Count);
        Assert.All(files, f => Assert.StartsWith("%PDF-", System.Text.Encoding.ASCII.GetString(f.Content, 0, 5)));

        // Sent again, it goes with the same file as it was kept.
        var first = found.Single(d => d.To == to);
        Assert.True(
            (await desk.Services.GetRequiredService<Dispatch.SecondSending>().SendAsync(first.Id, "Maren Holt", TestContext.Current.CancellationToken))!
                .Value
                .Sent
        );
        var again = await desk.DeliveriesAsync(order, d => d.Count(x => x.To == to && x.State is DeliveryState.HandedOver or DeliveryState.Landed) == 2, 20);
        Assert.Equal(2, desk.StandIns.Mail.Mails.Count(m => m.To == to && m.Raw.Contains($"shipping-note-{order}.pdf", StringComparison.Ordinal)));
        var second = again.Single(d => d.To == to && d.Id != first.Id).Id;
        Assert.Equal(
            files.Single(f => f.DeliveryId == first.Id).Content,
            (await db.MessageFiles.AsNoTracking().SingleAsync(f => f.DeliveryId == second, TestContext.Current.CancellationToken)).Content
        );

        // Nothing is left to answer, so the next shipment tells the customer again.
        Assert.Equal(AlertState.Open, (await db.Alerts.AsNoTracking().FirstAsync(a => a.OrderNumber == order)).State);
    }
}
