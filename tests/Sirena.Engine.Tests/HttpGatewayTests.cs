using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Http;
using Sirena.Channels;
using Sirena.Channels.Http;
using Sirena.Core.Deliveries;
using Sirena.Engine.Dispatch;

namespace Sirena.Engine.Tests;

public class HttpGatewayTests
{
    private static readonly OutgoingMessage Message = new(
        Guid.Parse("01a21a83-111a-7ddc-99e1-dbc43e38f07e"),
        "+447700900123",
        "AQ-1",
        "Held",
        "Line \"one\"\nline two – 'é'",
        null
    );

    private static HttpGateway Gateway(
        string url,
        string? key = null,
        string? idAt = "id",
        string? errorAt = "error.message",
        string body = Gateways.DefaultBody
    ) =>
        new(
            new HttpSettings(
                Channel.Sms,
                "Test network",
                new Uri(url + "/messages"),
                new Dictionary<string, string> { ["X-Account"] = "averil" },
                body,
                idAt,
                errorAt,
                key,
                "https://sirena.example/api/receipts/test",
                4
            ),
            new OutsideHosts(["127.0.0.1"]),
            TimeProvider.System
        );

    [Theory]
    [InlineData(200, """{"id":"m-1"}""", AttemptOutcome.Accepted, """{"id":"m-1"}""", "m-1")]
    [InlineData(201, """{"id":42}""", AttemptOutcome.Accepted, """{"id":42}""", "42")]
    [InlineData(202, "", AttemptOutcome.Accepted, "HTTP 202", null)]
    [InlineData(200, """{"id":"\ud800"}""", AttemptOutcome.Accepted, """{"id":"\ud800"}""", null)]
    [InlineData(200, "taken", AttemptOutcome.Accepted, "taken", null)]
    [InlineData(400, """{"error":{"message":"no such number"}}""", AttemptOutcome.Permanent, "no such number", null)]
    [InlineData(422, "not here", AttemptOutcome.Permanent, "not here", null)]
    [InlineData(401, """{"error":{"message":"bad key"}}""", AttemptOutcome.Gateway, "the gateway does not know us: bad key", null)]
    [InlineData(403, "", AttemptOutcome.Gateway, "the gateway does not know us: HTTP 403", null)]
    [InlineData(404, "", AttemptOutcome.Gateway, "the gateway's address is not right: HTTP 404", null)]
    [InlineData(301, "", AttemptOutcome.Gateway, "the gateway's address is not right: HTTP 301", null)]
    [InlineData(429, "slow down", AttemptOutcome.Temporary, "slow down", null)]
    [InlineData(503, "", AttemptOutcome.Temporary, "HTTP 503", null)]
    public async Task A_status_says_whose_trouble_it_is_and_the_answer_is_kept_word_for_word(
        int status,
        string answer,
        AttemptOutcome outcome,
        string reply,
        string? id
    )
    {
        await using var far = await FarEnd.StartAsync(http =>
        {
            http.Response.StatusCode = status;
            http.Response.Headers.Location = status == 301 ? "/elsewhere" : default;
            return http.Response.WriteAsync(answer);
        });
        await using var gateway = Gateway(far.Url);
        var said = await gateway.HandOverAsync(Message, TestContext.Current.CancellationToken);
        Assert.Equal((outcome, reply, id, $"{status}"), (said.Outcome, said.Reply, said.FarId, said.Code));
        Assert.Single(far.Got);
    }

    [Fact]
    public async Task The_body_is_JSON_whatever_the_text_and_the_call_is_signed()
    {
        var key = WebhookSignature.NewKey();
        await using var far = await FarEnd.StartAsync(http => http.Response.WriteAsync("{}"));
        await using var gateway = Gateway(far.Url, key);
        await gateway.HandOverAsync(Message, TestContext.Current.CancellationToken);
        var (path, body, headers) = Assert.Single(far.Got);
        using var sent = JsonDocument.Parse(body);
        Assert.Equal("/messages", path);
        Assert.Equal(
            (Message.Text, Message.To, Message.Id.ToString(), "https://sirena.example/api/receipts/test"),
            (Member("text"), Member("to"), Member("id"), Member("receipts"))
        );
        Assert.Equal("averil", headers["X-Account"]);
        Assert.Equal(Message.Id.ToString(), headers["webhook-id"]);
        var at = long.Parse(headers["webhook-timestamp"], System.Globalization.CultureInfo.InvariantCulture);
        Assert.True(WebhookSignature.Holds([key], headers["webhook-id"], at, Encoding.UTF8.GetBytes(body), headers["webhook-signature"]));
        Assert.False(WebhookSignature.Holds([key], headers["webhook-id"], at, Encoding.UTF8.GetBytes(body + " "), headers["webhook-signature"]));

        string Member(string name) => sent.RootElement.GetProperty(name).GetString()!;
    }

    [Fact]
    public async Task A_line_that_drops_before_the_answer_may_have_taken_the_message_and_one_that_never_stood_has_not()
    {
        await using var far = await FarEnd.StartAsync(http =>
        {
            http.Abort();
            return Task.CompletedTask;
        });
        await using var dropped = Gateway(far.Url);
        Assert.Equal(AttemptOutcome.Unknown, (await dropped.HandOverAsync(Message, TestContext.Current.CancellationToken)).Outcome);
        await using var nobody = Gateway("http://127.0.0.1:9");
        var said = await nobody.HandOverAsync(Message, TestContext.Current.CancellationToken);
        Assert.Equal(AttemptOutcome.Gateway, said.Outcome);
        Assert.StartsWith("no connection to 127.0.0.1:9", said.Reply);
    }

    [Theory]
    [InlineData("id", """{"id":"x"}""", "x")]
    [InlineData("messages.0.id", """{"messages":[{"id":"y"}]}""", "y")]
    [InlineData("messages.1.id", """{"messages":[{"id":"y"}]}""", null)]
    [InlineData("a.b", """{"a":"text"}""", null)]
    [InlineData("a", """{"a":{"b":1}}""", null)]
    [InlineData(null, """{"id":"x"}""", null)]
    public async Task The_message_s_id_stands_where_the_settings_say(string? idAt, string answer, string? id)
    {
        await using var far = await FarEnd.StartAsync(http => http.Response.WriteAsync(answer));
        await using var gateway = Gateway(far.Url, idAt: idAt);
        Assert.Equal(id, (await gateway.HandOverAsync(Message, TestContext.Current.CancellationToken)).FarId);
    }

    [Fact]
    public void A_signature_holds_for_either_of_two_keys_while_they_change_over()
    {
        var (old, fresh, body) = (WebhookSignature.NewKey(), WebhookSignature.NewKey(), "{}"u8.ToArray());
        var header = WebhookSignature.Sign(old, "id-1", 1_795_741_126, body);
        Assert.True(WebhookSignature.Holds([fresh, old], "id-1", 1_795_741_126, body, "v1,AAAA " + header));
        Assert.False(WebhookSignature.Holds([fresh], "id-1", 1_795_741_126, body, header));
        Assert.False(WebhookSignature.Holds([old], "id-2", 1_795_741_126, body, header));
        Assert.False(WebhookSignature.Holds([old], "id-1", 1_795_741_127, body, header));
        Assert.False(WebhookSignature.Holds([], "id-1", 1_795_741_126, body, header));
        Assert.False(WebhookSignature.Holds([old], "id-1", 1_795_741_126, body, ""));
    }
}
