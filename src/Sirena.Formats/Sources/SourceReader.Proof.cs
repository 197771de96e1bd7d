using System.Text.Json;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Sources;

/// <content>How a source proves who it is.</content>
public sealed partial class SourceReader
{
    private (SourceProof Proof, string? Secret) Proof(MapNode map, Source? there)
    {
        if (map["proof"] is not { } node)
        {
            return (there?.Proof ?? new SourceProof(), null);
        }

        if (Map(node, "proof", "'proof'", [.. Proofs, "secret"]) is not { } said)
        {
            return (new SourceProof(), null);
        }

        string[] kinds = [.. Proofs.Where(p => said[p] is not (null or ScalarNode { Value.ValueKind: JsonValueKind.False }))];
        if (kinds.Length != 1)
        {
            Wrong(
                "proof",
                said,
                $"A proof is one of {string.Join(", ", Proofs)}; {(kinds.Length == 0 ? "none is given" : $"{string.Join(" and ", kinds)} are given")}."
            );
            return (new SourceProof(), null);
        }

        var proof = kinds[0] switch
        {
            "basic" => Basic(said),
            "signature" => Signature(said),
            var plain => new SourceProof
            {
                Kind = plain switch
                {
                    "standardWebhooks" => ProofKind.StandardWebhooks,
                    "inAddress" => ProofKind.InAddress,
                    _ => ProofKind.Key,
                },
            },
        };
        if (kinds[0] is not ("basic" or "signature") && said[kinds[0]] is not ScalarNode { Value.ValueKind: JsonValueKind.True })
        {
            Wrong($"proof.{kinds[0]}", said[kinds[0]]!, $"'{kinds[0]}' is true{(proof.Kind == ProofKind.Key ? "" : "; its secret stands in 'secret'")}.");
        }

        var secret = Text(said, "secret", "proof");
        if (secret is { Length: < 8 or > 500 })
        {
            Wrong("proof.secret", said["secret"]!, "A secret has 8 to 500 characters.");
        }
        else if (secret is not null && proof.Kind == ProofKind.Key)
        {
            Wrong("proof.secret", said["secret"]!, "A key is made by Sirena, on the page Sources; leave 'secret' out.");
        }
        else if (secret is null && proof.Kind is not (ProofKind.Key or ProofKind.InAddress) && (there?.Secret is null || there.Proof != proof))
        {
            Wrong("proof.secret", said, "'secret' is missing: without it nothing can prove itself.");
        }

        return (proof, secret);
    }

    private SourceProof Basic(MapNode said)
    {
        var user = Map(said["basic"]!, "proof.basic", "'basic'", ["user"]) is { } basic ? Text(basic, "user", "proof.basic", required: true) : null;
        if (user?.Contains(':', StringComparison.Ordinal) == true)
        {
            Wrong("proof.basic.user", said["basic"]!, "A user's name holds no colon (RFC 7617, 2).");
        }

        return new SourceProof { Kind = ProofKind.Basic, User = user };
    }

    private SourceProof Signature(MapNode said)
    {
        const string At = "proof.signature";
        if (Map(said["signature"]!, At, "'signature'", SignatureMembers) is not { } map)
        {
            return new SourceProof();
        }

        string Among(string name, string usual, params string[] all)
        {
            var text = Text(map, name, At) ?? usual;
            if (!all.Contains(text))
            {
                Wrong($"{At}.{name}", map[name]!, $"'{name}' is one of {string.Join(", ", all)}.{Closest.Hint(text, all)}");
            }

            return text;
        }

        var proof = new SourceProof
        {
            Kind = ProofKind.Signature,
            Header = Text(map, "header", At, required: true),
            Algorithm = Among("algorithm", "sha256", "sha256", "sha512", "sha1"),
            Encoding = Among("encoding", "hex", "hex", "base64"),
            Before = Text(map, "before", At) ?? "",
            TimeHeader = Text(map, "timeHeader", At) is { Length: > 0 } time ? time : null,
        };
        foreach (var (name, header) in new[] { ("header", proof.Header), ("timeHeader", proof.TimeHeader) })
        {
            if (header?.Any(c => c <= ' ' || c >= '\u007F' || c == ':') == true)
            {
                Wrong($"{At}.{name}", map[name]!, "A header's name is made of letters, digits and hyphens, such as X-Signature.");
            }
        }

        return proof;
    }
}
