using System.Globalization;
using System.Text;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Core.Sources;

namespace Sirena.Engine.Tests;

/// <summary>Whether a call proves that it is its source's: by signature, user, address, Standard Webhooks; at the edges of each.</summary>
public sealed class CallProofTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 14, 30);
    private static readonly byte[] Body = Encoding.UTF8.GetBytes("""{"no":"AQ-1"}""");

    private static CallRefusal? Check(
        SourceProof proof,
        string[] secrets,
        Dictionary<string, string>? headers = null,
        string? inAddress = null,
        byte[]? body = null
    ) => CallProof.Check(proof, secrets, new CallFacts(h => headers?.GetValueOrDefault(h), body ?? Body, inAddress), Now);

    private static SourceProof Signed(string algorithm = "sha256", string encoding = "hex", string before = "", string? time = null) =>
        new()
        {
            Kind = ProofKind.Signature,
            Header = "X-Signature",
            Algorithm = algorithm,
            Encoding = encoding,
            Before = before,
            TimeHeader = time,
        };

    [Theory]
    [InlineData("sha256", "hex", "")]
    [InlineData("sha256", "base64", "v1=")]
    [InlineData("sha512", "hex", "sha512=")]
    [InlineData("sha1", "base64", "")]
    public void A_body_that_is_signed_as_the_source_says_is_taken(string algorithm, string encoding, string before)
    {
        var proof = Signed(algorithm, encoding, before);
        var signature = CallProof.Sign(proof, "quay", null, Body);
        Assert.StartsWith(before, signature);
        Assert.Null(Check(proof, ["quay"], new() { ["X-Signature"] = signature }));
        Assert.Null(Check(proof, ["another", "quay"], new() { ["X-Signature"] = " " + signature + " " }));

        // Another body, another secret, another algorithm, half of it: none is taken.
        Assert.Equal("wrong-signature", Check(proof, ["quay"], new() { ["X-Signature"] = signature }, body: [.. Body, (byte)' '])!.Kind);
        Assert.Equal("wrong-signature", Check(proof, ["Quay"], new() { ["X-Signature"] = signature })!.Kind);
        Assert.Equal(
            "wrong-signature",
            Check(Signed(algorithm == "sha1" ? "sha256" : "sha1", encoding, before), ["quay"], new() { ["X-Signature"] = signature })!.Kind
        );
        Assert.Equal("wrong-signature", Check(proof, ["quay"], new() { ["X-Signature"] = signature[..^2] })!.Kind);
    }

    [Fact]
    public void The_signature_is_that_of_RFC_4231() =>
        Assert.Equal(
            "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843",
            CallProof.Sign(Signed(), "Jefe", null, Encoding.ASCII.GetBytes("what do ya want for nothing?"))
        );

    [Theory]
    [InlineData("")]
    [InlineData("zz")]
    [InlineData("abc")]
    [InlineData("sha256=")]
    public void What_is_no_signature_is_refused_without_a_fault(string header)
    {
        var refused = Check(Signed(), ["quay"], new() { ["X-Signature"] = header });
        Assert.Equal(header.Length == 0 ? "no-proof" : "wrong-signature", refused!.Kind);
        Assert.DoesNotContain("quay", refused.Sentence);
    }

    [Fact]
    public void Without_the_word_before_it_a_signature_is_none_and_the_word_may_be_written_large()
    {
        var proof = Signed(before: "sha256=");
        var signature = CallProof.Sign(proof, "quay", null, Body);
        Assert.Equal("wrong-signature", Check(proof, ["quay"], new() { ["X-Signature"] = signature["sha256=".Length..] })!.Kind);
        Assert.Null(Check(proof, ["quay"], new() { ["X-Signature"] = "SHA256=" + signature["sha256=".Length..].ToUpperInvariant() }));
    }

    [Theory]
    [InlineData(0, null)]
    [InlineData(-300, null)]
    [InlineData(300, null)]
    [InlineData(-301, "too-old")]
    [InlineData(301, "too-old")]
    public void A_time_that_is_signed_too_may_be_five_minutes_off(int seconds, string? kind)
    {
        var proof = Signed(time: "X-Time");
        var at = (Now + Duration.FromSeconds(seconds)).ToUnixTimeSeconds();
        foreach (
            var time in new[] { $"{at}", $"{at}000", (Now + Duration.FromSeconds(seconds)).ToString("uuuu-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture) }
        )
        {
            var headers = new Dictionary<string, string> { ["X-Time"] = time, ["X-Signature"] = CallProof.Sign(proof, "quay", time, Body) };
            Assert.Equal(kind, Check(proof, ["quay"], headers)?.Kind);
        }
    }

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("soon")]
    [InlineData("-5")]
    [InlineData("99999999999999999999")]
    [InlineData("7000000000000")]
    public void Without_a_time_that_can_be_read_a_call_is_refused(string? time)
    {
        var headers = new Dictionary<string, string> { ["X-Signature"] = "00" };
        if (time is not null)
        {
            headers["X-Time"] = time;
        }

        Assert.Equal("no-time", Check(Signed(time: "X-Time"), ["quay"], headers)!.Kind);
    }

    [Fact]
    public void A_signature_over_the_body_alone_does_not_do_where_the_time_is_signed_too()
    {
        var proof = Signed(time: "X-Time");
        var headers = new Dictionary<string, string> { ["X-Time"] = $"{Now.ToUnixTimeSeconds()}", ["X-Signature"] = CallProof.Sign(proof, "quay", null, Body) };
        var refused = Check(proof, ["quay"], headers)!;
        Assert.Equal("wrong-signature", refused.Kind);
        Assert.Contains("HMAC-SHA256 over the time, a point and the raw body, in hex", refused.Sentence);
    }

    [Theory]
    [InlineData("ledger:quay", null)]
    [InlineData("ledger:Quay", "wrong-password")]
    [InlineData("Ledger:quay", "wrong-password")]
    [InlineData("quay", "wrong-password")]
    [InlineData("ledger:quay\n", "wrong-password")]
    public void A_user_and_a_password_are_those_of_the_source(string pair, string? kind)
    {
        var proof = new SourceProof { Kind = ProofKind.Basic, User = "ledger" };
        var header = "Basic " + Convert.ToBase64String(Encoding.UTF8.GetBytes(pair));
        Assert.Equal(kind, Check(proof, ["quay"], new() { ["Authorization"] = header })?.Kind);
        Assert.Equal(kind, Check(proof, ["quay"], new() { ["Authorization"] = header.Replace("Basic", "basic", StringComparison.Ordinal) })?.Kind);
    }

    [Theory]
    [InlineData(null)]
    [InlineData("Bearer x")]
    [InlineData("Basic")]
    public void Without_basic_proof_the_way_is_said(string? header)
    {
        var headers = header is null ? null : new Dictionary<string, string> { ["Authorization"] = header };
        Assert.Equal("no-proof", Check(new SourceProof { Kind = ProofKind.Basic, User = "ledger" }, ["quay"], headers)!.Kind);
    }

    [Theory]
    [InlineData("quay", null)]
    [InlineData("old", null)]
    [InlineData("Quay", "wrong-address")]
    [InlineData("quay/", "wrong-address")]
    [InlineData("", "wrong-address")]
    [InlineData(null, "no-proof")]
    public void A_secret_in_the_address_is_one_of_those_that_hold(string? given, string? kind) =>
        Assert.Equal(kind, Check(new SourceProof { Kind = ProofKind.InAddress }, ["quay", "old"], inAddress: given)?.Kind);

    [Fact]
    public void Standard_Webhooks_are_checked_with_each_secret_and_each_signature()
    {
        var proof = new SourceProof { Kind = ProofKind.StandardWebhooks };
        var (key, at) = (WebhookSignature.NewKey(), Now.ToUnixTimeSeconds());
        Dictionary<string, string> Headers(string signature, string? time = null, string id = "msg_1") =>
            new()
            {
                ["webhook-id"] = id,
                ["webhook-timestamp"] = time ?? $"{at}",
                ["webhook-signature"] = signature,
            };
        var right = WebhookSignature.Sign(key, "msg_1", at, Body);
        Assert.Null(Check(proof, [WebhookSignature.NewKey(), key], Headers($"v1,AAAA {right} v2,x")));
        Assert.Null(Check(proof, [key["whsec_".Length..]], Headers(right)));
        Assert.Equal("wrong-signature", Check(proof, [key], Headers(right, id: "msg_2"))!.Kind);
        Assert.Equal("wrong-signature", Check(proof, [key], Headers(right, $"{at + 1}"))!.Kind);
        Assert.Equal("too-old", Check(proof, [key], Headers(WebhookSignature.Sign(key, "msg_1", at - 301, Body), $"{at - 301}"))!.Kind);
        Assert.Equal("no-time", Check(proof, [key], Headers(right, "now"))!.Kind);
        Assert.Equal("no-proof", Check(proof, [key], Headers(""))!.Kind);
        Assert.Equal("no-proof", Check(proof, [key])!.Kind);
    }

    [Fact]
    public void A_source_without_a_secret_takes_nothing_and_one_with_keys_wants_one()
    {
        Assert.Equal("no-secret", Check(Signed(), [], new() { ["X-Signature"] = "00" })!.Kind);
        Assert.Equal("wrong-key", Check(new SourceProof { Kind = ProofKind.Key }, ["x"])!.Kind);
    }
}
