using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>A step of the ladder in the editor.</summary>
public sealed class DraftStep
{
    /// <summary><c>after</c>, <c>afterWorking</c> or <c>beforeDue</c>.</summary>
    public string Clock { get; set; } = "after";

    /// <summary>The delay as typed.</summary>
    public string Delay { get; set; } = "";

    /// <summary>Who is told.</summary>
    public List<DraftRecipient> Tell { get; } = [];

    /// <summary>By what; <see langword="null"/> for what the case uses.</summary>
    public DraftWays? By { get; set; }

    /// <summary>The wording's id, or empty.</summary>
    public string Wording { get; set; } = "";

    /// <summary>What the order system is asked.</summary>
    public List<DraftAct> Acts { get; } = [];

    /// <summary>How many times more it comes, as typed.</summary>
    public string Times { get; set; } = "";

    /// <summary>How long after the time before, as typed.</summary>
    public string Every { get; set; } = "";

    /// <summary>What a document's step shows.</summary>
    public static DraftStep Of(LadderStep step)
    {
        var made = new DraftStep
        {
            Clock = step.Clock switch
            {
                StepClock.After => "after",
                StepClock.AfterWorking => "afterWorking",
                _ => "beforeDue",
            },
            Delay = step.Delay.ExactWords(),
            By = DraftWays.Of(step.By),
            Wording = step.Wording ?? "",
            Times = step.Repeat?.Times.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? "",
            Every = step.Repeat?.Every.ExactWords() ?? "",
        };
        made.Tell.AddRange(step.Tell.Select(DraftRecipient.Of));
        made.Acts.AddRange(step.Do.Select(d => DraftAct.Of(d, DraftAct.Now)));
        return made;
    }

    /// <summary>Reads it; <see langword="null"/> where the form has none at that place.</summary>
    public static DraftStep? Read(IFormCollection form, string place)
    {
        if (!form.ContainsKey(place + ".clock"))
        {
            return null;
        }

        var made = new DraftStep
        {
            Clock = form[place + ".clock"].ToString(),
            Delay = form[place + ".delay"].ToString(),
            By = DraftWays.Read(form, place + ".by"),
            Wording = form[place + ".wording"].ToString(),
            Times = form[place + ".times"].ToString(),
            Every = form[place + ".every"].ToString(),
        };
        made.Tell.AddRange(DraftRecipient.Read(form, place));
        made.Acts.AddRange(DraftAct.Read(form, place));
        return made;
    }

    /// <summary>The document's step.</summary>
    public JsonObject Write()
    {
        var map = new JsonObject { [Clock is "afterWorking" or "beforeDue" ? Clock : "after"] = RuleDraft.Span(Delay), ["tell"] = DraftRecipient.Write(Tell) };
        DraftAct.Write(map, Acts);
        if (map["do"] is not null && Tell.TrueForAll(t => t.Who.Length == 0))
        {
            map.Remove("tell");
        }

        if (By is not null)
        {
            map["by"] = By.Write();
        }

        if (Times.Trim().Length > 0)
        {
            map["repeat"] = new JsonObject
            {
                ["times"] = int.TryParse(Times, out var times) ? times : Times,
                ["every"] = RuleDraft.Span(Every.Trim().Length > 0 ? Every : "5 min"),
            };
        }

        if (Wording.Length > 0)
        {
            map["wording"] = Wording;
        }

        return map;
    }
}

/// <summary>A case in the editor.</summary>
public sealed class DraftCase
{
    /// <summary>Its name.</summary>
    public string Name { get; set; } = "";

    /// <summary>Its conditions, a group.</summary>
    public DraftCondition OnlyIf { get; private set; } = DraftCondition.Everything;

    /// <summary>Who is told.</summary>
    public List<DraftRecipient> Tell { get; } = [];

    /// <summary>By what; <see langword="null"/> for mail.</summary>
    public DraftWays? By { get; set; }

    /// <summary>The wording's id, or empty.</summary>
    public string Wording { get; set; } = "";

    /// <summary>The id of the shared ladder, or empty for steps of its own.</summary>
    public string Shared { get; set; } = "";

    /// <summary>The ladder.</summary>
    public List<DraftStep> Ladder { get; } = [];

    /// <summary>What the order system is asked, and what is offered.</summary>
    public List<DraftAct> Acts { get; } = [];

    /// <summary>How old an event may be, as typed.</summary>
    public string NotOlderThan { get; set; } = "";

    /// <summary>What a document's case shows.</summary>
    public static DraftCase Of(RuleCase one)
    {
        var made = new DraftCase
        {
            Name = one.Name,
            OnlyIf = DraftCondition.Of(one.OnlyIf),
            By = DraftWays.Of(one.By),
            Wording = one.Wording ?? "",
            Shared = one.SharedLadder ?? "",
            NotOlderThan = one.NotOlderThan?.ExactWords() ?? "",
        };
        made.Tell.AddRange(one.Tell.Select(DraftRecipient.Of));
        made.Acts.AddRange(DraftAct.Of(one));
        made.Ladder.AddRange(one.SharedLadder is null ? one.Ladder.Select(DraftStep.Of) : []);
        return made;
    }

    /// <summary>Reads it; <see langword="null"/> where the form has none at that place.</summary>
    public static DraftCase? Read(IFormCollection form, string place)
    {
        if (!form.ContainsKey(place + ".name"))
        {
            return null;
        }

        var made = new DraftCase
        {
            Name = form[place + ".name"].ToString(),
            OnlyIf = DraftCondition.Read(form, place + ".c") ?? DraftCondition.Everything,
            By = DraftWays.Read(form, place + ".by"),
            Wording = form[place + ".wording"].ToString(),
            Shared = form[place + ".shared"].ToString(),
            NotOlderThan = form[place + ".notOlderThan"].ToString(),
        };
        made.Tell.AddRange(DraftRecipient.Read(form, place));
        made.Acts.AddRange(DraftAct.Read(form, place));
        for (var i = 0; DraftStep.Read(form, $"{place}.s{i}") is { } step; i++)
        {
            made.Ladder.Add(step);
        }

        return made;
    }

    /// <summary>Writes the document's case into a map.</summary>
    /// <param name="map">The rule's own map for a short document, else an empty one.</param>
    /// <param name="brief">The rule has no cases: it tells somebody.</param>
    public JsonObject Write(JsonObject map, bool brief)
    {
        if (!brief)
        {
            map["name"] = Name.Trim();
            if (OnlyIf.Parts.Count > 0)
            {
                map["onlyIf"] = OnlyIf.WriteWhole();
            }
        }

        if (brief || Tell.Exists(t => t.Who.Length > 0))
        {
            map["tell"] = DraftRecipient.Write(Tell);
        }

        if (By is not null)
        {
            map["by"] = By.Write();
        }

        if (Wording.Length > 0)
        {
            map["wording"] = Wording;
        }

        if (Shared.Length > 0)
        {
            map["ladder"] = new JsonObject { ["shared"] = Shared };
        }
        else if (Ladder.Count > 0)
        {
            map["ladder"] = new JsonArray([.. Ladder.Select(s => s.Write())]);
        }

        if (NotOlderThan.Trim().Length > 0)
        {
            map["notOlderThan"] = RuleDraft.Span(NotOlderThan);
        }

        DraftAct.Write(map, Acts);
        return map;
    }
}
