using System.Text.Json.Nodes;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Sources;

namespace Sirena.Formats.Sources;

/// <summary>Writes a source as the document that <see cref="SourceReader"/> reads; never its secrets.</summary>
public static class SourceWriter
{
    /// <summary>The document.</summary>
    public static JsonObject Write(Source source)
    {
        var map = new JsonObject
        {
            ["id"] = source.Id,
            ["name"] = source.Name,
            ["kind"] = source.Kind.Name(),
            ["on"] = source.On,
            ["prefix"] = source.Prefix,
            ["limit"] = source.Limit,
            ["proof"] = Proof(source.Proof),
            ["reading"] = source.Reading is { } reading ? JsonNode.Parse(reading) : null,
        };
        if (source is { Kind: SourceKind.Documents, Listing: { } watched })
        {
            map["listing"] = new JsonObject { ["folder"] = watched.Folder };
        }
        else if (source.Listing is { } listing)
        {
            map["listing"] = new JsonObject
            {
                ["role"] = listing.Role.Name(),
                ["key"] = listing.Key,
                ["gone"] = listing.Gone ?? "nothing",
                ["separator"] = listing.Separator?.ToString(),
                ["charset"] = listing.Charset,
                ["schedule"] = listing.Schedule,
                ["url"] = listing.Url,
                ["folder"] = listing.Folder,
                ["goneAtMost"] = listing.GoneAtMost,
                ["changedAtMost"] = listing.ChangedAtMost,
                ["stands"] = listing.Stands,
            };
        }

        map["silence"] = new JsonObject
        {
            ["watch"] = source.Silence.Watch,
            ["threshold"] = source.Silence.Threshold,
            ["minutes"] = source.Silence.Minutes,
        };
        if (source.Silence.NotBefore is { } begin)
        {
            (map["silence"]!["notBefore"], map["silence"]!["why"]) = (InstantPattern.ExtendedIso.Format(begin), source.Silence.Why);
        }
        map["instructionsTo"] = source.InstructionsTo;
        map["takes"] = new JsonArray([.. source.Takes.Select(t => source.OwnInstructions.Find(o => o.Name == t) is { } own ? Own(own) : JsonValue.Create(t))]);
        map["seenWithin"] = Span(source.SightSeconds);
        map["tryFor"] = Span(source.TrySeconds);
        map["intake"] = source.IntakeHours is { } hours ? Hours(hours) : "always";
        return map;
    }

    /// <summary>The document with what only Sirena says.</summary>
    public static JsonObject WriteWhole(Source source)
    {
        var map = Write(source);
        map["readingVersion"] = source.ReadingVersion;
        map["eventSource"] = source.Kind == SourceKind.Events ? null : source.EventSource;
        if (source.Listing?.Url is not null)
        {
            map["fetch"] = new JsonObject
            {
                ["at"] = source.FetchedAt is { } fetched ? InstantPattern.ExtendedIso.Format(fetched) : null,
                ["failures"] = source.FetchFailures,
                ["problem"] = source.FetchProblem,
            };
        }

        map["intakeNow"] = new JsonObject
        {
            ["state"] = source.IntakeClosed ? "closed" : "open",
            ["since"] = source.IntakeSince is { } at ? InstantPattern.ExtendedIso.Format(at) : null,
            ["until"] = source.IntakeUntil is { } until ? InstantPattern.ExtendedIso.Format(until) : null,
            ["reason"] = source.IntakeReason,
        };
        map["lastAt"] = source.LastAt is { } last ? InstantPattern.ExtendedIso.Format(last) : null;
        map["silentSince"] = source.SilentSince is { } since ? InstantPattern.ExtendedIso.Format(since) : null;
        return map;
    }

    /// <summary>An instruction of the business's own.</summary>
    public static JsonNode Own(OwnInstruction own) =>
        new JsonObject
        {
            ["name"] = own.Name,
            ["button"] = own.Button,
            ["members"] = new JsonArray([.. own.Members.Select(m => JsonValue.Create(m))]),
            ["shows"] = JsonNode.Parse(own.Shows),
            ["final"] = own.Final,
        };

    private static JsonValue? Span(int? seconds) => seconds is { } s ? JsonValue.Create(NodaTime.Duration.FromSeconds(s).Iso()) : null;

    private static JsonObject Hours(IntakeHours hours) =>
        new()
        {
            ["open"] = new JsonArray([.. hours.Open.Select(o => (JsonNode)People.PeopleWriter.Write(o))]),
            ["exceptions"] = new JsonArray([
                .. hours.Exceptions.Select(e =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["date"] = LocalDatePattern.Iso.Format(e.Date),
                            ["from"] = e.From?.ToString("HH:mm", null),
                            ["to"] = e.To?.ToString("HH:mm", null),
                            ["name"] = e.Name,
                        }
                ),
            ]),
            ["holidays"] = hours.Holidays,
        };

    private static JsonObject Proof(SourceProof proof) =>
        proof.Kind switch
        {
            ProofKind.Basic => new JsonObject { ["basic"] = new JsonObject { ["user"] = proof.User } },
            ProofKind.Signature => new JsonObject
            {
                ["signature"] = new JsonObject
                {
                    ["header"] = proof.Header,
                    ["algorithm"] = proof.Algorithm,
                    ["encoding"] = proof.Encoding,
                    ["before"] = proof.Before,
                    ["timeHeader"] = proof.TimeHeader,
                },
            },
            ProofKind.StandardWebhooks => new JsonObject { ["standardWebhooks"] = true },
            ProofKind.InAddress => new JsonObject { ["inAddress"] = true },
            _ => new JsonObject { ["key"] = true },
        };
}
