using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Sirena.Core.Deliveries;
using Sirena.Engine.Dispatch;

namespace Sirena.Engine.Tests;

/// <summary>
/// Mail through servers that behave as real ones were seen to: nothing waits for a fault that is not its own, and what the page says of a gateway is true.
/// </summary>
public sealed class FarEndsTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private readonly string tag = Guid.NewGuid().ToString("N")[..6];

    // Two mail gateways in order, the second a server that takes everything.
    private async Task<MailFarEnd> GatewaysAsync(MailFarEnd first, bool second = true)
    {
        var next = new MailFarEnd();
        await using var db = await desk.DbAsync();
        await db.Gateways.Where(g => g.Channel == Channel.Mail).ExecuteDeleteAsync();
        db.Gateways.Add(
            new Gateway
            {
                Id = $"first-{tag}",
                Channel = Channel.Mail,
                Name = $"First {tag}",
                Address = first.Address,
                Position = 1,
            }
        );
        if (second)
        {
            db.Gateways.Add(
                new Gateway
                {
                    Id = $"next-{tag}",
                    Channel = Channel.Mail,
                    Name = $"Next {tag}",
                    Address = next.Address,
                    Position = 2,
                }
            );
        }

        await db.SaveChangesAsync();
        desk.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        return next;
    }

    private async Task<string> MailAsync(params string[] addresses)
    {
        var order = desk.NextOrder();
        await desk.RuleAsync(
            $"name: Mail {order}\nwhen: [test.{order.ToLowerInvariant()}]\nurgency: urgent\ntell: [ {string.Join(", ", addresses.Select(a => $"{{ address: \"{a}\", outside: true }}"))} ]"
        );
        await desk.PostAsync($"test.{order.ToLowerInvariant()}", $$"""{"number":"{{order}}","total":7,"currency":"EUR"}""");
        return order;
    }

    private async Task<Gateway> GatewayAsync(string which)
    {
        await using var db = await desk.DbAsync();
        return await db.Gateways.AsNoTracking().SingleAsync(g => g.Id == $"{which}-{tag}");
    }

    private Task<List<Delivery>> TakenAsync(string order, int count = 1) =>
        desk.DeliveriesAsync(order, d => d.Count(x => x.State == DeliveryState.HandedOver) == count, 60);

    [Fact]
    public async Task A_line_that_the_server_closed_while_idle_is_nobody_s_fault()
    {
        await using var server = new MailFarEnd { Idle = TimeSpan.FromSeconds(2) };
        await using var next = await GatewaysAsync(server);
        await TakenAsync(await MailAsync("a@known.example"));
        await desk.UntilAsync(_ => Task.FromResult(server.Tired > 0), "the server closes the line");
        var sent = Assert.Single(await TakenAsync(await MailAsync("b@known.example")));
        Assert.Equal(1, sent.Tries);
        Assert.True(sent.HandedOverAt - sent.CreatedAt < NodaTime.Duration.FromSeconds(5));
        Assert.Equal((2, 0), (server.Got.Count, next.Got.Count));
        Assert.Null((await GatewayAsync("first")).FailingSince);
    }

    [Theory]
    [InlineData("https://desk.averilquay.example:8443/sirena", "desk.averilquay.example")]
    [InlineData("http://127.0.0.1:5080", null)]
    [InlineData("http://localhost:5080", null)]
    [InlineData("", null)]
    public void The_name_in_EHLO_is_that_of_its_own_address_where_it_is_one(string address, string? name) =>
        Assert.Equal(name, Channels.Mail.MailSettings.NameIn(address));

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_message_that_is_too_large_fails_alone_and_holds_nothing_up(bool atTheEnd)
    {
        await using var server = new MailFarEnd { Size = 100, SizeAtTheEnd = atTheEnd };
        await using var next = await GatewaysAsync(server, second: false);
        var large = Assert.Single(await desk.DeliveriesAsync(await MailAsync("large@known.example"), d => d[0].State == DeliveryState.Failed));
        Assert.Contains(atTheEnd ? "too big" : "this mail server takes 100", large.Reason);
        if (atTheEnd)
        {
            server.Size = 100_000;
            await TakenAsync(await MailAsync("small@known.example"));
        }

        Assert.Null((await GatewayAsync("first")).FailingSince);
    }

    [Fact]
    public async Task Relaying_denied_for_one_reader_goes_by_the_next_gateway_and_marks_no_address()
    {
        await using var server = new MailFarEnd
        {
            Recipient = to => to.StartsWith("policy", StringComparison.Ordinal) ? "554 5.7.1 <policy@elsewhere.example>: Relay access denied" : "",
        };
        await using var next = await GatewaysAsync(server);
        await TakenAsync(await MailAsync("known@known.example"));
        var sent = Assert.Single(await TakenAsync(await MailAsync("policy@elsewhere.example")));
        Assert.Contains(next.Got, g => g.To == "policy@elsewhere.example");
        Assert.Equal([$"first-{tag}"], sent.PassedOver);
        Assert.Null((await GatewayAsync("first")).FailingSince);
    }

    public static TheoryData<string> Broken => ["refuse", "defer", "hang", "close", "auth", "helo", "tls", "421"];

    [Theory]
    [MemberData(nameof(Broken))]
    public async Task When_a_gateway_serves_nobody_the_next_carries_all_and_the_first_says_why(string how)
    {
        await using var server = new MailFarEnd();
        await using var next = await GatewaysAsync(server);
        await TakenAsync(await MailAsync("before@known.example"));
        switch (how)
        {
            case "refuse":
                server.Recipient = to => $"550 5.1.1 <{to}>: Recipient address rejected: User unknown";
                break;
            case "defer":
                server.Recipient = _ => "451 4.3.0 Temporary lookup failure";
                break;
            case "auth":
                server.Sender = () => "530 5.7.0 Authentication required";
                break;
            case "tls":
                server.Sender = () => "530 5.7.0 Must issue a STARTTLS command first";
                break;
            case "helo":
                server.Recipient = _ => "504 5.5.2 <x>: Helo command rejected: need fully-qualified hostname";
                break;
            case "421":
                server.Sender = () => "421 4.7.0 Too many errors";
                break;
            default:
                server.AfterData = how;
                break;
        }

        string[] readers = [.. Enumerable.Range(0, 4).Select(i => $"{how}{i}@known.example")];
        var orders = await Task.WhenAll(readers.Select(r => MailAsync(r)));
        foreach (var order in orders)
        {
            await TakenAsync(order);
        }

        Assert.Equal(readers, next.Got.Select(g => g.To).Where(t => t.EndsWith("@known.example", StringComparison.Ordinal)).Distinct().Order());
        var first = await GatewayAsync("first");
        Assert.NotNull(first.FailingSince);
        Assert.NotNull(first.LastError);
        await using var db = await desk.DbAsync();
        Assert.True(await db.Events.AnyAsync(e => e.Type == "gateway.failing" && e.Subject == $"first-{tag}"));
    }

    // The outcome of the first refusal is on its way to the database, held up there, while the third says that nobody is taken.
    [Fact]
    public async Task What_was_refused_before_a_gateway_refused_everybody_is_sent_again_however_late_its_outcome_is_written()
    {
        await using var server = new MailFarEnd();
        await using var next = await GatewaysAsync(server);
        await TakenAsync(await MailAsync("late-before@known.example"));
        using var asked = new SemaphoreSlim(0);
        using var answers = new SemaphoreSlim(0);
        server.Recipient = to =>
        {
            if (to.StartsWith("late0", StringComparison.Ordinal))
            {
                asked.Release();
                answers.Wait(TimeSpan.FromSeconds(20));
            }

            return $"550 5.1.1 <{to}>: Recipient address rejected: User unknown";
        };
        var first = await MailAsync("late0@known.example");
        Assert.True(await asked.WaitAsync(TimeSpan.FromSeconds(60), TestContext.Current.CancellationToken));
        await using (var db = await desk.DbAsync())
        {
            await using var held = await db.Database.BeginTransactionAsync(TestContext.Current.CancellationToken);
            await db.Database.ExecuteSqlAsync($"select 1 from deliveries where order_number = {first} for update", TestContext.Current.CancellationToken);
            answers.Release();
            await MailAsync("late1@known.example");
            await MailAsync("late2@known.example");
            await desk.UntilAsync(async _ => (await GatewayAsync("first")).FailingSince is not null, "it refuses everybody");
            await held.CommitAsync(TestContext.Current.CancellationToken);
        }

        var sent = Assert.Single(await TakenAsync(first));
        Assert.Contains(next.Got, g => g.To == "late0@known.example");
        Assert.Equal(2, sent.Tries);
    }

    [Fact]
    public async Task What_is_sent_again_by_the_next_gateway_and_refused_there_has_failed_and_goes_no_more()
    {
        await using var server = new MailFarEnd { Recipient = to => to.StartsWith("passes", StringComparison.Ordinal) ? "554 5.7.1 Relay access denied" : "" };
        await using var next = await GatewaysAsync(server);
        await TakenAsync(await MailAsync("gone-before@known.example"));
        await TakenAsync(await MailAsync("passes@elsewhere.example"));
        string Unknown(string to) => $"550 5.1.1 <{to}>: Recipient address rejected: User unknown";
        (server.Recipient, next.Recipient) = (Unknown, to => to.StartsWith("gone0", StringComparison.Ordinal) ? Unknown(to) : "");
        var gone = await MailAsync("gone0@known.example");
        await desk.DeliveriesAsync(gone, d => d[0].Tries == 1 && d[0].State == DeliveryState.Failed);
        await TakenAsync(await MailAsync("gone1@known.example"));
        await TakenAsync(await MailAsync("gone2@known.example"));
        await desk.DeliveriesAsync(gone, d => d[0].Tries > 1 && d[0].State == DeliveryState.Failed);
        await TakenAsync(await MailAsync("gone3@known.example"));
        var failed = Assert.Single(await desk.DeliveriesAsync(gone, _ => true));
        Assert.Equal((DeliveryState.Failed, 2), (failed.State, failed.Tries));
    }

    [Fact]
    public async Task The_server_of_the_settings_is_a_gateway_like_any_other()
    {
        await using var closed = new MailFarEnd();
        var address = closed.Address;
        await closed.DisposeAsync();
        string before;
        await using (var db = await desk.DbAsync())
        {
            await db.Gateways.Where(g => g.Channel == Channel.Mail).ExecuteDeleteAsync();
            before = await db.Businesses.Select(b => b.MailServer).SingleAsync();
            await db.Businesses.ExecuteUpdateAsync(s => s.SetProperty(b => b.MailServer, address));
        }

        desk.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        var order = await MailAsync("settings@known.example");
        await desk.DeliveriesAsync(order, d => d[0].Tries > 0);
        await desk.UntilAsync(
            async db =>
                await db.Businesses.AnyAsync(b => b.MailFailingSince != null)
                && await db.Events.AnyAsync(e => e.Type == "gateway.failing" && e.Subject == Gateway.OfSettings),
            "the server of the settings is said to fail"
        );
        await using (var db = await desk.DbAsync())
        {
            Assert.Contains("no connection to", await db.Businesses.Select(b => b.MailLastError).SingleAsync());
            await db.Businesses.ExecuteUpdateAsync(s => s.SetProperty(b => b.MailServer, before));
        }

        desk.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        await TakenAsync(order);
        await using var after = await desk.DbAsync();
        Assert.Null((await after.Businesses.AsNoTracking().SingleAsync()).MailFailingSince);
    }
}
