using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Sources;

namespace Sirena.Formats.Sources;

/// <summary>The JSON Schema (draft 2020-12) of a source's document.</summary>
public static class SourceSchema
{
    /// <summary>The schema.</summary>
    public static JsonObject Make()
    {
        var schema = Closed(
            new JsonObject
            {
                ["$schema"] = Type("string"),
                ["id"] = new JsonObject { ["type"] = "string", ["pattern"] = "^[a-z0-9][a-z0-9-]{0,59}$" },
                ["name"] = new JsonObject
                {
                    ["type"] = "string",
                    ["minLength"] = 1,
                    ["maxLength"] = 80,
                },
                ["kind"] = Enum(Names.All<SourceKind>()),
                ["on"] = Type("boolean"),
                ["prefix"] = new JsonObject { ["type"] = "string", ["maxLength"] = 20 },
                ["limit"] = new JsonObject
                {
                    ["type"] = "integer",
                    ["minimum"] = 1,
                    ["maximum"] = Source.MostCalls,
                    ["description"] = "Calls, or events, a second",
                },
                ["proof"] = Proof(),
                ["reading"] = new JsonObject { ["anyOf"] = new JsonArray(new JsonObject { ["$ref"] = "/schemas/reading.json" }, Type("null")) },
                ["listing"] = Listing(),
                ["silence"] = Closed(
                    new JsonObject
                    {
                        ["watch"] = Type("boolean"),
                        ["threshold"] = new JsonObject
                        {
                            ["type"] = "number",
                            ["minimum"] = 1,
                            ["maximum"] = 1000,
                        },
                        ["minutes"] = Maybe("integer"),
                        ["notBefore"] = Maybe("string"),
                        ["why"] = Maybe("string"),
                    }
                ),
                ["instructionsTo"] = Maybe("string"),
                ["instructionsSecret"] = new JsonObject
                {
                    ["type"] = "string",
                    ["minLength"] = 8,
                    ["maxLength"] = 500,
                    ["writeOnly"] = true,
                },
                ["takes"] = new JsonObject
                {
                    ["type"] = "array",
                    ["items"] = new JsonObject { ["anyOf"] = new JsonArray(Enum(InstructionKinds.Names), Own()) },
                },
                ["seenWithin"] = Maybe("string"),
                ["tryFor"] = Maybe("string"),
                ["intake"] = new JsonObject { ["anyOf"] = new JsonArray(Enum(["always"]), Intake()) },
                ["intakeNow"] = new JsonObject { ["type"] = "object" },
                ["readingVersion"] = Type("integer"),
                ["address"] = Type("string"),
                ["eventSource"] = Maybe("string"),
                ["fetch"] = new JsonObject { ["type"] = "object" },
                ["lastAt"] = Maybe("string"),
                ["silentSince"] = Maybe("string"),
            }
        );
        schema["$schema"] = "https://json-schema.org/draft/2020-12/schema";
        schema["$id"] = "/schemas/sources.json";
        schema["title"] = "A source of Sirena: how orders come in";
        return schema;
    }

    private static JsonObject Proof()
    {
        var proof = Closed(
            new JsonObject
            {
                ["key"] = Type("boolean"),
                ["basic"] = Closed(new JsonObject { ["user"] = Type("string") }),
                ["signature"] = Closed(
                    new JsonObject
                    {
                        ["header"] = Type("string"),
                        ["algorithm"] = Enum(["sha256", "sha512", "sha1"]),
                        ["encoding"] = Enum(["hex", "base64"]),
                        ["before"] = Type("string"),
                        ["timeHeader"] = Maybe("string"),
                    }
                ),
                ["standardWebhooks"] = Type("boolean"),
                ["inAddress"] = Type("boolean"),
                ["secret"] = new JsonObject
                {
                    ["type"] = "string",
                    ["minLength"] = 8,
                    ["maxLength"] = 500,
                    ["writeOnly"] = true,
                },
            }
        );
        proof["oneOf"] = new JsonArray([
            .. new[] { "key", "basic", "signature", "standardWebhooks", "inAddress" }.Select(m => (JsonNode)new JsonObject { ["required"] = new JsonArray(m) }),
        ]);
        return proof;
    }

    private static JsonObject Own()
    {
        var own = Closed(
            new JsonObject
            {
                ["name"] = Type("string"),
                ["button"] = Type("string"),
                ["members"] = new JsonObject { ["type"] = "array", ["items"] = Type("string") },
                ["shows"] = new JsonObject { ["type"] = "object", ["description"] = "A condition, as in a rule" },
                ["final"] = Type("boolean"),
            }
        );
        own["required"] = new JsonArray("name", "shows");
        return own;
    }

    private static JsonObject Intake() =>
        Closed(
            new JsonObject
            {
                ["open"] = new JsonObject
                {
                    ["type"] = "array",
                    ["items"] = Closed(
                        new JsonObject
                        {
                            ["days"] = new JsonObject { ["type"] = "array", ["items"] = Type("string") },
                            ["from"] = Type("string"),
                            ["to"] = Type("string"),
                        }
                    ),
                },
                ["exceptions"] = new JsonObject
                {
                    ["type"] = "array",
                    ["items"] = Closed(
                        new JsonObject
                        {
                            ["date"] = Type("string"),
                            ["from"] = Maybe("string"),
                            ["to"] = Maybe("string"),
                            ["name"] = Maybe("string"),
                        }
                    ),
                },
                ["holidays"] = Type("boolean"),
            }
        );

    private static JsonObject Listing()
    {
        var share = new JsonObject
        {
            ["type"] = "number",
            ["minimum"] = 0,
            ["maximum"] = 1,
        };
        return Closed(
            new JsonObject
            {
                ["role"] = Enum(Names.All<ListingRole>()),
                ["key"] = Type("string"),
                ["gone"] = new JsonObject { ["type"] = "string", ["description"] = "nothing, or the status of an order whose row is gone" },
                ["separator"] = Maybe("string"),
                ["charset"] = Type("string"),
                ["schedule"] = Maybe("string"),
                ["url"] = Maybe("string"),
                ["folder"] = Maybe("string"),
                ["goneAtMost"] = share.DeepClone(),
                ["changedAtMost"] = share.DeepClone(),
                ["stands"] = new JsonObject
                {
                    ["type"] = "integer",
                    ["minimum"] = 1,
                    ["maximum"] = 10,
                },
            }
        );
    }

    private static JsonObject Enum(IEnumerable<string> names) => new() { ["enum"] = new JsonArray([.. names.Select(n => JsonValue.Create(n))]) };

    private static JsonObject Type(string type) => new() { ["type"] = type };

    private static JsonObject Maybe(string type) => new() { ["type"] = new JsonArray(type, "null") };

    private static JsonObject Closed(JsonObject members) =>
        new()
        {
            ["type"] = "object",
            ["properties"] = members,
            ["additionalProperties"] = false,
        };
}
