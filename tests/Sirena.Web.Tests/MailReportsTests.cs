using System.Text.Json.Nodes;
using MimeKit;
using Sirena.Channels.Mail;
using Sirena.Demo.StandIns;
using Sirena.Shots;

namespace Sirena.Web.Tests;

/// <summary>Mail asks for reports, and the reports that come back over SMTP decide whether it landed.</summary>
public sealed class MailReportsTests : IAsyncLifetime
{
    private World world = null!;
    private HttpClient http = null!;

    public async ValueTask InitializeAsync()
    {
        world = await World.MakeAsync(Environment.GetEnvironmentVariable("SIRENA_TEST_SERVER")!, days: 0, aDay: 0, reports: true);
        http = new HttpClient { BaseAddress = new Uri(world.Url), DefaultRequestHeaders = { { "Authorization", "Bearer " + world.Demo.Token } } };
    }

    public async ValueTask DisposeAsync()
    {
        http.Dispose();
        await world.DisposeAsync();
    }

    private async Task<JsonNode> DeliveryAsync(string order, Func<JsonNode, bool> good)
    {
        JsonNode? last = null;
        for (var tries = 0; tries < 150; tries++)
        {
            last = JsonNode.Parse(await http.GetStringAsync($"/api/deliveries?order={order}"))!["items"]!.AsArray().LastOrDefault();
            if (last is not null && good(last))
            {
                return last;
            }

            await Task.Delay(80, TestContext.Current.CancellationToken);
        }

        Assert.Fail($"Waited in vain: {last}");
        return last!;
    }

    private async Task PostAsync(string order)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/events")
        {
            Content = new StringContent(
                $$$"""{"specversion":"1.0","id":"{{{order}}}","source":"/t","type":"test.report","subject":"{{{order}}}","data":{"order":{"number":"{{{order}}}"} } }""",
                null,
                "application/cloudevents+json"
            ),
        };
        request.Headers.Authorization = new("Bearer", world.Demo.SourceKey);
        (await http.SendAsync(request)).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task A_report_of_delivery_lands_a_mail_a_bounce_fails_it_and_marks_the_address_and_a_forged_one_does_nothing()
    {
        (
            await http.PutAsync(
                "/api/rules/report",
                new StringContent("name: report\nwhen: [test.report]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }", null, "application/yaml")
            )
        ).EnsureSuccessStatusCode();
        for (var tries = 0; tries < 50 && world.StandIns.Mail.Mails.Count == 0; tries++)
        {
            // The first events wait until the node listens for reports.
            await PostAsync($"R-{tries}");
            await Task.Delay(300, TestContext.Current.CancellationToken);
        }

        await PostAsync("R-good");
        var landed = await DeliveryAsync("R-good", d => (string)d["state"]! == "landed");
        Assert.Equal("delivered", (string)landed["receipts"]![0]!["kind"]!);
        Assert.Contains("2.1.5", (string)landed["receipts"]![0]!["text"]!);
        var mail = world.StandIns.Mail.Mails.Last(m => m.Subject.Contains("R-good", StringComparison.Ordinal));
        Assert.StartsWith("sirena+", mail.From);
        Assert.Contains("From: Averil Quay", mail.Raw);

        world.StandIns.Faults.Add(new Fault("mail", "ines.calder@*", "drop", 0) { TimesLeft = 1 });
        await PostAsync("R-forged");
        await DeliveryAsync("R-forged", d => (string)d["state"]! == "handed-over");
        var forged = new MimeMessage
        {
            Subject = "Delivered",
            Body = new TextPart("plain") { Text = "x" },
        };
        forged.From.Add(new MailboxAddress("", "mailer-daemon@b.example"));
        using (var smtp = new MailKit.Net.Smtp.SmtpClient())
        {
            await smtp.ConnectAsync(
                "127.0.0.1",
                world.StandIns.Mail.ReportsTo!.Port,
                MailKit.Security.SecureSocketOptions.None,
                TestContext.Current.CancellationToken
            );
            await smtp.SendAsync(
                forged,
                new MailboxAddress("", "mailer-daemon@b.example"),
                [
                    new MailboxAddress(
                        "",
                        ReturnAddress.For(Guid.Parse((string)(await DeliveryAsync("R-forged", _ => true))["id"]!), new byte[32], "averilquay.example")
                    ),
                ],
                TestContext.Current.CancellationToken
            );
            await Assert.ThrowsAsync<MailKit.Net.Smtp.SmtpCommandException>(() =>
                smtp.SendAsync(
                    forged,
                    new MailboxAddress("", "a@b.example"),
                    [new MailboxAddress("", "somebody@averilquay.example")],
                    TestContext.Current.CancellationToken
                )
            );
        }

        Assert.Equal("handed-over", (string)(await DeliveryAsync("R-forged", _ => true))["state"]!);

        // Something landed at this address within the hour, so a bounce fails the delivery and leaves the address as it is; an hour later it is marked.
        await world.ExecuteAsync("update deliveries set landed_at = landed_at - interval '2 hours' where landed_at is not null");
        world.StandIns.Faults.Add(new Fault("mail", "ines.calder@*", "bounce", 0) { TimesLeft = 1 });
        await PostAsync("R-bounce");
        var failed = await DeliveryAsync("R-bounce", d => (string)d["state"]! == "failed");
        Assert.Contains("5.1.1", (string)failed["reason"]!);
        var ines = JsonNode.Parse(await http.GetStringAsync("/api/people"))!["items"]!.AsArray().First(p => (string)p!["id"]! == "ines.calder")!;
        Assert.Contains("5.1.1", ines["contacts"]!.AsArray().First(c => (string)c!["channel"]! == "mail")!.ToJsonString());
    }
}
