using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>A condition in the editor: a group with parts, or one question.</summary>
public sealed class DraftCondition
{
    /// <summary>All, any or none for a group; <see langword="null"/> for a question.</summary>
    public Grouping? Group { get; set; }

    /// <summary>The parts of a group.</summary>
    public List<DraftCondition> Parts { get; } = [];

    /// <summary>The field's path.</summary>
    public string Field { get; set; } = "";

    /// <summary>The operator's name.</summary>
    public string Is { get; set; } = "equal";

    /// <summary>The value as typed; several with commas.</summary>
    public string Value { get; set; } = "";
}

/// <summary>A recipient in the editor: <c>person:ines.calder</c>, <c>team:kitchen</c>, <c>role:salesperson</c>, or <c>address</c> with the address beside it.</summary>
public sealed record DraftRecipient(string Who, string Address);

/// <summary>A rule as the form holds it: nothing is checked here, everything that was typed is kept.</summary>
public sealed class RuleDraft
{
    /// <summary>The rule's name.</summary>
    public string Name { get; set; } = "";

    /// <summary>On or off.</summary>
    public bool On { get; set; } = true;

    /// <summary>The urgency's name.</summary>
    public string Urgency { get; set; } = "prompt";

    /// <summary>The events.</summary>
    public List<string> When { get; } = [];

    /// <summary>The conditions, a group.</summary>
    public DraftCondition OnlyIf { get; private set; } = new() { Group = Grouping.All };

    /// <summary>The recipients.</summary>
    public List<DraftRecipient> Tell { get; } = [];

    /// <summary>The statuses that end the alert.</summary>
    public List<string> WithdrawAt { get; } = [];

    /// <summary>Who is told may opt out.</summary>
    public bool MayOptOut { get; set; } = true;

    /// <summary>The rest period in minutes as typed.</summary>
    public string RestMinutes { get; set; } = "";

    /// <summary>A rule that the blocks can show in full: one case, told by mail at once, no ladder; <see langword="null"/> for others.</summary>
    public static RuleDraft? From(Rule rule)
    {
        var one = rule.Cases[0];
        var simple = rule.Short && one.Ladder.IsEmpty && one.Wording is null && one.NotOlderThan is null && rule.Gather == NodaTime.Duration.Zero
            && (one.By is null || (!one.By.FirstThatLands && one.By.Channels is [Channel.Mail])) && (rule.OnlyIf?.Leaves.All(l => !l.Exactly) ?? true);
        if (!simple)
        {
            return null;
        }

        var draft = new RuleDraft { Name = rule.Name, On = rule.On, Urgency = rule.Urgency.Name(), MayOptOut = rule.MayOptOut, RestMinutes = rule.Rest > NodaTime.Duration.Zero ? rule.Rest.TotalMinutes.ToString("0.##", CultureInfo.InvariantCulture) : "" };
        draft.When.AddRange(rule.When);
        draft.WithdrawAt.AddRange(rule.WithdrawAt);
        draft.Tell.AddRange(one.Tell.Select(t => t switch
        {
            PersonRecipient p => new DraftRecipient((p.Outside ? "outside:" : "person:") + p.Person, ""),
            DutyRecipient d => new DraftRecipient("duty:" + d.Team, ""),
            TeamRecipient team => new DraftRecipient("team:" + team.Team, ""),
            RoleRecipient r => new DraftRecipient("role:" + r.Role.Name(), ""),
            AddressRecipient a => new DraftRecipient("address", a.Address),
            _ => new DraftRecipient("", ""),
        }));
        draft.OnlyIf = rule.OnlyIf switch
        {
            null => draft.OnlyIf,
            ConditionGroup group => Of(group),
            var leaf => new DraftCondition { Group = Grouping.All, Parts = { Of(leaf) } },
        };
        return draft;
    }

