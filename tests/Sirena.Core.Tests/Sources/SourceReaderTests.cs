using NodaTime;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>A source's document: what it says, what stays, and the sentence for each mistake with its place.</summary>
public sealed class SourceReaderTests
{
    private static (SourcePlan? Plan, IReadOnlyList<DocumentError> Errors) Read(string json, Source? there = null, string id = "till") =>
        SourceReader.Read(DocumentText.Read(json, yaml: false).Node!, id, there);

    private static Source There(string kind = "calls") =>
        new()
        {
            Id = "till",
            Name = "Till",
            Kind = Names.Parse<SourceKind>(kind)!.Value,
            Prefix = "T-",
            Limit = 40,
            Takes = ["hold"],
        };

    [Theory]
    [InlineData("""{"name":"Till"}""", "kind", "'kind' is missing: a new source says how it comes, ")]
    [InlineData("""{"kind":"carrier-pigeon"}""", "kind", "'kind' must be one of events, calls, listing, documents.")]
    [InlineData("""{"kind":"calls","id":"other"}""", "id", "The address says 'till' and the source 'other'. Make them one.")]
    [InlineData("""{"kind":"calls","name":""}""", "name", "A name has 1 to 80 characters.")]
    [InlineData("""{"kind":"calls","prefix":"longer than twenty chars"}""", "prefix", "A prefix has at most 20 characters, such as 'Y-'.")]
    [InlineData("""{"kind":"calls","limit":0}""", "limit", "The limit is how many calls, or events, may come in a second: 1 to ")]
    [InlineData("""{"kind":"calls","limt":5}""", "limt", "limit")]
    [InlineData("""{"kind":"calls","proof":{}}""", "proof", "none is given.")]
    [InlineData("""{"kind":"calls","proof":{"key":true,"inAddress":true}}""", "proof", "key and inAddress are given.")]
    [InlineData("""{"kind":"calls","proof":{"key":true,"secret":"long enough"}}""", "proof.secret", "A key is made by Sirena, on the page Sources")]
    [InlineData("""{"kind":"calls","proof":{"key":"mine"}}""", "proof.key", "'key' is true.")]
    [InlineData("""{"kind":"calls","proof":{"standardWebhooks":{},"secret":"long enough"}}""", "proof.standardWebhooks", "'standardWebhooks' is true")]
    [InlineData("""{"kind":"calls","proof":{"inAddress":"a-long-secret"}}""", "proof.inAddress", "'inAddress' is true; its secret stands in 'secret'.")]
    [InlineData("""{"kind":"calls","proof":{"inAddress":true,"secret":"short"}}""", "proof.secret", "A secret has 8 to 500 characters.")]
    [InlineData("""{"kind":"calls","proof":{"standardWebhooks":true}}""", "proof.secret", "'secret' is missing: without it nothing can prove itself.")]
    [InlineData("""{"kind":"calls","proof":{"basic":{"user":"a:b"},"secret":"long enough"}}""", "proof.basic.user", "A user's name holds no colon")]
    [InlineData("""{"kind":"calls","proof":{"signature":{"header":"X Sig"},"secret":"long enough"}}""", "proof.signature.header", "A header's name is made of")]
    [InlineData(
        """{"kind":"calls","proof":{"signature":{"header":"X-Sig","algorithm":"sha265"},"secret":"long enough"}}""",
        "proof.signature.algorithm",
        "Did you mean 'sha256'?"
    )]
    [InlineData(
        """{"kind":"calls","proof":{"signature":{"header":"X-Sig","encoding":"base32"},"secret":"long enough"}}""",
        "proof.signature.encoding",
        "'encoding' is one of hex, base64."
    )]
    [InlineData("""{"kind":"listing"}""", "listing", "'listing' is missing:")]
    [InlineData("""{"kind":"calls","listing":{"role":"orders","key":"Nr"}}""", "listing", "'listing' belongs to a source of the kind listing.")]
    [InlineData("""{"kind":"listing","listing":{"role":"orders"}}""", "listing.key", "'key' is missing")]
    [InlineData("""{"kind":"listing","listing":{"role":"orders","key":"Nr","separator":";;"}}""", "listing.separator", "A separator is one character")]
    [InlineData("""{"kind":"listing","listing":{"role":"orders","key":"Nr","separator":"\""}}""", "listing.separator", "A separator is one character")]
    [InlineData("""{"kind":"listing","listing":{"role":"orders","key":"Nr","charset":"klingon"}}""", "listing.charset", "klingon")]
    [InlineData("""{"kind":"listing","listing":{"role":"orders","key":"Nr","url":"http://orders.example/a.csv"}}""", "listing.url", "over https")]
    [InlineData(
        """{"kind":"listing","listing":{"role":"orders","key":"Nr","url":"https://orders.example/a.csv"}}""",
        "listing.schedule",
        "'schedule' is missing"
    )]
    [InlineData("""{"kind":"listing","listing":{"role":"orders","key":"Nr","goneAtMost":1.5}}""", "listing.goneAtMost", "a share from 0 to 1")]
    [InlineData("""{"kind":"listing","listing":{"role":"orders","key":"Nr","stands":11}}""", "listing.stands", "1 to 10 runs")]
    [InlineData("""{"kind":"calls","silence":{"threshold":0.5}}""", "silence.threshold", "a number from 1 to 1,000")]
    [InlineData("""{"kind":"calls","silence":{"minutes":40321}}""", "silence.minutes", "1 to 40,320")]
    [InlineData("""{"kind":"calls","silence":{"notBefore":"soon","why":"a holiday"}}""", "silence.notBefore", "a time in RFC 3339")]
    [InlineData("""{"kind":"calls","silence":{"notBefore":"2026-11-25T00:00:00Z","why":"x"}}""", "silence.why", "3 to 200 characters")]
    [InlineData("""{"kind":"calls","instructionsTo":"ftp://till.example"}""", "instructionsTo", "begins with https://")]
    [InlineData("""{"kind":"calls","instructionsTo":"https://me:pw@till.example"}""", "instructionsTo", "holds no password")]
    [InlineData("""{"kind":"calls","instructionsSecret":"short"}""", "instructionsSecret", "8 to 500 characters")]
    [InlineData("""{"kind":"calls","seenWithin":"PT0S"}""", "seenWithin", "from PT1S to ")]
    [InlineData("""{"kind":"calls","takes":["hodl"]}""", "takes[0]", "Did you mean 'hold'?")]
    [InlineData("""{"kind":"calls","takes":[["hold"]]}""", "takes[0]", "An instruction is a name, such as hold")]
    [InlineData("""{"kind":"calls","takes":[{"name":"hold","shows":{"field":"order.extra.x","is":"present"}}]}""", "takes[0].name", "none that Sirena knows")]
    [InlineData("""{"kind":"calls","takes":[{"name":"gift-wrap"}]}""", "takes[0].shows", "'shows' is missing")]
    [InlineData(
        """{"kind":"calls","takes":[{"name":"gift-wrap","members":["order"],"shows":{"field":"order.extra.x","is":"present"}}]}""",
        "takes[0].members",
        "order, kind, tell and because are taken"
    )]
    [InlineData(
        """{"kind":"calls","takes":[{"name":"wrap","shows":{"field":"order.extra.x","is":"present"}},{"name":"wrap","shows":{"field":"order.extra.y","is":"present"}}]}""",
        "takes",
        "Two instructions are called 'wrap'."
    )]
    [InlineData(
        """{"kind":"calls","intake":{"exceptions":[{"date":"2026-12-24","from":"08:00","to":"09:00"},{"date":"2026-12-24","from":"14:00","to":"15:00"}]}}""",
        "intake.exceptions",
        "2026-12-24 stands here twice. Keep one of the two."
    )]
    [InlineData("""{"kind":"calls","intake":{"exceptions":[{"date":"soon"}]}}""", "intake.exceptions[0].date", "'soon' is no day, such as 2026-12-24.")]
    [InlineData(
        """{"kind":"calls","intake":{"exceptions":[{"date":"2026-12-24","from":"08:00"}]}}""",
        "intake.exceptions[0]",
        "both 'from' and 'to', or neither"
    )]
    [InlineData("""{"kind":"calls","name":"Fish\ndock"}""", "name", "'name' is one line")]
    [InlineData("""{"kind":"calls","name":"Bell\u0007"}""", "name", "a line break or another control character stands in it")]
    [InlineData("""["a"]""", "", "A source")]
    public void Each_mistake_is_named_with_its_place(string json, string path, string problem)
    {
        var (plan, errors) = Read(json);
        Assert.Null(plan);
        Assert.Contains(errors, e => e.Path == path && e.Problem.Contains(problem, StringComparison.Ordinal));
    }

