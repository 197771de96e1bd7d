using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;

namespace Sirena.Web.Pages.Rules;

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
    public DraftCondition OnlyIf { get; private set; } = DraftCondition.Everything;

    /// <summary>The cases; a rule without cases has one that always holds.</summary>
    public List<DraftCase> Cases { get; } = [];

    /// <summary>The rule has cases.</summary>
    public bool Branches { get; private set; }

    /// <summary>The statuses that end the alert.</summary>
    public List<string> WithdrawAt { get; } = [];

    /// <summary>Who is told may opt out.</summary>
    public bool MayOptOut { get; set; } = true;

    /// <summary>The rest period as typed.</summary>
    public string Rest { get; set; } = "";

    /// <summary>The gathering time as typed.</summary>
    public string Gather { get; set; } = "";

    /// <summary>How long whoever took it has until it is done, as typed.</summary>
    public string DoneWithin { get; set; } = "";

    /// <summary>The next step is pulled forward to the due time.</summary>
    public bool PullForward { get; set; } = true;

    /// <summary>The number of alerts from which on they are gathered, as typed.</summary>
    public string StormAlerts { get; set; } = "";

    /// <summary>In which span, as typed.</summary>
    public string StormWithin { get; set; } = "";

    /// <summary>How often it may ask the order system by itself, as typed.</summary>
    public string DoTimes { get; set; } = "";

    /// <summary>In which span, as typed.</summary>
    public string DoWithin { get; set; } = "";

    /// <summary>It only says what it would ask.</summary>
    public bool Trial { get; set; }

    /// <summary>What goes with its mails: a document's name, or the field of a file, with the audience; empty for every reader.</summary>
    public List<(string What, string Audience)> Attach { get; } = [];

    /// <summary>A rule to begin with.</summary>
    public static RuleDraft Fresh()
    {
        var draft = new RuleDraft();
        draft.When.Add("order.placed");
        draft.Cases.Add(
            new DraftCase
            {
                Name = "always",
                By = Mail(),
                Tell = { DraftRecipient.None },
            }
        );
        return draft;
    }

    /// <summary>What a rule shows.</summary>
    public static RuleDraft From(Rule rule)
    {
        var draft = new RuleDraft
        {
            Name = rule.Name,
            On = rule.On,
            Urgency = rule.Urgency.Name(),
            MayOptOut = rule.MayOptOut,
            Rest = Shown(rule.Rest),
            Gather = Shown(rule.Gather),
            OnlyIf = DraftCondition.Of(rule.OnlyIf),
            Branches = !rule.Short,
            PullForward = rule.PullForward,
        };
        draft.DoneWithin = rule.DoneWithin is { } done
            ? done == Duration.Zero
                ? "never"
                : done.ExactWords()
            : "";
        (draft.StormAlerts, draft.StormWithin) = rule.Storm is { } storm
            ? (storm.Alerts.ToString(System.Globalization.CultureInfo.InvariantCulture), storm.Within.ExactWords())
            : ("", "");
        draft.Trial = rule.Trial;
        (draft.DoTimes, draft.DoWithin) = rule.DoAtMost is { } most
            ? (most.Times.ToString(System.Globalization.CultureInfo.InvariantCulture), most.Within.ExactWords())
            : ("", "");
        draft.Attach.AddRange(rule.Attach.Select(a => (a.Document?.Name() ?? a.File!, a.Audience?.Name() ?? "")));
        draft.When.AddRange(rule.When);
        draft.WithdrawAt.AddRange(rule.WithdrawAt);
        draft.Cases.AddRange(rule.Cases.Select(DraftCase.Of));
        return draft;
    }

    /// <summary>The draft that a form holds.</summary>
    public static RuleDraft Read(IFormCollection form)
    {
        var draft = new RuleDraft
        {
            Name = form["name"].ToString(),
            On = form["on"].ToString() == "true",
            Urgency = form["urgency"].ToString(),
            Rest = form["rest"].ToString(),
            Gather = form["gather"].ToString(),
            MayOptOut = form["mayOptOut"].ToString() == "true",
            DoneWithin = form["doneWithin"].ToString(),
            PullForward = form["pullForward"].ToString() == "true" || !form.ContainsKey("pullForward.asked"),
            DoTimes = form["do.times"].ToString(),
            DoWithin = form["do.within"].ToString(),
            Trial = form["trial"].ToString() == "true",
            StormAlerts = form["storm.alerts"].ToString(),
            StormWithin = form["storm.within"].ToString(),
            OnlyIf = DraftCondition.Read(form, "c") ?? DraftCondition.Everything,
            Branches = form["branches"].ToString() == "true",
        };
        draft.Attach.AddRange(
            form["attach"].Zip(form["attach.to"], (what, to) => (What: what?.Trim() ?? "", Audience: to ?? "")).Where(a => a.What.Length > 0)
        );
        draft.When.AddRange(form["when"].OfType<string>());
        draft.WithdrawAt.AddRange(form["withdrawAt"].OfType<string>());
        for (var i = 0; DraftCase.Read(form, $"k{i}") is { } one; i++)
        {
            draft.Cases.Add(one);
        }

        if (draft.Cases.Count == 0)
        {
            draft.Cases.AddRange(Fresh().Cases);
        }

        return draft;
    }

    /// <summary>
    /// Does what a button of the form asks, at a place such as <c>c.0</c> (a condition of the rule), <c>k1.c</c> (of the second case), <c>k0</c> (a case),
    /// <c>k0.s2</c> (a step):
    /// <c>add:c</c>, <c>group:c</c>, <c>drop:c.1</c>, <c>event</c>, <c>drop-event:1</c>, <c>recipient:k0</c>, <c>drop-recipient:k0.1</c>, <c>channel:k0</c>,
    /// <c>drop-channel:k0.1</c>,
    /// <c>step:k0</c>, <c>drop-step:k0.s1</c>, <c>unshare:k0</c> (the shared ladder's steps become the case's own), <c>case</c>, <c>drop-case:k1</c>,
    /// <c>up:k1</c>, <c>down:k0</c>.
    /// </summary>
    /// <param name="act">What is asked.</param>
    /// <param name="stepsOf">The steps of a shared ladder by its id.</param>
    public void Do(string act, Func<string, IEnumerable<LadderStep>>? stepsOf = null)
    {
        var (what, where) = act.Split(':', 2) is [var w, var p] ? (w, p) : (act, "");
        var last =
            where.LastIndexOf('.') is > 0 and var dot && int.TryParse(where[(dot + 1)..], out var n)
                ? (Before: where[..dot], Index: n)
                : (Before: where, Index: -1);
        switch (what)
        {
            case "add":
                ConditionAt(where)?.Parts.Add(DraftCondition.First);
                break;
            case "group":
                ConditionAt(where)?.Parts.Add(new DraftCondition { Group = Grouping.Any, Parts = { DraftCondition.First } });
                break;
            case "drop":
                Drop(ConditionAt(last.Before)?.Parts, last.Index);
                break;
            case "event":
                When.Add("order.placed");
                break;
            case "attach":
                Attach.Add(("shipping-note", "customer"));
                break;
            case "drop-attach" when int.TryParse(where, out var a):
                Drop(Attach, a);
                break;
            case "drop-event" when int.TryParse(where, out var e):
                Drop(When, e);
                break;
            case "recipient":
                TellAt(where)?.Add(DraftRecipient.None);
                break;
            case "drop-recipient":
                Drop(TellAt(last.Before), last.Index);
                break;
            case "act":
                ActsAt(where)?.Add(new DraftAct());
                break;
            case "drop-act":
                Drop(ActsAt(last.Before), last.Index);
                break;
            case "channel":
                WaysAt(where)?.Channels.Add(Names.All<Core.Deliveries.Channel>().Except(WaysAt(where)!.Channels).FirstOrDefault() ?? "mail");
                break;
            case "drop-channel":
                Drop(WaysAt(last.Before)?.Channels, last.Index);
                break;
            case "step" when CaseAt(where) is { } one:
                one.Ladder.Add(new DraftStep { Delay = one.Ladder.Count == 0 ? "5 min" : "15 min", Tell = { DraftRecipient.None } });
                break;
            case "drop-step" when CaseAt(where) is { } one && StepAt(where) is { } step:
                one.Ladder.Remove(step);
                break;
            case "unshare" when CaseAt(where) is { Shared.Length: > 0 } one && stepsOf is not null:
                one.Ladder.AddRange(stepsOf(one.Shared).Select(DraftStep.Of));
                one.Shared = "";
                break;
            case "case":
                Branch();
                break;
            case "drop-case" when CaseAt(where) is { } one && Cases.Count > 1:
                Cases.Remove(one);
                break;
            case "join" when Cases.Count == 1:
                Branches = false;
                break;
            case "up" when CaseAt(where) is { } one:
                Move(one, -1);
                break;
            case "down" when CaseAt(where) is { } one:
                Move(one, 1);
                break;
        }
    }

    /// <summary>The document that the draft stands for.</summary>
    public JsonObject Document(string? id)
    {
        var document = new JsonObject
        {
            ["name"] = Name.Trim(),
            ["on"] = On,
            ["when"] = Texts(When.Where(w => w.Length > 0)),
            ["urgency"] = Urgency,
        };
        if (id is not null)
        {
            document["id"] = id;
        }

        if (OnlyIf.Parts.Count > 0)
        {
            document["onlyIf"] = OnlyIf.WriteWhole();
        }

        if (Branches)
        {
            document["cases"] = new JsonArray([.. Cases.Select(c => (JsonNode)c.Write([], brief: false))]);
        }
        else
        {
            Cases[0].Write(document, brief: true);
        }

        Put("gather", Gather);
        Put("rest", Rest);
        if (DoneWithin.Trim().Length > 0)
        {
            document["doneWithin"] = DoneWithin.Trim() == "never" ? "PT0S" : Span(DoneWithin);
        }

        if (Attach.Count > 0)
        {
            document["attach"] = new JsonArray([
                .. Attach.Select(a =>
                {
                    var one = new JsonObject { [Names.Parse<DocumentKind>(a.What) is null ? "file" : "document"] = a.What };
                    if (a.Audience.Length > 0)
                    {
                        one["audience"] = a.Audience;
                    }

                    return (JsonNode)one;
                }),
            ]);
        }

        if (!PullForward)
        {
            document["pullForward"] = false;
        }

        if (StormAlerts.Trim().Length > 0 || StormWithin.Trim().Length > 0)
        {
            document["storm"] = new JsonObject
            {
                ["alerts"] = int.TryParse(StormAlerts, out var alerts) ? alerts : StormAlerts,
                ["within"] = Span(StormWithin),
            };
        }

        if (DoTimes.Trim().Length > 0 || DoWithin.Trim().Length > 0)
        {
            document["doAtMost"] = new JsonObject { ["times"] = int.TryParse(DoTimes, out var times) ? times : DoTimes, ["within"] = Span(DoWithin) };
        }

        if (Trial)
        {
            document["trial"] = true;
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

        void Put(string name, string typed)
        {
            if (typed.Trim().Length > 0)
            {
                document[name] = Span(typed);
            }
        }
    }

    /// <summary>A typed length of time as ISO 8601; what is none stays as typed, for the reader to say so.</summary>
    public static string Span(string typed) => Durations.ParseWords(typed)?.Iso() ?? typed;

    /// <summary>
    /// The place in the form of a mistake in the document: <c>cases[1].onlyIf.all[0].any[1].value</c> is <c>k1.c.0.1</c>, <c>ladder[0].tell[1].person</c> is
    /// <c>k0.s0.tell</c>.
    /// </summary>
    public static string PlaceOf(string path)
    {
        string[] parts = path.Split('.');
        var place = "";
        if (Index(parts[0], "cases") is { } branch)
        {
            (place, parts) = ($"k{branch}.", parts[1..]);
            if (parts.Length == 0)
            {
                return place.TrimEnd('.');
            }
        }

        if (parts[0] == "onlyIf")
        {
            return place
                + "c"
                + string.Concat(
                    parts[1..]
                        .Where(p => p.Contains('[', StringComparison.Ordinal) && !p.StartsWith("value", StringComparison.Ordinal))
                        .Select(p => "." + p[(p.IndexOf('[', StringComparison.Ordinal) + 1)..^1])
                );
        }

        var ofCase =
            place.Length > 0
            || parts[0].Split('[')[0] is "tell" or "by" or "wording" or "ladder" or "notOlderThan" or "do" or "offer" or "onAnswer" or "onLanded";
        place = ofCase && place.Length == 0 ? "k0." : place;
        if (Index(parts[0], "ladder") is { } step)
        {
            (place, parts) = ($"{place}s{step}.", parts[1..]);
            if (parts.Length == 0)
            {
                return place.TrimEnd('.');
            }
        }

        return place + parts[0].Split('[')[0];

        static int? Index(string part, string name) =>
            part.StartsWith(name + "[", StringComparison.Ordinal) && int.TryParse(part[(name.Length + 1)..^1], out var i) ? i : null;
    }

    private static string Shown(Duration span) => span > Duration.Zero ? span.ExactWords() : "";

    private static DraftWays Mail()
    {
        var ways = new DraftWays();
        ways.Channels.Add("mail");
        return ways;
    }

    // The first case keeps what the rule told so far; the new one comes before an 'otherwise' that stands last.
    private void Branch()
    {
        if (!Branches)
        {
            Branches = true;
            Cases[0].Name = Cases[0].Name is "always" or "" ? "first" : Cases[0].Name;
            Cases[0].OnlyIf.Parts.Add(DraftCondition.First);
            Cases.Add(new DraftCase { Name = "otherwise" });
            return;
        }

        var name = Enumerable.Range(Cases.Count, 100).Select(n => $"case {n}").First(n => Cases.TrueForAll(c => c.Name != n));
        var at = Cases.Count > 0 && Cases[^1].OnlyIf.Parts.Count == 0 ? Cases.Count - 1 : Cases.Count;
        Cases.Insert(
            at,
            new DraftCase
            {
                Name = name,
                By = Mail(),
                Tell = { DraftRecipient.None },
                OnlyIf = { Parts = { DraftCondition.First } },
            }
        );
    }

    private void Move(DraftCase one, int by)
    {
        var at = Cases.IndexOf(one);
        if (at + by >= 0 && at + by < Cases.Count)
        {
            (Cases[at], Cases[at + by]) = (Cases[at + by], Cases[at]);
        }
    }

    /// <summary>The case at a place such as <c>k1</c>; <see langword="null"/> where there is none.</summary>
    public DraftCase? CaseAt(string place) =>
        place.Split('.')[0] is ['k', .. var n] && int.TryParse(n, out var i) && i >= 0 && i < Cases.Count ? Cases[i] : null;

    private DraftStep? StepAt(string place) =>
        CaseAt(place) is { } one && place.Split('.') is [_, ['s', .. var n], ..] && int.TryParse(n, out var i) && i >= 0 && i < one.Ladder.Count
            ? one.Ladder[i]
            : null;

    private List<DraftRecipient>? TellAt(string place) => StepAt(place)?.Tell ?? CaseAt(place)?.Tell;

    private List<DraftAct>? ActsAt(string place) => StepAt(place)?.Acts ?? CaseAt(place)?.Acts;

    private DraftWays? WaysAt(string place) => StepAt(place) is { } step ? step.By : CaseAt(place)?.By;

    private DraftCondition? ConditionAt(string place)
    {
        var parts = place.Split('.');
        return parts[0] == "c" ? OnlyIf.At(parts[1..])
            : CaseAt(place) is { } one && parts is [_, "c", ..] ? one.OnlyIf.At(parts[2..])
            : null;
    }

    private static void Drop<T>(List<T>? list, int index)
    {
        if (list is not null && index >= 0 && index < list.Count)
        {
            list.RemoveAt(index);
        }
    }

    private static JsonArray Texts(IEnumerable<string> texts) => new([.. texts.Select(t => (JsonNode)t)]);
}