    /// <summary>The draft that a form holds.</summary>
    public static RuleDraft Read(IFormCollection form)
    {
        var draft = new RuleDraft { Name = form["name"].ToString(), On = form["on"].ToString() == "true", Urgency = form["urgency"].ToString(), RestMinutes = form["rest"].ToString(), MayOptOut = form["mayOptOut"].ToString() == "true" };
        draft.When.AddRange(form["when"].OfType<string>());
        draft.WithdrawAt.AddRange(form["withdrawAt"].OfType<string>());
        var addresses = form["address"];
        draft.Tell.AddRange(form["tell"].Select((who, i) => new DraftRecipient(who ?? "", i < addresses.Count ? addresses[i] ?? "" : "")));
        draft.OnlyIf = ReadCondition(form, "c") ?? draft.OnlyIf;
        return draft;
    }

    /// <summary>Does what a button of the form asks: <c>add:c.0</c>, <c>group:c</c>, <c>drop:c.1</c>, <c>event</c>, <c>drop-event:1</c>, <c>recipient</c>, <c>drop-recipient:0</c>.</summary>
    public void Do(string act)
    {
        var (what, where) = act.Split(':', 2) is [var w, var p] ? (w, p) : (act, "");
        switch (what)
        {
            case "add": At(where)?.Parts.Add(new DraftCondition { Field = "order.total", Is = "at-least" }); break;
            case "group": At(where)?.Parts.Add(new DraftCondition { Group = Grouping.Any, Parts = { new DraftCondition { Field = "order.total", Is = "at-least" } } }); break;
            case "drop" when where.LastIndexOf('.') is > 0 and var dot && At(where[..dot]) is { } parent && int.TryParse(where[(dot + 1)..], out var i) && i < parent.Parts.Count: parent.Parts.RemoveAt(i); break;
            case "event": When.Add("order.placed"); break;
            case "drop-event" when int.TryParse(where, out var e) && e < When.Count: When.RemoveAt(e); break;
            case "recipient": Tell.Add(new DraftRecipient("", "")); break;
            case "drop-recipient" when int.TryParse(where, out var r) && r < Tell.Count: Tell.RemoveAt(r); break;
        }
    }

    /// <summary>The document that the draft stands for.</summary>
    public JsonObject Document(string? id)
    {
        var document = new JsonObject { ["name"] = Name.Trim(), ["on"] = On, ["when"] = Texts(When.Where(w => w.Length > 0)), ["urgency"] = Urgency };
        if (id is not null)
        {
            document["id"] = id;
        }

        if (OnlyIf.Parts.Count > 0)
        {
            document["onlyIf"] = Write(OnlyIf);
        }

        document["tell"] = new JsonArray([.. Tell.Where(t => t.Who.Length > 0).Select(Write)]);
        document["by"] = new JsonObject { ["allAtOnce"] = Texts(["mail"]) };
        if (RestMinutes.Trim().Length > 0)
        {
            document["rest"] = decimal.TryParse(RestMinutes, CultureInfo.InvariantCulture, out var minutes) && minutes >= 0 ? $"PT{(long)(minutes * 60)}S" : RestMinutes;
        }

        if (!MayOptOut)
        {
            document["mayOptOut"] = false;
        }

        if (WithdrawAt.Count > 0)
        {
            document["withdrawAt"] = Texts(WithdrawAt);
        }

        return document;
    }

    /// <summary>The place in the form of a mistake in the document: <c>onlyIf.all[0].any[1].value</c> is <c>c.0.1</c>.</summary>
    public static string PlaceOf(string path)
    {
        if (path.StartsWith("onlyIf", StringComparison.Ordinal))
        {
            var indices = path.Split('[').Skip(1).Where(p => p.Contains(']', StringComparison.Ordinal)).Select(p => p[..p.IndexOf(']', StringComparison.Ordinal)]).Where(p => p.All(char.IsAsciiDigit));
            var value = path.Contains(".value[", StringComparison.Ordinal) ? 1 : 0;
            return string.Join('.', new[] { "c" }.Concat(indices.SkipLast(value)));
        }

        return path.Split('.', '[')[0];
    }

