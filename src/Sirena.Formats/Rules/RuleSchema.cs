using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Formats.Instructions;

namespace Sirena.Formats.Rules;

/// <summary>
/// The JSON Schema (draft 2020-12) of a rule document, for editors and checks before a file is sent. What a schema cannot say (which operator goes with which
/// field) the reader says.
/// </summary>
public static class RuleSchema
{
    /// <summary>The schema.</summary>
    public static JsonObject Make()
    {
        var one = Case();
        var top = new JsonObject
        {
            ["id"] = Text("^[a-z0-9._-]{1,60}$"),
            ["name"] = new JsonObject
            {
                ["type"] = "string",
                ["minLength"] = 1,
                ["maxLength"] = 120,
            },
            ["on"] = Type("boolean"),
            ["when"] = new JsonObject
            {
                ["type"] = "array",
                ["minItems"] = 1,
                ["items"] = new JsonObject
                {
                    ["type"] = "string",
                    ["pattern"] = "^[a-z0-9_-]+(\\.[a-z0-9_-]+)*$",
                    ["examples"] = Strings(EventTypes.All),
                },
            },
            ["urgency"] = Enum(Names.All<Urgency>()),
            ["onlyIf"] = Ref("condition"),
            ["cases"] = new JsonObject
            {
                ["type"] = "array",
                ["minItems"] = 1,
                ["items"] = Closed(Merge(new JsonObject { ["name"] = Type("string"), ["onlyIf"] = Ref("condition") }, one)),
            },
            ["version"] = Type("integer"),
            ["sentence"] = Type("string"),
            ["inForceSince"] = Type("string"),
        };
        foreach (var option in RuleOptions.All)
        {
            top[option.Member] = Option(option);
        }

        var schema = Closed(Merge(top, Case()));
        schema["$schema"] = "https://json-schema.org/draft/2020-12/schema";
        schema["$id"] = "/schemas/rule.json";
        schema["title"] = "A rule of Sirena";
        schema["required"] = new JsonArray("name", "when");
        schema["oneOf"] = new JsonArray(
            new JsonObject
            {
                ["required"] = new JsonArray("cases"),
                ["not"] = new JsonObject
                {
                    ["anyOf"] = new JsonArray([
                        .. new[] { "tell", "by", "wording", "ladder", "notOlderThan", "do", "offer", "onAnswer", "onLanded" }.Select(m =>
                            (JsonNode)new JsonObject { ["required"] = new JsonArray(m) }
                        ),
                    ]),
                },
            },
            new JsonObject
            {
                ["anyOf"] = new JsonArray(new JsonObject { ["required"] = new JsonArray("tell") }, new JsonObject { ["required"] = new JsonArray("do") }),
                ["not"] = new JsonObject { ["required"] = new JsonArray("cases") },
            }
        );
        schema["$defs"] = new JsonObject
        {
            ["duration"] = Text("^P(?!$)(\\d+D)?(T(?=\\d)(\\d+H)?(\\d+M)?(\\d+(\\.\\d+)?S)?)?$"),
            ["recipient"] = Recipient(),
            ["ways"] = Ways(),
            ["condition"] = Condition(),
            ["step"] = Step(),
            ["instruction"] = InstructionSchema.Make(),
        };
        return schema;
    }

    private static JsonObject Option(RuleOption option) =>
        option.Shape switch
        {
            OptionShape.Switch => Type("boolean"),
            OptionShape.Span => Ref("duration"),
            OptionShape.Limit => Required(
                Closed(
                    new JsonObject
                    {
                        [option.Counts.Name] = new JsonObject
                        {
                            ["type"] = "integer",
                            ["minimum"] = 1,
                            ["maximum"] = 10_000,
                        },
                        ["within"] = Ref("duration"),
                    }
                ),
                option.Counts.Name,
                "within"
            ),
            OptionShape.Statuses => Strings(),
            _ => new JsonObject
            {
                ["type"] = "array",
                ["items"] = Closed(
                    new JsonObject
                    {
                        ["document"] = Enum(Names.All<DocumentKind>()),
                        ["file"] = Type("string"),
                        ["audience"] = Enum(Names.All<Core.People.Audience>()),
                    }
                ),
            },
        };

    private static JsonObject Case() =>
        new()
        {
            ["tell"] = new JsonObject { ["type"] = "array", ["items"] = Ref("recipient") },
            ["by"] = Ref("ways"),
            ["wording"] = Type("string"),
            ["ladder"] = new JsonObject
            {
                ["oneOf"] = new JsonArray(Steps(), Required(Closed(new JsonObject { ["shared"] = Type("string"), ["steps"] = Steps() }), "shared")),
            },
            ["notOlderThan"] = Ref("duration"),
            ["do"] = Asks(),
            ["offer"] = Asks(),
            ["onLanded"] = Asks(),
            ["onAnswer"] = Closed(new JsonObject(Names.All<Core.Ladders.AnswerKind>().Select(a => KeyValuePair.Create(a, (JsonNode?)Asks())))),
        };

