using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Formats.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>
/// A rule while it is edited: its document itself, which a form fills (<see cref="DraftForm"/>) and the form's buttons change. Nothing is checked here,
/// everything that was typed stands in it. While it is open, each place of the form has its member, also an empty one (<see cref="DraftShape"/>).
/// </summary>
public sealed class RuleDraft
{
    private readonly JsonObject map;

    private RuleDraft(JsonObject map) => this.map = map;

    /// <summary>The rule's name.</summary>
    public string Name => map.Text("name");

    /// <summary>On or off.</summary>
    public bool On => (bool?)map["on"] == true;

    /// <summary>The urgency's name.</summary>
    public string Urgency => map.Text("urgency");

    /// <summary>The events.</summary>
    public IReadOnlyList<string> When => Texts("when");

    /// <summary>The conditions, a group.</summary>
    public DraftCondition OnlyIf => new(map.Map("onlyIf"));

    /// <summary>The rule has cases.</summary>
    public bool Branches => map["cases"] is JsonArray;

    /// <summary>The cases; a rule without cases has one that always holds.</summary>
    public IReadOnlyList<DraftCase> Cases => [.. DraftShape.CasesOf(map).Select(c => new DraftCase(c))];

    /// <summary>What goes with its mails: a document's name, or the field of a file, with the audience; empty for every reader.</summary>
    public IReadOnlyList<(string What, string Audience)> Attach =>
        [.. map.List("attach").OfType<JsonObject>().Select(a => (a.Text("document") + a.Text("file"), a.Text("audience")))];

    /// <summary>A rule to begin with.</summary>
    public static RuleDraft Fresh() => new(DraftShape.Open(DraftForm.Beginning()));

    /// <summary>What a rule shows.</summary>
    public static RuleDraft From(Rule rule) => new(DraftShape.Open(RuleWriter.Write(rule)));

    /// <summary>The draft that a form holds.</summary>
    public static RuleDraft Read(IFormCollection form) => new(DraftForm.Read(form));

    /// <summary>The document that the draft stands for: without what nobody chose or filled in yet.</summary>
    public JsonObject Document(string? id)
    {
        var document = DraftShape.Close(map);
        document.Remove("id");
        if (id is not null)
        {
            document["id"] = id;
        }

        return document;
    }

    /// <summary>Whether an option that is a switch is on; where the document does not say, as usual.</summary>
    public bool Is(string option) => (bool?)map[option] ?? RuleOptions.Find(option)!.Usual;

    /// <summary>A length of time in words, or what was typed instead; <paramref name="inner"/> where it stands in a limit.</summary>
    public string Span(string option, string? inner = null) => inner is null ? map.Span(option) : (map[option] as JsonObject)?.Span(inner) ?? "";

    /// <summary>How many a limit allows, as typed.</summary>
    public string Count(string option) => (map[option] as JsonObject)?.Text(RuleOptions.Find(option)!.Counts.Name) ?? "";

    /// <summary>The ids or names in a list.</summary>
    public IReadOnlyList<string> Texts(string member) => [.. map.List(member).Select(t => t?.ToString() ?? "")];

    /// <summary>The steps of a case's own ladder, as a document has them; none where it uses a shared one.</summary>
    public JsonArray StepsAt(string place) => CaseAt(place)?["ladder"] is JsonArray steps ? DraftShape.CloseSteps(steps) : [];

    /// <summary>
    /// Does what a button of the form asks, at a place such as <c>c.0</c> (a condition of the rule), <c>k1.c</c> (of the second case), <c>k0</c> (a case),
    /// <c>k0.s2</c> (a step):
    /// <c>add:c</c>, <c>group:c</c>, <c>drop:c.1</c>, <c>event</c>, <c>drop-event:1</c>, <c>recipient:k0</c>, <c>drop-recipient:k0.1</c>, <c>channel:k0</c>,
    /// <c>drop-channel:k0.1</c>,
    /// <c>step:k0</c>, <c>drop-step:k0.s1</c>, <c>unshare:k0</c> (the shared ladder's steps become the case's own), <c>case</c>, <c>drop-case:k1</c>,
    /// <c>up:k1</c>, <c>down:k0</c>.
    /// </summary>
    /// <param name="act">What is asked; nonsense changes nothing.</param>
    /// <param name="stepsOf">The steps of a shared ladder by its id.</param>
    public void Do(string act, Func<string, IEnumerable<LadderStep>>? stepsOf = null)
    {
        var (what, where) = act.Split(':', 2) is [var w, var p] ? (w, p) : (act, "");
        var (list, index) =
            where.LastIndexOf('.') is > 0 and var dot && int.TryParse(where[(dot + 1)..], out var n) ? (where[..dot], n)
            : int.TryParse(where, out var alone) ? ("", alone)
            : (where, -1);
        switch (what)
        {
            case "add":
                PartsAt(where)?.Add(DraftCondition.First());
                break;
            case "group":
                PartsAt(where)?.Add(new JsonObject { ["any"] = new JsonArray(DraftCondition.First()) });
                break;
            case "drop":
                Drop(PartsAt(list), index);
                break;
            case "event":
                map.List("when").Add("order.placed");
                break;
            case "drop-event":
                Drop(map.List("when"), index);
                break;
            case "attach":
                map["attach"] ??= new JsonArray();
                map.List("attach").Add(new JsonObject { ["document"] = DocumentKind.ShippingNote.Name(), ["audience"] = "customer" });
                break;
            case "drop-attach":
                Drop(map.List("attach"), index);
                break;
            case "recipient":
                ListAt(where, "tell")?.Add(new JsonObject());
                break;
            case "drop-recipient":
                Drop(ListAt(list, "tell"), index);
                break;
            case "act":
                ListAt(where, DraftShape.Acts)?.Add(DraftAct.Make(DraftAct.Now, ""));
                break;
            case "drop-act":
                Drop(ListAt(list, DraftShape.Acts), index);
                break;
            case "channel" when WaysAt(where) is { } ways:
                ways.Add(Names.All<Core.Deliveries.Channel>().Except(ways.Select(c => c!.ToString())).FirstOrDefault() ?? "mail");
                break;
            case "drop-channel":
                Drop(WaysAt(list), index);
                break;
            case "step" when (CaseAt(where)?["ladder"]) is JsonArray steps:
                steps.Add(
                    DraftShape.OpenTelling(new JsonObject { ["after"] = steps.Count == 0 ? "PT5M" : "PT15M", ["tell"] = new JsonArray(new JsonObject()) })
                );
                break;
            case "drop-step":
                StepAt(where)?.Parent!.AsArray().Remove(StepAt(where));
                break;
            case "unshare" when stepsOf is not null && CaseAt(where) is { } one && new DraftCase(one).Shared is { Length: > 0 } shared:
                one["ladder"] = DraftShape.OpenSteps(RuleWriter.Write(stepsOf(shared)));
                break;
            default:
                DoCases(what, where);
                break;
        }
    }

