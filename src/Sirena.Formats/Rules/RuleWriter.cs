using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Formats.Instructions;

namespace Sirena.Formats.Rules;

/// <summary>Writes a rule as the document that <see cref="RuleReader"/> reads: nothing is lost on the way there and back.</summary>
public static class RuleWriter
{
    /// <summary>The document as a JSON object; members with their usual value are left out.</summary>
    public static JsonObject Write(Rule rule)
    {
        var map = new JsonObject
        {
            ["id"] = rule.Id,
            ["name"] = rule.Name,
            ["on"] = rule.On,
            ["when"] = Texts(rule.When),
            ["urgency"] = rule.Urgency.Name(),
        };
        Put(map, "onlyIf", rule.OnlyIf is null ? null : Write(rule.OnlyIf));
        if (rule.Short)
        {
            WriteCase(map, rule.Cases[0]);
            map["tell"] ??= new JsonArray();
        }
        else
        {
            map["cases"] = Array(
                rule.Cases.Select(c =>
                {
                    var one = new JsonObject { ["name"] = c.Name };
                    Put(one, "onlyIf", c.OnlyIf is null ? null : Write(c.OnlyIf));
                    return WriteCase(one, c);
                })
            );
        }

        foreach (var option in RuleOptions.All)
        {
            Put(map, option.Member, option.Get(rule) is { } value ? Write(option, value) : null);
        }

        return map;
    }

    private static JsonNode Write(RuleOption option, object value) =>
        value switch
        {
            bool on => JsonValue.Create(on),
            Duration span => JsonValue.Create(span.Iso())!,
            CountWithin limit => new JsonObject { [option.Counts.Name] = limit.Count, ["within"] = limit.Within.Iso() },
            ImmutableArray<string> ids => Texts(ids),
            ImmutableArray<Attachment> files => Array(
                files.Select(a =>
                {
                    var one = a.Document is { } document ? new JsonObject { ["document"] = document.Name() } : new JsonObject { ["file"] = a.File };
                    Put(one, "audience", a.Audience?.Name());
                    return one;
                })
            ),
            _ => throw new ArgumentException($"An option of an unknown shape: {option.Member}.", nameof(option)),
        };

    private static JsonObject WriteCase(JsonObject map, RuleCase one)
    {
        Put(map, "tell", one.Tell.IsEmpty ? null : Array(one.Tell.Select(Write)));
        Put(map, "by", one.By is null ? null : Write(one.By));
        Put(map, "wording", one.Wording);
        Put(
            map,
            "ladder",
            one.SharedLadder is { } shared ? new JsonObject { ["shared"] = shared, ["steps"] = Write(one.Ladder) }
                : one.Ladder.IsEmpty ? null
                : Write(one.Ladder)
        );
        Put(map, "notOlderThan", one.NotOlderThan is { } span ? span.Iso() : null);
        Put(map, "do", one.Do.IsEmpty ? null : InstructionWriter.Write(one.Do));
        Put(map, "offer", one.Offer.IsEmpty ? null : InstructionWriter.Write(one.Offer));
        Put(map, "onLanded", one.OnLanded.IsEmpty ? null : InstructionWriter.Write(one.OnLanded));
        Put(
            map,
            "onAnswer",
            one.OnAnswer.IsEmpty
                ? null
                : new JsonObject(one.OnAnswer.Select(a => KeyValuePair.Create(a.Answer.Name(), (JsonNode?)InstructionWriter.Write(a.Do))))
        );
        return map;
    }

    /// <summary>The steps of a ladder.</summary>
    public static JsonArray Write(IEnumerable<LadderStep> steps) => Array(steps.Select(Write));

    private static JsonObject Write(LadderStep step)
    {
        var clock = step.Clock switch
        {
            StepClock.After => "after",
            StepClock.AfterWorking => "afterWorking",
            _ => "beforeDue",
        };
        var map = new JsonObject { [clock] = step.Delay.Iso(), ["tell"] = Array(step.Tell.Select(Write)) };
        Put(map, "by", step.By is null ? null : Write(step.By));
        Put(map, "wording", step.Wording);
        Put(map, "do", step.Do.IsEmpty ? null : InstructionWriter.Write(step.Do));
        Put(map, "repeat", step.Repeat is { } repeat ? new JsonObject { ["times"] = repeat.Times, ["every"] = repeat.Every.Iso() } : null);
        return map;
    }

    private static JsonObject Write(Ways ways)
    {
        var map = new JsonObject { [ways.FirstThatLands ? "firstThatLands" : "allAtOnce"] = Texts(ways.Channels.Select(c => c.Name())) };
        Put(map, "wait", ways.FirstThatLands ? ways.Wait.Iso() : null);
        return map;
    }

    private static JsonObject Write(Recipient recipient)
    {
        var map = new JsonObject { [recipient.Member] = recipient.Id };
        if (recipient.Permitted)
        {
            map["outside"] = true;
        }

        return map;
    }

    private static JsonObject Write(Condition condition)
    {
        if (condition is ConditionGroup group)
        {
            return new JsonObject { [group.Grouping.Name()] = Array(group.Items.Select(Write)) };
        }

        var leaf = (ConditionLeaf)condition;
        var map = new JsonObject { ["field"] = leaf.Field, ["is"] = leaf.Is.Name() };
        Put(map, "value", leaf.Value.ValueKind == JsonValueKind.Undefined ? null : JsonNode.Parse(leaf.Value.GetRawText()));
        Put(map, "exactly", leaf.Exactly ? JsonValue.Create(true) : null);
        return map;
    }

    private static JsonArray Texts(IEnumerable<string> texts) => new([.. texts.Select(t => (JsonNode)t)]);

    private static JsonArray Array(IEnumerable<JsonNode> nodes) => new([.. nodes]);

    private static void Put(JsonObject map, string name, JsonNode? value)
    {
        if (value is not null)
        {
            map[name] = value;
        }
    }
}
