using System.Globalization;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Sources;

/// <summary>What is said of sources.</summary>
public static class SourceWords
{
    /// <summary>The glyph of how it comes.</summary>
    public static string Glyph(Source source) =>
        source.Kind switch
        {
            SourceKind.Listing => "k-hand",
            SourceKind.Documents => "k-folder",
            _ => "k-call",
        };

    /// <summary>How it comes, in a clause.</summary>
    public static string How(Source source) =>
        (source.Kind, source.Proof.Kind) switch
        {
            (SourceKind.Events, _) => "the order system posts CloudEvents, by key",
            (SourceKind.Listing, _) when source.Listing?.Role == ListingRole.Check => "a list that is compared with what is known here",
            (SourceKind.Listing, _) => "a list, by its difference from the one before",
            (SourceKind.Documents, _) => "UBL documents",
            (_, ProofKind.Key) => "the order system calls us, by key; a body of its own shape",
            (_, ProofKind.Basic) => "the order system calls us, by password; a body of its own shape",
            (_, ProofKind.InAddress) => "the order system calls us, by a secret address; a body of its own shape",
            _ => "the order system calls us, signed; a body of its own shape",
        };

    /// <summary>How a call is proved, in a sentence.</summary>
    public static string Proof(SourceProof proof) =>
        proof.Kind switch
        {
            ProofKind.Basic => $"User '{proof.User}' and the password, as Basic (RFC 7617).",
            ProofKind.Signature => $"{proof.Header}: {(proof.Before.Length > 0 ? $"'{proof.Before}', then " : "")}HMAC-{proof.Algorithm.ToUpperInvariant()} in "
                + $"{proof.Encoding} over {(proof.TimeHeader is null ? "the raw body" : $"{proof.TimeHeader}, a point and the raw body")}.",
            ProofKind.StandardWebhooks => "webhook-id, webhook-timestamp and webhook-signature, as Standard Webhooks has it.",
            ProofKind.InAddress =>
                "A secret in the address. Whoever reads the address, in a log or a proxy, can call: take another proof where the order system knows one.",
            _ => "Authorization: Bearer and a key of this source.",
        };

    /// <summary>Its rhythm in a clause, or that it is being learnt.</summary>
    public static string Rhythm(SourceDay day, DeskTime clock)
    {
        if (day.Source.Kind is SourceKind.Listing or SourceKind.Documents)
        {
            return "no rhythm to keep";
        }

        var begin = clock.Now.InZone(clock.Zone).LocalDateTime is var local
            ? clock.Now - Duration.FromMinutes(local.Minute) - Duration.FromSeconds(local.Second)
            : clock.Now;
        return day.Rhythm.IsKnown
            ? $"{day.Today[local.Hour]} since {clock.Short(begin)}, usually {Round(day.Rhythm.Usual(clock.Now))} an hour"
            : $"learning its rhythm, day {Math.Min(Core.Sources.Rhythm.LeastDays, 1 + (int)(clock.Now - day.Source.CreatedAt).TotalDays)} of "
                + $"{Core.Sources.Rhythm.LeastDays}";
    }

    /// <summary>How long it has been quiet, where that is unusual.</summary>
    public static string? Quiet(Source source, DeskTime clock) =>
        source.SilentSince is { } since && source.IsSilent(clock.Now) ? $"quiet for {(clock.Now - since).InWords()}" : null;

    /// <summary>That nothing is expected of it for a while, and why.</summary>
    public static string? NotExpected(Source source, DeskTime clock) =>
        source.Silence is { NotBefore: { } begin, Why: var why } && begin > clock.Now ? $"not expected before {clock.Short(begin)}: {why}" : null;

    /// <summary>A number that is not exact.</summary>
    public static string Round(double value) =>
        value >= 9.5 ? Math.Round(value).ToString("#,##0", CultureInfo.InvariantCulture)
        : value >= 1 ? value.ToString("0.#", CultureInfo.InvariantCulture)
        : "under 1";

    /// <summary>The mark of what became of a body.</summary>
    public static (string Mark, string Tone, string Word) Mark(ArrivalState state) =>
        state switch
        {
            ArrivalState.Understood => ("b-ok", "glass", "understood"),
            ArrivalState.NotUnderstood => ("b-no", "brass", "not understood, kept"),
            ArrivalState.Ignored => ("b-no", "muted", "nothing to us, by its reading"),
            ArrivalState.Refused => ("b-bad", "flare", "refused"),
            _ => ("b-no", "muted", "waits to be read"),
        };
}
