using System.Text.Json.Nodes;

namespace Sirena.Web.Pages.Rules;

/// <summary>A case or a step of its ladder in the editor: what the form shows of it.</summary>
/// <param name="Map">It in the open document.</param>
public abstract record DraftPlace(JsonObject Map)
{
    /// <summary>Who is told.</summary>
    public JsonArray Tell => Map.List("tell");

    /// <summary>By what; <see langword="null"/> for what is usual there.</summary>
    public DraftWays? By => Map["by"] is JsonObject by ? new(by) : null;

    /// <summary>The wording's id, or empty.</summary>
    public string Wording => Map.Text("wording");

    /// <summary>What the order system is asked, and what is offered.</summary>
    public IReadOnlyList<DraftAct> Acts => [.. Map.List(DraftShape.Acts).OfType<JsonObject>().Select(a => new DraftAct(a))];
}

/// <summary>A case in the editor; the rule itself where it has none.</summary>
/// <param name="Map">It in the open document.</param>
public sealed record DraftCase(JsonObject Map) : DraftPlace(Map)
{
    /// <summary>Its name.</summary>
    public string Name => Map.Text("name");

    /// <summary>Its conditions, a group.</summary>
    public DraftCondition OnlyIf => new(Map.Map("onlyIf"));

    /// <summary>The id of the shared ladder, or empty for steps of its own.</summary>
    public string Shared => (Map["ladder"] as JsonObject)?.Text("shared") ?? "";

    /// <summary>The ladder's own steps.</summary>
    public IReadOnlyList<DraftStep> Ladder => [.. Map.List("ladder").OfType<JsonObject>().Select(s => new DraftStep(s))];

    /// <summary>How old an event may be, as typed.</summary>
    public string NotOlderThan => Map.Span("notOlderThan");
}

/// <summary>A step of the ladder in the editor.</summary>
/// <param name="Map">It in the open document.</param>
public sealed record DraftStep(JsonObject Map) : DraftPlace(Map)
{
    private static readonly string[] Clocks = ["after", "afterWorking", "beforeDue"];

    /// <summary><c>after</c>, <c>afterWorking</c> or <c>beforeDue</c>.</summary>
    public string Clock => Clocks.FirstOrDefault(Map.ContainsKey, Clocks[0]);

    /// <summary>The delay as typed.</summary>
    public string Delay => Map.Span(Clock);

    /// <summary>How many times more it comes, as typed.</summary>
    public string Times => Map.Map("repeat").Text("times");

    /// <summary>How long after the time before, as typed.</summary>
    public string Every => Map.Map("repeat").Span("every");
}
