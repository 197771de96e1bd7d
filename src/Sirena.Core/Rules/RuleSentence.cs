using System.Text;
using System.Text.Json;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>A rule as one plain sentence, generated from its content.</summary>
/// <param name="name">The name of a person, team or status by its id; the id itself where none is known.</param>
/// <param name="zone">In which times are said; UTC where none is given.</param>
/// <param name="currency">The business's, which amounts without one are in; empty to leave it out.</param>
public sealed class RuleSentence(Func<string, string> name, DateTimeZone? zone = null, string currency = "")
{
    /// <summary>A condition that was asked, without what it met: <c>the total is at least 500.00</c>.</summary>
    public string Of(ConditionTrace asked) => Of(new ConditionLeaf(asked.Field, asked.Is, asked.Wanted));

    /// <summary>What a condition met: why it could not be compared, <c>missing here</c>, or <c>here 109.60</c>, as the rule's own sentence writes it.</summary>
    public string Met(ConditionTrace asked) => asked.Problem ?? (asked.Found.ValueKind == JsonValueKind.Undefined ? "missing here" : $"here {Found(asked)}");

    /// <summary>What the event had.</summary>
    public string Found(ConditionTrace asked) =>
        asked.Found.ValueKind == JsonValueKind.Array
            ? string.Join(", ", asked.Found.EnumerateArray().Select(v => One(v, FieldCatalogue.Find(asked.Field))))
            : One(asked.Found, FieldCatalogue.Find(asked.Field));

    /// <summary>The whole sentence.</summary>
    public string Of(Rule rule)
    {
        var text = new StringBuilder("When ").Append(When(rule));
        if (rule.OnlyIf is { } condition)
        {
            text.Append(rule.When.Length > 1 ? ", and " : " and ").Append(Of(condition));
        }

        text.Append(rule.Cases.Length == 1 && rule.Cases[0].OnlyIf is null ? $", {Of(rule.Cases[0])}" : ": " + string.Join("; ", rule.Cases.Select(OfBranch)));
        text.Append('.');
        foreach (var option in RuleOptions.All)
        {
            if (option.Get(rule) is { } value && option.Said(this, rule, value) is { } said)
            {
                text.Append(' ').Append(said);
            }
        }

        return text.ToString();
    }

    /// <summary>What is asked of the order system: <c>hold the order because 'score 82'</c>.</summary>
    public string Of(IEnumerable<InstructionAsk> asks) => Join([.. asks.Select(Of)], "and");

    /// <summary>One of them.</summary>
    public string Of(InstructionAsk ask) =>
        InstructionKinds.Find(ask.Kind) is { } kind
            ? kind.Clause(ask.Members, name)
            : $"{name(ask.Kind)}{(ask.Members is { Count: > 0 } with ? $" ({string.Join(", ", with.Select(m => m.Value))})" : "")}";

    /// <summary>What is asked when somebody answers: <c>when somebody takes it, tag the order 'kitchen-has-it'</c>.</summary>
    public string Of(AnswerDo answer) => $"when somebody {answer.Answer.Traits().When}, {Of(answer.Do)}";

    /// <summary>The events: <c>an order is held or an order is placed</c>.</summary>
    public string When(Rule rule) => Join([.. rule.When.Select(Happens)], "or");

    /// <summary>Statuses by their names, with 'or' between.</summary>
    public string Statuses(IEnumerable<string> ids) => Join([.. ids.Select(name)], "or");

    /// <summary>A step of a ladder: <c>after 5 min Ines Calder by SMS</c>.</summary>
    /// <param name="step">The step.</param>
    /// <param name="usual">The channels of its case, where it has none of its own.</param>
    public string Of(LadderStep step, Ways? usual)
    {
        var asked = step.Do.IsEmpty ? null : Of(step.Do);
        var told = step.Tell.IsEmpty ? null : $"{Join([.. step.Tell.Select(Of)], "and")} {Of(step.By ?? usual)}";
        var again = step.Repeat is { } r ? $", {r.Times} {(r.Times == 1 ? "time" : "times")} more every {r.Every.InWords()}" : "";
        return $"{When(step)} {string.Join(", ", new[] { asked, told }.OfType<string>())}{again}";
    }

    private string Happens(string type) => !EventTypes.All.Contains(type) && name(type) is var own && own != type ? own : EventTypes.Phrase(type);

    /// <summary>A condition as a clause: <c>the total is at least 500 and …</c>.</summary>
    public string Of(Condition condition) =>
        condition switch
        {
            ConditionLeaf leaf => Of(leaf),
            ConditionGroup { Items.Length: 1, Grouping: not Grouping.None } one => Of(one.Items[0]),
            ConditionGroup { Grouping: Grouping.None } none => $"none of these holds: {string.Join(", ", none.Items.Select(Nested))}",
            ConditionGroup group => Join([.. group.Items.Select(Nested)], group.Grouping == Grouping.All ? "and" : "or"),
            _ => "",
        };

