using NodaTime;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>A source as its document: what is written is read again as the same, and its secrets never stand in it.</summary>
public sealed class SourceWriterTests
{
    private static SourcePlan Read(string document, Source? there = null)
    {
        var (plan, errors) = SourceReader.Read(DocumentText.Read(document, yaml: false).Node!, "till", there);
        Assert.Equal([], errors.Select(e => $"{e.Path}: {e.Problem}"));
        return plan!;
    }

    private static Source Made(SourcePlan plan) =>
        new()
        {
            Id = "till",
            Name = plan.Name,
            Kind = plan.Kind,
            On = plan.On,
            Prefix = plan.Prefix,
            Limit = plan.Limit,
            Proof = plan.Proof,
            Secret = plan.Secret,
            Reading = plan.Reading,
            Listing = plan.Listing,
            Silence = plan.Silence,
            InstructionsTo = plan.Taking.To,
            InstructionsSecret = plan.Taking.Secret,
            Takes = plan.Taking.Takes,
            OwnInstructions = plan.Taking.Own,
            SightSeconds = plan.Taking.Sight,
            TrySeconds = plan.Taking.Try,
            IntakeHours = plan.Taking.Hours,
        };

    [Theory]
    [InlineData("""{"kind":"events","name":"Till","on":false,"prefix":"T-","limit":7}""")]
    [InlineData(
        """{"kind":"calls","proof":{"signature":{"header":"X-Sig","algorithm":"sha512","encoding":"base64","before":"v1=","timeHeader":"X-T"},"secret":"long enough"}}"""
    )]
    [InlineData("""{"kind":"calls","proof":{"basic":{"user":"quay"},"secret":"long enough"}}""")]
    [InlineData("""{"kind":"calls","proof":{"standardWebhooks":true,"secret":"long enough"}}""")]
    [InlineData("""{"kind":"calls","proof":{"inAddress":true,"secret":"long enough"}}""")]
    [InlineData("""{"kind":"calls","reading":{"event":{"always":"order.changed"},"order":{"number":{"path":"$.no"}}}}""")]
    [InlineData(
        """{"kind":"listing","listing":{"role":"check","key":"Nr","gone":"cancelled","separator":"tab","charset":"windows-1252","schedule":"15 2 * * *","url":"https://orders.example/open.csv","goneAtMost":0.3,"changedAtMost":0.5,"stands":2}}"""
    )]
    [InlineData("""{"kind":"listing","listing":{"role":"things","key":"sku","folder":"/var/lists"}}""")]
    [InlineData("""{"kind":"documents","listing":{"folder":"/var/ubl"}}""")]
    [InlineData("""{"kind":"calls","silence":{"watch":false,"threshold":12.5,"minutes":90,"notBefore":"2026-11-24T15:30:00Z","why":"it is moved"}}""")]
    [InlineData(
        """{"kind":"calls","instructionsTo":"https://till.example/in","instructionsSecret":"long enough","takes":["hold",{"name":"gift-wrap","button":"Wrap it","members":["paper"],"shows":{"field":"order.extra.wrapped","is":"equal","value":true},"final":true}],"seenWithin":"PT5M","tryFor":"PT15M"}"""
    )]
    [InlineData(
        """{"kind":"calls","intake":{"open":[{"days":["mon","tue"],"from":"08:00","to":"18:00"}],"exceptions":[{"date":"2026-12-24","from":"08:00","to":"12:00","name":"Christmas Eve"},{"date":"2026-12-25"}],"holidays":false}}"""
    )]
    public void What_is_written_is_read_again_as_the_same(string document)
    {
        var source = Made(Read(document));
        var written = SourceWriter.Write(source).ToJsonString();
        Assert.DoesNotContain("long enough", written);
        var again = Made(Read(written, source));
        Assert.Equal(written, SourceWriter.Write(again).ToJsonString());
        Assert.Equal((source.Kind, source.Proof, source.Listing, source.Silence), (again.Kind, again.Proof, again.Listing, again.Silence));
        Assert.Equal((source.SightSeconds, source.TrySeconds, source.InstructionsTo), (again.SightSeconds, again.TrySeconds, again.InstructionsTo));

        // What only Sirena says beside it is taken back without harm.
        Assert.Equal(written, SourceWriter.Write(Made(Read(SourceWriter.WriteWhole(source).ToJsonString(), source))).ToJsonString());
    }

    [Fact]
    public void The_whole_document_says_what_became_of_the_source()
    {
        var source = Made(Read("""{"kind":"listing","listing":{"key":"Nr","schedule":"15 2 * * *","url":"https://orders.example/open.csv"}}"""));
        source.FetchedAt = Instant.FromUtc(2026, 11, 24, 2, 15);
        source.FetchFailures = 3;
        source.FetchProblem = "404 from orders.example";
        source.ReadingVersion = 4;
        source.LastAt = Instant.FromUtc(2026, 11, 24, 14, 30);
        source.IntakeClosed = true;
        source.IntakeReason = "storm";
        var whole = SourceWriter.WriteWhole(source);
        Assert.Equal(
            ("2026-11-24T02:15:00Z", 3, "404 from orders.example"),
            ((string)whole["fetch"]!["at"]!, (int)whole["fetch"]!["failures"]!, (string)whole["fetch"]!["problem"]!)
        );
        Assert.Equal(("closed", "storm"), ((string)whole["intakeNow"]!["state"]!, (string)whole["intakeNow"]!["reason"]!));
        Assert.Equal((4, "2026-11-24T14:30:00Z", null), ((int)whole["readingVersion"]!, (string)whole["lastAt"]!, whole["silentSince"]));
        Assert.Null(SourceWriter.WriteWhole(Made(Read("""{"kind":"calls"}""")))["fetch"]);
    }
}