    [Fact]
    public void What_is_left_out_of_a_source_that_is_there_stays()
    {
        var (plan, errors) = Read("""{"name":"Till at the quay"}""", There());
        Assert.Empty(errors);
        Assert.Equal(("Till at the quay", SourceKind.Calls, true, "T-", 40), (plan!.Name, plan.Kind, plan.On, plan.Prefix, plan.Limit));
        Assert.Equal(["hold"], plan.Taking.Takes);
        Assert.Null(plan.Secret);
        Assert.Empty(Read("""{"takes":[]}""", There()).Plan!.Taking.Takes);
    }

    [Fact]
    public void A_kind_stays_what_it_is()
    {
        var error = Assert.Single(Read("""{"kind":"events"}""", There()).Errors);
        Assert.Equal(("kind", "A source's kind stays: this one is calls. Make another source for events."), (error.Path, error.Problem));
        Assert.Empty(Read("""{"kind":"calls"}""", There()).Errors);
    }

    [Theory]
    [InlineData("Till")]
    [InlineData("a_b")]
    [InlineData("")]
    public void An_id_is_made_of_small_letters_digits_and_hyphens(string id) =>
        Assert.Contains(Read("""{"kind":"calls"}""", id: id).Errors, e => e.Path == "id" && e.Problem.StartsWith("An id is made of", StringComparison.Ordinal));