    private static JsonObject Asks() => new() { ["type"] = "array", ["items"] = Ref("instruction") };

    private static JsonObject Recipient()
    {
        var members = new JsonObject();
        foreach (var kind in RecipientKinds.All)
        {
            members[kind.Member] = kind.Holds == RecipientHolds.Role ? Enum(Names.All<OrderRole>()) : Type("string");
        }

        members["outside"] = Type("boolean");
        var map = Closed(members);
        map["oneOf"] = new JsonArray([.. RecipientKinds.All.Select(k => (JsonNode)new JsonObject { ["required"] = new JsonArray(k.Member) })]);
        return map;
    }

    private static JsonObject Ways()
    {
        JsonObject Channels() =>
            new()
            {
                ["type"] = "array",
                ["minItems"] = 1,
                ["items"] = Enum(Names.All<Channel>()),
            };
        var map = Closed(
            new JsonObject
            {
                ["allAtOnce"] = Channels(),
                ["firstThatLands"] = Channels(),
                ["wait"] = Ref("duration"),
            }
        );
        map["oneOf"] = new JsonArray(
            new JsonObject { ["required"] = new JsonArray("allAtOnce") },
            new JsonObject { ["required"] = new JsonArray("firstThatLands") }
        );
        return map;
    }

    private static JsonObject Condition()
    {
        JsonObject Group(string name) =>
            Required(
                Closed(
                    new JsonObject
                    {
                        [name] = new JsonObject
                        {
                            ["type"] = "array",
                            ["minItems"] = 1,
                            ["items"] = Ref("condition"),
                        },
                    }
                ),
                name
            );
        var leaf = Required(
            Closed(
                new JsonObject
                {
                    ["field"] = Type("string"),
                    ["is"] = Enum(Names.All<Operator>()),
                    ["value"] = new JsonObject { ["description"] = "A value, a list of values, or { \"field\": \"…\" } to compare with another field" },
                    ["exactly"] = Type("boolean"),
                }
            ),
            "field",
            "is"
        );
        return new JsonObject { ["oneOf"] = new JsonArray(leaf, Group("all"), Group("any"), Group("none")) };
    }

    private static JsonObject Steps() => new() { ["type"] = "array", ["items"] = Ref("step") };

    private static JsonObject Step()
    {
        var map = Required(
            Closed(
                new JsonObject
                {
                    ["after"] = Ref("duration"),
                    ["afterWorking"] = Ref("duration"),
                    ["beforeDue"] = Ref("duration"),
                    ["tell"] = new JsonObject { ["type"] = "array", ["items"] = Ref("recipient") },
                    ["do"] = Asks(),
                    ["by"] = Ref("ways"),
                    ["wording"] = Type("string"),
                    ["repeat"] = Required(
                        Closed(
                            new JsonObject
                            {
                                ["times"] = new JsonObject
                                {
                                    ["type"] = "integer",
                                    ["minimum"] = 1,
                                    ["maximum"] = 20,
                                },
                                ["every"] = Ref("duration"),
                            }
                        ),
                        "times",
                        "every"
                    ),
                }
            )
        );
        map["anyOf"] = new JsonArray(new JsonObject { ["required"] = new JsonArray("tell") }, new JsonObject { ["required"] = new JsonArray("do") });
        map["oneOf"] = new JsonArray([
            .. new[] { "after", "afterWorking", "beforeDue" }.Select(k => (JsonNode)new JsonObject { ["required"] = new JsonArray(k) }),
        ]);
        return map;
    }

    private static JsonObject Closed(JsonObject properties) =>
        new()
        {
            ["type"] = "object",
            ["properties"] = properties,
            ["additionalProperties"] = false,
        };

    private static JsonObject Required(JsonObject map, params string[] names)
    {
        map["required"] = Strings(names);
        return map;
    }

    private static JsonObject Merge(JsonObject a, JsonObject b)
    {
        foreach (var (name, value) in b.ToArray())
        {
            b.Remove(name);
            a[name] = value;
        }

        return a;
    }

    private static JsonObject Type(string type) => new() { ["type"] = type };

    private static JsonObject Text(string pattern) => new() { ["type"] = "string", ["pattern"] = pattern };

    private static JsonObject Ref(string name) => new() { ["$ref"] = $"#/$defs/{name}" };

    private static JsonObject Enum(IEnumerable<string> names) => new() { ["enum"] = Strings(names) };

    private static JsonObject Strings() => new() { ["type"] = "array", ["items"] = Type("string") };

    private static JsonArray Strings(IEnumerable<string> texts) => new([.. texts.Select(t => (JsonNode)t)]);
}
