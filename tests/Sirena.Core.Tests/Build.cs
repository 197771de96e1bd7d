using System.Text.Json;
using System.Text.Json.Nodes;
using CsCheck;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;

namespace Sirena.Core.Tests;

/// <summary>Small worlds to test in.</summary>
internal static class Build
{
    public static readonly Instant Noon = Instant.FromUtc(2026, 11, 24, 12, 0);

    public static readonly DateTimeZone Lisbon = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];

    public static Gen<T> AnyOf<T>(params T[] values) => Gen.Int[0, values.Length - 1].Select(i => values[i]);

    public static T Any<T>(Random chance, params T[] all) => all[chance.Next(all.Length)];

    public static JsonObject Json(string json) => (JsonObject)JsonNode.Parse(json)!;

    public static JsonElement Element(string json) => JsonDocument.Parse(json).RootElement.Clone();

    public static OrderEvent Event(string after, string type = "order.held", string? before = null, string data = "{}", Instant? time = null) =>
        new()
        {
            EventId = "e1",
            Source = "/test",
            Type = type,
            Subject = "AQ-1",
            OrderNumber = "AQ-1",
            Seq = 1,
            Time = time ?? Noon,
            Received = time ?? Noon,
            Data = data,
            OrderBefore = before,
            OrderAfter = after,
        };

    public static Facts Facts(string after, string? before = null, string data = "{}", string type = "order.held", Instant? time = null) =>
        new(Event(after, type, before, data, time), Lisbon, "EUR");

    public static ConditionLeaf Leaf(string field, string op, string? value = null, bool exactly = false) =>
        new(field, Names.Parse<Operator>(op)!.Value, value is null ? default : Element(value), exactly);

    public static (bool Holds, string? Problem) Ask(ConditionLeaf leaf, Facts facts)
    {
        Assert.Null(Question.TryMake(leaf, out var question));
        var holds = question!.Holds(facts, out var problem);
        return (holds, problem);
    }

    public static Rule Rule(
        string id,
        Condition? onlyIf = null,
        string when = "order.held",
        Urgency urgency = Urgency.Prompt,
        bool on = true,
        params RuleCase[] cases
    ) =>
        new()
        {
            Id = id,
            Name = id,
            When = [when],
            OnlyIf = onlyIf,
            Urgency = urgency,
            On = on,
            Cases = cases.Length > 0 ? [.. cases] : [new RuleCase { Name = "always", Tell = [new PersonRecipient("ines.calder")] }],
        };
}
