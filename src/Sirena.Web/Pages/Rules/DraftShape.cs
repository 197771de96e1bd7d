using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>
/// A rule's document while it is edited. Open, its conditions are a group, also where one stands alone; every case and step has its recipients and a
/// ladder, also without any; and what it asks of the order system is one list in the order of the form, each with its moment. Closed, it is as the reader
/// wants it, and what nobody has filled in yet is left out.
/// </summary>
internal static class DraftShape
{
    /// <summary>The member of an open case or step with what is asked of the order system.</summary>
    public const string Acts = "acts";

    /// <summary>The members that a rule without cases has itself.</summary>
    public static readonly string[] OfCase = ["tell", "by", "wording", "ladder", "notOlderThan", Acts];

    /// <summary>The cases of a document; the rule itself where it has none.</summary>
    public static IEnumerable<JsonObject> CasesOf(JsonObject rule) => rule["cases"] is JsonArray cases ? cases.OfType<JsonObject>() : [rule];

    /// <summary>The members of a map taken over by another.</summary>
    public static void Move(JsonObject from, JsonObject to, IEnumerable<string> members)
    {
        foreach (var member in members)
        {
            if (from.Remove(member, out var value))
            {
                to[member] = value;
            }
        }
    }

    /// <summary>A document opened.</summary>
    public static JsonObject Open(JsonObject document)
    {
        var map = document.DeepClone().AsObject();
        foreach (var one in CasesOf(map))
        {
            OpenCase(one);
        }

        map["onlyIf"] = Group(map);
        return map;
    }

    /// <summary>A case opened in its place.</summary>
    public static JsonObject OpenCase(JsonObject one)
    {
        one["onlyIf"] = Group(one);
        OpenTelling(one);
        one["ladder"] = one["ladder"] switch
        {
            JsonArray steps => OpenSteps(steps),
            JsonObject shared => new JsonObject { ["shared"] = shared.Text("shared") },
            _ => new JsonArray(),
        };
        return one;
    }

    /// <summary>Steps opened.</summary>
    public static JsonArray OpenSteps(JsonArray steps) => new([.. steps.OfType<JsonObject>().Select(s => (JsonNode)OpenTelling(s.DeepClone().AsObject()))]);

    /// <summary>Whom a case or step tells and what it asks, opened in its place.</summary>
    public static JsonObject OpenTelling(JsonObject place)
    {
        place["tell"] ??= new JsonArray();
        if (place[Acts] is null)
        {
            var acts = new JsonArray();
            foreach (var (moment, list) in Moments(place))
            {
                foreach (var ask in list)
                {
                    acts.Add(DraftAct.Make(moment, ask!.DeepClone()));
                }
            }

            place[Acts] = acts;
        }

        foreach (var member in new[] { "do", "onAnswer", "onLanded", "offer" })
        {
            place.Remove(member);
        }

        return place;
    }

    /// <summary>A copy of an open document, closed.</summary>
    public static JsonObject Close(JsonObject open)
    {
        var map = open.DeepClone().AsObject();
        foreach (var one in CasesOf(map))
        {
            CloseTelling(one);
            if (one["ladder"] is JsonArray steps)
            {
                one.Put("ladder", steps.Count > 0 ? CloseSteps(steps) : null);
            }

            // A rule without cases tells somebody, or says that it does not.
            if (one != map)
            {
                one.Put("onlyIf", CloseGroup(one));
                if (one.List("tell").Count == 0)
                {
                    one.Remove("tell");
                }
            }
        }

        map.Put("onlyIf", CloseGroup(map));
        return map;
    }

    /// <summary>A copy of open steps, closed.</summary>
    public static JsonArray CloseSteps(JsonArray open)
    {
        var steps = open.DeepClone().AsArray();
        foreach (var step in steps.OfType<JsonObject>())
        {
            CloseTelling(step);
            if (step["do"] is not null && step.List("tell").Count == 0)
            {
                step.Remove("tell");
            }
        }

        return steps;
    }

    private static IEnumerable<(string Moment, JsonArray Asks)> Moments(JsonObject place)
    {
        yield return (DraftAct.Now, place.List("do"));
        foreach (var answer in Names.All<AnswerKind>())
        {
            yield return (answer, (place["onAnswer"] as JsonObject)?.List(answer) ?? []);
        }

        yield return (DraftAct.Landed, place.List("onLanded"));
        yield return (DraftAct.Offered, place.List("offer"));
    }

    private static void CloseTelling(JsonObject place)
    {
        place["tell"] = DraftRecipient.Chosen(place.List("tell"));
        place.Remove(Acts, out var acts);
        var asked = (acts as JsonArray ?? [])
            .OfType<JsonObject>()
            .Where(a => new DraftAct(a).Kind.Length > 0)
            .ToLookup(a => a.Text("moment"), a => a["ask"]!.DeepClone());
        JsonArray? At(string moment) => asked.Contains(moment) ? new JsonArray([.. asked[moment]]) : null;
        place.Put("do", At(DraftAct.Now));
        place.Put("offer", At(DraftAct.Offered));
        place.Put("onLanded", At(DraftAct.Landed));
        var answers = new JsonObject();
        foreach (var answer in Names.All<AnswerKind>())
        {
            answers.Put(answer, At(answer));
        }

        place.Put("onAnswer", answers.Count > 0 ? answers : null);
    }

    private static JsonNode Group(JsonObject owner)
    {
        owner.Remove("onlyIf", out var condition);
        return condition switch
        {
            null => new JsonObject { ["all"] = new JsonArray() },
            JsonObject map when new DraftCondition(map).Group is not null => map,
            _ => new JsonObject { ["all"] = new JsonArray(condition) },
        };
    }

    // One question stands alone, without a group around it.
    private static JsonNode? CloseGroup(JsonObject owner)
    {
        owner.Remove("onlyIf", out var condition);
        return condition is not JsonObject map || new DraftCondition(map) is not { Parts: { Count: > 0 } parts } group ? null
            : group.Group == Grouping.All && parts is [{ Group: null } one] ? one.Map.DeepClone()
            : map;
    }
}