    /// <summary>A typed length of time as ISO 8601; what is none stays as typed, for the reader to say so.</summary>
    public static string Span(string typed) => Durations.ParseWords(typed)?.Iso() ?? typed;

    private void DoCases(string what, string where)
    {
        switch (what)
        {
            case "case":
                Branch();
                break;
            case "drop-case" when map["cases"] is JsonArray { Count: > 1 } cases:
                cases.Remove(CaseAt(where));
                break;
            case "join" when map["cases"] is JsonArray { Count: 1 } cases:
                var only = cases[0]!.AsObject();
                map.Remove("cases");
                DraftShape.Move(only, map, [.. only.Select(m => m.Key).Except(["name", "onlyIf"])]);
                break;
            case "up" or "down" when map["cases"] is JsonArray cases && CaseAt(where) is { } one:
                var to = cases.IndexOf(one) + (what == "up" ? -1 : 1);
                if (to >= 0 && to < cases.Count)
                {
                    cases.Remove(one);
                    cases.Insert(to, one);
                }

                break;
        }
    }

    // The first case keeps what the rule told so far; the new one comes before an 'otherwise' that stands last.
    private void Branch()
    {
        if (map["cases"] is not JsonArray cases)
        {
            map["cases"] = new JsonArray(Asking("first", map), DraftShape.OpenCase(new JsonObject { ["name"] = "otherwise" }));
            return;
        }

        var names = Cases.Select(c => c.Name).ToArray();
        var name = Enumerable.Range(cases.Count, 100).Select(n => $"case {n}").First(n => !names.Contains(n));
        var at = Cases[^1].OnlyIf.Parts.Count == 0 ? cases.Count - 1 : cases.Count;
        cases.Insert(at, DraftShape.OpenCase(Asking(name, DraftForm.Beginning())));
    }

    // A case with a question to begin with, which takes over whom a rule tells.
    private static JsonObject Asking(string name, JsonObject rule)
    {
        var one = new JsonObject
        {
            ["name"] = name,
            ["onlyIf"] = new JsonObject { ["all"] = new JsonArray(DraftCondition.First()) },
        };
        DraftShape.Move(rule, one, DraftShape.OfCase);
        return one;
    }

    // The case at a place such as k1; null where there is none.
    private JsonObject? CaseAt(string place) =>
        place.Split('.')[0] is ['k', .. var n] && int.TryParse(n, out var i) && i >= 0 ? DraftShape.CasesOf(map).ElementAtOrDefault(i) : null;

    private JsonObject? StepAt(string place) =>
        place.Split('.') is [_, ['s', .. var n], ..] && int.TryParse(n, out var i) && i >= 0 && CaseAt(place)?["ladder"] is JsonArray steps && i < steps.Count
            ? steps[i]!.AsObject()
            : null;

    private JsonArray? ListAt(string place, string member) => (StepAt(place) ?? CaseAt(place))?[member] as JsonArray;

    private JsonArray? WaysAt(string place) =>
        (StepAt(place) ?? CaseAt(place))?["by"] is JsonObject by ? (by["allAtOnce"] ?? by["firstThatLands"]) as JsonArray : null;

    private JsonArray? PartsAt(string place)
    {
        var parts = place.Split('.');
        var at =
            parts[0] == "c" ? OnlyIf
            : parts is [_, "c", ..] && CaseAt(place) is { } one ? new DraftCase(one).OnlyIf
            : null;
        foreach (var index in parts[0] == "c" ? parts[1..] : parts.Skip(2))
        {
            at = at is not null && int.TryParse(index, out var i) && i >= 0 ? at.Parts.ElementAtOrDefault(i) : null;
        }

        return at?.List;
    }

    private static void Drop(JsonArray? list, int index)
    {
        if (list is not null && index >= 0 && index < list.Count)
        {
            list.RemoveAt(index);
        }
    }
}
