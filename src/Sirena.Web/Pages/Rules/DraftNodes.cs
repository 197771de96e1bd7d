using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core;

namespace Sirena.Web.Pages.Rules;

/// <summary>What the form shows of the values of a document.</summary>
internal static class DraftNodes
{
    /// <summary>What a length of time of none is called.</summary>
    public const string Never = "never";

    /// <summary>A value's text; empty where there is none.</summary>
    public static string Text(this JsonObject map, string member) => map[member] is JsonValue value ? value.ToString() : "";

    /// <summary>A length of time in words, or what was typed instead.</summary>
    public static string Span(this JsonObject map, string member) =>
        Durations.Parse(map.Text(member)) is not { } span ? map.Text(member)
        : span == Duration.Zero ? Never
        : span.ExactWords();

    /// <summary>Sets a member; without a value it is none.</summary>
    public static void Put(this JsonObject map, string member, JsonNode? value)
    {
        if (value is null)
        {
            map.Remove(member);
        }
        else if (!ReferenceEquals(map[member], value))
        {
            map[member] = value;
        }
    }

    /// <summary>A member's list; an empty one of nobody's where there is none.</summary>
    public static JsonArray List(this JsonObject map, string member) => map[member] as JsonArray ?? [];

    /// <summary>A member's map; an empty one of nobody's where there is none.</summary>
    public static JsonObject Map(this JsonObject map, string member) => map[member] as JsonObject ?? [];
}
