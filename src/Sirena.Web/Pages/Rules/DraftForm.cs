using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>Fills a rule's document with the fields of a form; the document is open, as <see cref="DraftShape"/> says.</summary>
internal static class DraftForm
{
    /// <summary>The document of a rule to begin with.</summary>
    public static JsonObject Beginning() =>
        new()
        {
            ["name"] = "",
            ["on"] = true,
            ["when"] = new JsonArray("order.placed"),
            ["urgency"] = Urgency.Prompt.Name(),
            ["tell"] = new JsonArray(new JsonObject()),
            ["by"] = new JsonObject { ["allAtOnce"] = new JsonArray("mail") },
        };

    /// <summary>The document that a form stands for.</summary>
    public static JsonObject Read(IFormCollection form)
    {
        var map = new JsonObject
        {
            ["name"] = form["name"].ToString().Trim(),
            ["on"] = form["on"].ToString() == "true",
            ["when"] = Texts(form, "when"),
            ["urgency"] = form["urgency"].ToString(),
        };
        map.Put("onlyIf", DraftCondition.Read(form, "c"));
        foreach (var option in RuleOptions.All)
        {
            map.Put(option.Member, Option(form, option));
        }

        if (form["branches"].ToString() == "true" && form.ContainsKey("k0.name"))
        {
            var cases = new JsonArray();
            for (var i = 0; form.ContainsKey($"k{i}.name"); i++)
            {
                var one = new JsonObject { ["name"] = form[$"k{i}.name"].ToString().Trim() };
                one.Put("onlyIf", DraftCondition.Read(form, $"k{i}.c"));
                cases.Add(Case(form, $"k{i}", one));
            }

            map["cases"] = cases;
        }
        else
        {
            Case(form, "k0", map);
        }

        return DraftShape.Open(map);
    }

    private static JsonNode? Option(IFormCollection form, RuleOption option)
    {
        var (name, typed) = (option.Member, form[option.Member].ToString().Trim());
        switch (option.Shape)
        {
            case OptionShape.Switch:
                // A box that is not ticked sends nothing: whether it was there at all stands beside it.
                var on = form.ContainsKey(name + ".asked") ? typed == "true" : option.Usual;
                return on == option.Usual ? null : JsonValue.Create(on);
            case OptionShape.Span:
                return typed.Length == 0 ? null : JsonValue.Create(typed == DraftNodes.Never ? "PT0S" : RuleDraft.Span(typed));
            case OptionShape.Limit:
                var (count, within) = (form[$"{name}.{option.Counts.Name}"].ToString().Trim(), form[name + ".within"].ToString().Trim());
                return count.Length == 0 && within.Length == 0
                    ? null
                    : new JsonObject { [option.Counts.Name] = Number(count), ["within"] = RuleDraft.Span(within) };
            case OptionShape.Statuses:
                return Texts(form, name) is { Count: > 0 } ids ? ids : null;
            case OptionShape.Attachments:
                var to = form[name + ".to"];
                var files = form[name].Select((what, i) => (What: what?.Trim() ?? "", To: to.ElementAtOrDefault(i) ?? "")).Where(a => a.What.Length > 0);
                JsonNode[] all = [.. files.Select(a => Attachment(a.What, a.To))];
                return all.Length > 0 ? new JsonArray(all) : null;
            default:
                throw new ArgumentException($"An option of an unknown shape: {name}.", nameof(option));
        }
    }

    private static JsonObject Attachment(string what, string audience)
    {
        var one = new JsonObject { [Names.Parse<DocumentKind>(what) is null ? "file" : "document"] = what };
        one.Put("audience", audience.Length > 0 ? JsonValue.Create(audience) : null);
        return one;
    }

    private static JsonObject Case(IFormCollection form, string place, JsonObject map)
    {
        Telling(form, place, map);
        if (form[place + ".shared"].ToString() is { Length: > 0 } shared)
        {
            map["ladder"] = new JsonObject { ["shared"] = shared };
        }
        else
        {
            var steps = new JsonArray();
            for (var i = 0; form.ContainsKey($"{place}.s{i}.clock"); i++)
            {
                steps.Add(Step(form, $"{place}.s{i}"));
            }

            map["ladder"] = steps;
        }

        map.Put("notOlderThan", Typed(form, place + ".notOlderThan") is { } age ? RuleDraft.Span(age) : null);
        return map;
    }

    private static JsonObject Step(IFormCollection form, string place)
    {
        var clock = form[place + ".clock"].ToString();
        var map = new JsonObject { [clock is "afterWorking" or "beforeDue" ? clock : "after"] = RuleDraft.Span(form[place + ".delay"].ToString()) };
        Telling(form, place, map);
        if (Typed(form, place + ".times") is { } times)
        {
            map["repeat"] = new JsonObject { ["times"] = Number(times), ["every"] = RuleDraft.Span(Typed(form, place + ".every") ?? "5 min") };
        }

        return map;
    }

    private static void Telling(IFormCollection form, string place, JsonObject map)
    {
        map["tell"] = DraftRecipient.Read(form, place);
        map.Put("by", DraftWays.Read(form, place + ".by"));
        map.Put("wording", Typed(form, place + ".wording"));
        map[DraftShape.Acts] = DraftAct.Read(form, place);
    }

    private static string? Typed(IFormCollection form, string name) => form[name].ToString().Trim() is { Length: > 0 } typed ? typed : null;

    private static JsonNode Number(string typed) => int.TryParse(typed, out var number) ? number : typed;

    private static JsonArray Texts(IFormCollection form, string name) => new([.. form[name].Where(t => t is { Length: > 0 }).Select(t => (JsonNode)t!)]);
}