    /// <summary>A recipient: <c>everyone in Kitchen</c>.</summary>
    public string Of(Recipient recipient) => recipient.Said(name);

    /// <summary>Channels: <c>by SMS, then mail</c>.</summary>
    public static string Of(Ways? ways) =>
        ways is null
            ? "by mail"
            : "by "
                + (
                    ways.FirstThatLands
                        ? string.Join(", then ", ways.Channels.Select(c => c.Traits().Word))
                        : Join([.. ways.Channels.Select(c => c.Traits().Word)], "and")
                );

    // A group inside a group stands in brackets, or a reader could take its 'and' for the other's; one with a single part is that part.
    private string Nested(Condition condition) =>
        condition switch
        {
            ConditionGroup { Items.Length: 1, Grouping: not Grouping.None } one => Nested(one.Items[0]),
            ConditionGroup => $"({Of(condition)})",
            _ => Of(condition),
        };

    private string Of(ConditionLeaf leaf)
    {
        var field = FieldCatalogue.Find(leaf.Field);
        var subject = field?.Name ?? leaf.Field;
        return leaf.Is.TakesNothing() ? $"{subject} {leaf.Is.Phrase()}" : $"{subject} {leaf.Is.Phrase()} {Value(leaf, field)}";
    }

    private string Value(ConditionLeaf leaf, Field? field)
    {
        var value = leaf.Value;
        if (leaf.With is { } with)
        {
            return FieldCatalogue.Find(with)?.Name ?? with;
        }

        if (value.ValueKind == JsonValueKind.Array)
        {
            string[] all = [.. value.EnumerateArray().Select(v => One(v, field))];
            return Join(all, leaf.Is is Operator.Between or Operator.ContainsAll ? "and" : "or");
        }

        return One(value, field);
    }

    private string One(JsonElement value, Field? field)
    {
        if (
            value.ValueKind == JsonValueKind.Object
            && value.TryGetProperty("amount", out var amount)
            && value.TryGetProperty("currency", out var own)
            && Facts.Decimal(amount) is { } sum
        )
        {
            return new Money(sum, own.ToString()).ToString();
        }

        return field?.Type switch
        {
            FieldType.Money when Facts.Decimal(value) is { } d => new Money(d, currency).ToString().TrimEnd(),
            FieldType.Time when value.ValueKind == JsonValueKind.String && Facts.Time(value.GetString()) is { } at => at.InZone(zone ?? DateTimeZone.Utc)
                .ToString("ddd d MMM HH:mm", System.Globalization.CultureInfo.InvariantCulture),
            FieldType.Duration when value.ValueKind == JsonValueKind.String && Durations.Parse(value.GetString()!) is { } span => span.InWords(),
            _ when field?.Path is "order.status" or "order.site" or "order.salesperson" or "change.after" or "change.before" => name(Facts.InWords(value)),
            _ => Facts.InWords(value),
        };
    }

    private string OfBranch(RuleCase one) => (one.OnlyIf is { } only ? $"if {Of(only)}, " : "otherwise ") + Of(one);

    private string Of(RuleCase one)
    {
        var steps = one.Ladder.Select(s => Of(s, one.By));
        var act = one.Do.IsEmpty ? "" : Of(one.Do);
        string said;
        if (one.Tell.Length == 0)
        {
            var first = act.Length > 0 ? act : "tell nobody";
            said = one.Ladder.IsEmpty
                ? first
                : string.Join("; if it still stands so, ", [act.Length > 0 ? $"{act}, tell nobody and wait" : "tell nobody and wait", .. steps]);
        }
        else
        {
            said = string.Join(
                "; if nobody answers, ",
                [$"{(act.Length > 0 ? act + " and " : "")}tell {Join([.. one.Tell.Select(Of)], "and")} {Of(one.By)}", .. steps]
            );
        }

        return string.Join(
            "; ",
            [
                said,
                .. one.OnAnswer.Select(Of),
                .. one.OnLanded.IsEmpty ? Array.Empty<string>() : [$"when a message has landed, {Of(one.OnLanded)}"],
                .. one.Offer.IsEmpty ? Array.Empty<string>() : [$"whoever is told may {Join([.. one.Offer.Select(Of)], "or")}"],
            ]
        );
    }

    private static string When(LadderStep step) =>
        step.Clock switch
        {
            StepClock.After => $"after {step.Delay.InWords()}",
            StepClock.AfterWorking => $"after {step.Delay.InWords()} of working time",
            _ => $"{step.Delay.InWords()} before the order is due",
        };

    internal static string Join(string[] parts, string word) =>
        parts.Length switch
        {
            0 => "",
            1 => parts[0],
            2 => $"{parts[0]} {word} {parts[1]}",
            _ => $"{string.Join(", ", parts[..^1])} {word} {parts[^1]}",
        };
}
