using System.Text.Json.Nodes;
using Sirena.Core.Instructions;

namespace Sirena.Formats.Instructions;

/// <summary>The JSON Schema of what is asked of an order system.</summary>
public static class InstructionSchema
{
    /// <summary>One instruction, as it stands in a rule: its name, or its name with its members.</summary>
    public static JsonObject Make()
    {
        var one = new JsonArray(new JsonObject { ["type"] = "string" });
        foreach (var kind in InstructionKinds.All)
        {
            var members = new JsonObject
            {
                ["type"] = "object",
                ["properties"] = new JsonObject(kind.Members.Select(m => KeyValuePair.Create(m.Name, (JsonNode?)Of(m)))),
                ["additionalProperties"] = false,
            };
            var value = kind.Main is { } main && kind.Member(main) is { } brief ? new JsonObject { ["anyOf"] = new JsonArray(Of(brief), members) } : members;
            one.Add(
                new JsonObject
                {
                    ["type"] = "object",
                    ["properties"] = new JsonObject { [kind.Name] = value },
                    ["required"] = new JsonArray(kind.Name),
                    ["additionalProperties"] = false,
                }
            );
        }

        // One of the business's own: a name of its own with texts.
        one.Add(
            new JsonObject
            {
                ["type"] = "object",
                ["minProperties"] = 1,
                ["maxProperties"] = 1,
                ["propertyNames"] = new JsonObject
                {
                    ["not"] = new JsonObject { ["enum"] = new JsonArray([.. InstructionKinds.Names.Select(n => JsonValue.Create(n))]) },
                },
            }
        );
        return new JsonObject { ["oneOf"] = one };
    }

    private static JsonObject Of(InstructionMember member) =>
        member.Type switch
        {
            MemberType.YesNo => new JsonObject { ["type"] = "boolean" },
            MemberType.Texts => new JsonObject
            {
                ["anyOf"] = new JsonArray(
                    new JsonObject { ["type"] = "string" },
                    new JsonObject
                    {
                        ["type"] = "array",
                        ["items"] = new JsonObject { ["type"] = "string" },
                    }
                ),
            },
            MemberType.Amount => new JsonObject { ["type"] = new JsonArray("number", "string") },
            _ when member.Among is { } among => new JsonObject { ["enum"] = new JsonArray([.. among.Select(a => JsonValue.Create(a))]) },
            _ => new JsonObject { ["type"] = "string" },
        };
}