    private DraftCondition? At(string place)
    {
        var at = OnlyIf;
        foreach (var part in place.Split('.').Skip(1))
        {
            if (!int.TryParse(part, out var i) || i >= at.Parts.Count)
            {
                return null;
            }

            at = at.Parts[i];
        }

        return at;
    }

    private static DraftCondition Of(Condition condition)
    {
        if (condition is ConditionGroup group)
        {
            var made = new DraftCondition { Group = group.Grouping };
            made.Parts.AddRange(group.Items.Select(Of));
            return made;
        }

        var leaf = (ConditionLeaf)condition;
        return new DraftCondition
        {
            Field = leaf.Field,
            Is = leaf.Is.Name(),
            Value = leaf.Value.ValueKind == JsonValueKind.Object ? $"{Facts.InWords(leaf.Value.GetProperty("amount"))} {leaf.Value.GetProperty("currency")}" : leaf.Value.ValueKind == JsonValueKind.Undefined ? "" : Facts.InWords(leaf.Value),
        };
    }

    private static DraftCondition? ReadCondition(IFormCollection form, string place)
    {
        if (Names.Parse<Grouping>(form[place + ".group"].ToString()) is { } grouping)
        {
            var group = new DraftCondition { Group = grouping };
            for (var i = 0; ReadCondition(form, $"{place}.{i}") is { } part; i++)
            {
                group.Parts.Add(part);
            }

            return group;
        }

        return form.ContainsKey(place + ".field") ? new DraftCondition { Field = form[place + ".field"].ToString().Trim(), Is = form[place + ".is"].ToString(), Value = form[place + ".value"].ToString() } : null;
    }

    private static JsonObject Write(DraftRecipient recipient) => recipient.Who.Split(':', 2) is [var kind, var id]
        ? kind == "outside" ? new JsonObject { ["person"] = id, ["outside"] = true } : new JsonObject { [kind] = id }
        : new JsonObject { ["address"] = recipient.Address.Trim(), ["outside"] = true };

    private static JsonObject Write(DraftCondition condition)
    {
        if (condition.Group is { } grouping)
        {
            return new JsonObject { [grouping.Name()] = new JsonArray([.. condition.Parts.Select(Write)]) };
        }

        var document = new JsonObject { ["field"] = condition.Field, ["is"] = condition.Is };
        var (type, op) = (FieldCatalogue.Find(condition.Field)?.Type ?? FieldType.Text, Names.Parse<Operator>(condition.Is));
        if (op?.TakesNothing() != true)
        {
            document["value"] = op?.TakesList() == true
                ? new JsonArray([.. condition.Value.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(v => Value(v, type))])
                : Value(condition.Value.Trim(), type);
        }

        return document;
    }

    // What is typed becomes what the field's type wants, where it can; the reader says the rest.
    private static JsonNode Value(string text, FieldType type)
    {
        var plain = text.Replace(",", "", StringComparison.Ordinal);
        if (type == FieldType.Money && plain.Split(' ', StringSplitOptions.RemoveEmptyEntries) is [var amount, var currency] && decimal.TryParse(amount, NumberStyles.Number, CultureInfo.InvariantCulture, out var money))
        {
            return new JsonObject { ["amount"] = money, ["currency"] = currency.ToUpperInvariant() };
        }

        return type switch
        {
            FieldType.Number or FieldType.Money or FieldType.Any when decimal.TryParse(plain, NumberStyles.Number, CultureInfo.InvariantCulture, out var number) => number,
            FieldType.YesNo or FieldType.Any when text is "true" or "yes" => true,
            FieldType.YesNo or FieldType.Any when text is "false" or "no" => false,
            _ => text,
        };
    }

    private static JsonArray Texts(IEnumerable<string> texts) => new([.. texts.Select(t => (JsonNode)t)]);
}