    [Theory]
    [InlineData("tab", '\t')]
    [InlineData("\\\\t", '\t')]
    [InlineData("\\t", '\t')]
    [InlineData(";", ';')]
    [InlineData("|", '|')]
    public void A_separator_is_a_sign_or_the_word_tab(string written, char sign)
    {
        var (plan, errors) = Read($$$"""{"kind":"listing","listing":{"role":"orders","key":"Nr","separator":"{{{written}}}"}}""");
        Assert.Empty(errors);
        Assert.Equal(sign, plan!.Listing!.Separator);
    }

    [Fact]
    public void A_proof_says_by_what_and_carries_its_secret()
    {
        var signed = Read(
            """{"kind":"calls","proof":{"signature":{"header":"X-Sig","algorithm":"sha512","encoding":"base64","before":"v1=","timeHeader":"X-At"},"secret":"long enough"}}"""
        ).Plan!;
        Assert.Equal(
            (ProofKind.Signature, "X-Sig", "sha512", "base64", "v1=", "X-At", "long enough"),
            (signed.Proof.Kind, signed.Proof.Header, signed.Proof.Algorithm, signed.Proof.Encoding, signed.Proof.Before, signed.Proof.TimeHeader, signed.Secret)
        );
        Assert.Equal(ProofKind.Key, Read("""{"kind":"calls"}""").Plan!.Proof.Kind);
        Assert.Equal(ProofKind.InAddress, Read("""{"kind":"calls","proof":{"inAddress":true}}""").Plan!.Proof.Kind);
        Assert.Equal("desk", Read("""{"kind":"calls","proof":{"basic":{"user":"desk"},"secret":"long enough"}}""").Plan!.Proof.User);
    }

    [Fact]
    public void Silence_is_put_off_with_a_reason_and_taken_back_by_an_empty_text()
    {
        var plan = Read("""{"kind":"calls","silence":{"notBefore":"2026-11-25T00:00:00Z","why":" the fair "}}""").Plan!;
        Assert.Equal((Instant.FromUtc(2026, 11, 25, 0, 0), "the fair"), (plan.Silence.NotBefore, plan.Silence.Why));
        var there = There();
        there.Silence = plan.Silence;
        Assert.Equal("the fair", Read("""{"silence":{"minutes":30}}""", there).Plan!.Silence.Why);
        Assert.Equal(
            (null, null),
            (Read("""{"silence":{"notBefore":""}}""", there).Plan!.Silence.NotBefore, Read("""{"silence":{"notBefore":""}}""", there).Plan!.Silence.Why)
        );
    }

    [Fact]
    public void Hours_of_intake_are_spans_and_days_that_differ()
    {
        var hours = Read(
            """{"kind":"calls","intake":{"open":[{"days":["mon","tue"],"from":"06:00","to":"14:00"}],"exceptions":[{"date":"2026-12-24"},{"date":"2026-12-31","from":"08:00","to":"10:00"}],"holidays":false}}"""
        ).Plan!.Taking.Hours!;
        Assert.Single(hours.Open);
        Assert.Equal([(null, null), (new LocalTime(8, 0), new LocalTime(10, 0))], hours.Exceptions.Select(e => ((LocalTime?)e.From, (LocalTime?)e.To)));
        Assert.False(hours.Holidays);
        Assert.Null(Read("""{"kind":"calls","intake":"always"}""").Plan!.Taking.Hours);
    }
}
