using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using MailKit.Net.Smtp;
using MimeKit;
using Sirena.Demo.StandIns;

namespace Sirena.Engine.Tests;

public sealed class StandInsTests : IAsyncLifetime
{
    private readonly int port = StandInHost.FreePort();
    private readonly HttpClient http = new(new HttpClientHandler { AllowAutoRedirect = false });
    private StandInHost host = null!;

    private string Url => $"http://127.0.0.1:{port}";

    public async ValueTask InitializeAsync() => host = await StandInHost.StartAsync(port, 0);

    public async ValueTask DisposeAsync()
    {
        http.Dispose();
        await host.DisposeAsync();
    }

    private async Task<string> MailAsync(string to)
    {
        using var client = new SmtpClient();
        await client.ConnectAsync("127.0.0.1", host.SmtpPort, MailKit.Security.SecureSocketOptions.None);
        try
        {
            return await client.SendAsync(
                new MimeMessage([MailboxAddress.Parse("from@a.example")], [MailboxAddress.Parse(to)], "Subject ä", new TextPart("plain") { Text = "Text" })
            );
        }
        catch (MailKit.ServiceNotAuthenticatedException)
        {
            return "530";
        }
        catch (Exception e) when (e is SmtpCommandException or SmtpProtocolException or IOException)
        {
            return e is SmtpCommandException c ? ((int)c.StatusCode).ToString() : "dropped";
        }
    }

    private async Task<JsonArray> ArrivedAsync(string to) => (await http.GetFromJsonAsync<JsonArray>($"{Url}/mail?to={Uri.EscapeDataString(to)}"))!;

    private Task<HttpResponseMessage> FaultAsync(string fault, string match, string more = "") =>
        http.PostAsync($"{Url}/faults", new StringContent($$"""{"channel":"mail","match":"{{match}}","fault":"{{fault}}"{{more}}}"""));

    [Fact]
    public async Task What_arrived_is_read_as_JSON_by_address_without_regard_to_case_and_emptied()
    {
        await MailAsync("Ines@A.example");
        var mail = Assert.Single(await ArrivedAsync("ines@a.EXAMPLE"))!;
        Assert.Equal(
            ("Subject ä", "Text", "inbox", "from@a.example"),
            (mail["subject"]!.GetValue<string>(), mail["text"]!.GetValue<string>().Trim(), mail["folder"]!.GetValue<string>(), mail["from"]!.GetValue<string>())
        );
        Assert.Contains("Subject:", mail["raw"]!.GetValue<string>());
        Assert.Contains("Subject ä", WebUtility.HtmlDecode(await http.GetStringAsync(Url)));
        Assert.Equal(HttpStatusCode.NoContent, (await http.DeleteAsync($"{Url}/mail")).StatusCode);
        Assert.Empty(await ArrivedAsync("ines@a.example"));
    }

    [Theory]
    [InlineData("refuse", "550", 0)]
    [InlineData("defer", "451", 0)]
    [InlineData("close", "dropped", 0)]
    [InlineData("close-after", "dropped", 1)]
    [InlineData("drop", "2.0.0", 0)]
    [InlineData("junk", "2.0.0", 1)]
    public async Task Each_fault_does_what_its_word_says_for_as_many_attempts_as_it_says(string fault, string answer, int stored)
    {
        Assert.Equal(HttpStatusCode.Created, (await FaultAsync(fault, "*@CORVANE.example", ",\"times\":1")).StatusCode);
        Assert.StartsWith(answer, await MailAsync("purser@corvane.example"));
        Assert.Equal(stored, (await ArrivedAsync("purser@corvane.example")).Count);
        Assert.StartsWith("2.0.0", await MailAsync("purser@corvane.example"));
        Assert.StartsWith("2.0.0", await MailAsync("other@a.example"));
    }

    [Fact]
    public async Task The_server_itself_has_faults_that_real_ones_have()
    {
        using var line = new System.Net.Sockets.TcpClient();
        await FaultAsync("idle", "*", ",\"seconds\":0.5,\"times\":100");
        await line.ConnectAsync("127.0.0.1", host.SmtpPort, TestContext.Current.CancellationToken);
        using var heard = new StreamReader(line.GetStream());
        Assert.StartsWith("220 ", await heard.ReadLineAsync(TestContext.Current.CancellationToken));
        Assert.StartsWith("421 4.4.2 ", await heard.ReadLineAsync(TestContext.Current.CancellationToken));
        Assert.Null(await heard.ReadLineAsync(TestContext.Current.CancellationToken));
        await http.DeleteAsync($"{Url}/faults", TestContext.Current.CancellationToken);

        await FaultAsync("size", "*", ",\"seconds\":0.1");
        Assert.StartsWith("552", await MailAsync("a@a.example"));
        await http.DeleteAsync($"{Url}/faults", TestContext.Current.CancellationToken);
        await FaultAsync("starttls", "*", ",\"times\":1");
        Assert.StartsWith("530", await MailAsync("a@a.example"));
        Assert.StartsWith("2.0.0", await MailAsync("a@a.example"));

        using var dripping = new System.Net.Sockets.TcpClient();
        await FaultAsync("slow", "*");
        await dripping.ConnectAsync("127.0.0.1", host.SmtpPort, TestContext.Current.CancellationToken);
        Assert.Equal(1, await dripping.GetStream().ReadAsync(new byte[100], TestContext.Current.CancellationToken));
    }

    [Fact]
    public async Task Faults_last_until_they_are_lifted_and_an_unknown_one_is_refused_in_a_sentence()
    {
        await FaultAsync("refuse", "*");
        Assert.Equal("550", await MailAsync("a@a.example"));
        Assert.Equal("550", await MailAsync("a@a.example"));
        await http.DeleteAsync($"{Url}/faults");
        Assert.StartsWith("2.0.0", await MailAsync("a@a.example"));
        var refused = await FaultAsync("explode", "*");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
        Assert.Contains("'explode' is none of refuse, defer", await refused.Content.ReadAsStringAsync());
    }
}
