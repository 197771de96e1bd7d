using System.Collections.Immutable;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.People;

namespace Sirena.Core.Rules;

/// <summary>How the value of an option stands in a document.</summary>
public enum OptionShape
{
    /// <summary>True or false.</summary>
    Switch,

    /// <summary>A length of time.</summary>
    Span,

    /// <summary>So many within a length of time.</summary>
    Limit,

    /// <summary>Statuses, by id.</summary>
    Statuses,

    /// <summary>Documents and files.</summary>
    Attachments,
}

/// <summary>So many within a length of time.</summary>
/// <param name="Count">How many.</param>
/// <param name="Within">Within how long.</param>
public sealed record CountWithin(int Count, Duration Within);

/// <summary>A member of a rule that most rules leave at its usual value: what reads, writes, checks, says and compares it goes through here.</summary>
/// <param name="Member">Its name in a document.</param>
/// <param name="Shape">How its value stands there: a <see cref="bool"/>, <see cref="Duration"/>, <see cref="CountWithin"/>, or an array of ids or of
/// <see cref="Attachment"/>.</param>
/// <param name="What">Its name where versions are compared.</param>
public sealed record RuleOption(string Member, OptionShape Shape, string What)
{
    /// <summary>The rule's value; <see langword="null"/> for the usual one.</summary>
    public required Func<Rule, object?> Get { get; init; }

    /// <summary>The rule with that value.</summary>
    public required Func<Rule, object, Rule> Set { get; init; }

    /// <summary>The value in words, where versions are compared.</summary>
    public required Func<RuleSentence, object, string> Compared { get; init; }

    /// <summary>Its sentence behind the rule's; <see langword="null"/> where it has none for this rule.</summary>
    public Func<RuleSentence, Rule, object, string?> Said { get; init; } = (_, _, _) => null;

    /// <summary>Of a switch: how it usually stands.</summary>
    public bool Usual { get; init; }

    /// <summary>Of a limit: the name of its number, and the longest time that it may be counted within.</summary>
    public (string Name, Duration Longest, string LongestInWords, string Example) Counts { get; init; }
}

/// <summary>The options of a rule, in the order in which they are said.</summary>
public static class RuleOptions
{
    /// <summary>All of them. Whoever adds one adds its member to <see cref="Rule"/>, its row here, what heeds it, and its field in the editor.</summary>
    public static ImmutableArray<RuleOption> All { get; } =
    [
        Span(
            "gather",
            "Gathered for",
            r => r.Gather == Duration.Zero ? null : r.Gather,
            (r, v) => r with { Gather = v },
            (_, v) => $"Gathered for {v.InWords()} into one message each."
        ),
        Span(
            "rest",
            "Not again within",
            r => r.Rest == Duration.Zero ? null : r.Rest,
            (r, v) => r with { Rest = v },
            (_, v) => $"Not again for the same order within {v.InWords()}."
        ),
        Span(
            "doneWithin",
            "Done expected within",
            r => r.DoneWithin,
            (r, v) => r with { DoneWithin = v },
            (_, v) => v == Duration.Zero ? "Whoever takes it has no time set." : $"Whoever takes it has {v.InWords()} until it is done."
        ) with
        {
            Compared = (_, v) => (Duration)v == Duration.Zero ? "no time" : ((Duration)v).ExactWords(),
        },
        Switch(
            "pullForward",
            "Pulled forward to the due time",
            "never",
            usual: true,
            r => r.PullForward,
            (r, v) => r with { PullForward = v },
            r => r.Cases.Any(c => !c.Ladder.IsEmpty) ? "No step is pulled forward when the order is due sooner." : null
        ),
        Limit(
            "storm",
            "Storm guard",
            ("alerts", Duration.FromDays(1), "a day", "{ alerts: 20, within: PT10M }"),
            r => r.Storm is { } s ? new CountWithin(s.Alerts, s.Within) : null,
            (r, v) => r with { Storm = new StormGuard(v.Count, v.Within) },
            v => $"Beyond {v.Count} within {v.Within.InWords()} they are gathered into one."
        ),
        new("attach", OptionShape.Attachments, "Goes with mails")
        {
            Get = r => r.Attach.IsEmpty ? null : r.Attach,
            Set = (r, v) => r with { Attach = (ImmutableArray<Attachment>)v },
            Compared = (_, v) =>
                string.Join(
                    ", ",
                    ((ImmutableArray<Attachment>)v).Select(a => (a.Document?.Name() ?? a.File) + (a.Audience is { } to ? $" to {to.Name()}" : ""))
                ),
            Said = (_, _, v) => $"With its mails go {RuleSentence.Join([.. ((ImmutableArray<Attachment>)v).Select(InWords)], "and")}.",
        },
        Limit(
            "doAtMost",
            "Asks at most",
            ("times", Duration.FromDays(31), "31 days", "{ times: 5, within: PT1H }"),
            r => r.DoAtMost is { } m ? new CountWithin(m.Times, m.Within) : null,
            (r, v) => r with { DoAtMost = new DoLimit(v.Count, v.Within) },
            v => $"It asks the order system at most {v.Count} {(v.Count == 1 ? "time" : "times")} within {v.Within.InWords()}, then a supervisor says yes."
        ),
        Switch(
            "trial",
            "Only tries",
            "yes",
            usual: false,
            r => r.Trial,
            (r, v) => r with { Trial = v },
            _ => "For now it only says what it would have done to the order."
        ),
        Switch("mayOptOut", "Opting out", "forbidden", usual: true, r => r.MayOptOut, (r, v) => r with { MayOptOut = v }, _ => null),
        new("withdrawAt", OptionShape.Statuses, "Ends when the order is")
        {
            Get = r => r.WithdrawAt.IsEmpty ? null : r.WithdrawAt,
            Set = (r, v) => r with { WithdrawAt = (ImmutableArray<string>)v },
            Compared = (sentence, v) => sentence.Statuses((ImmutableArray<string>)v),
            Said = (sentence, _, v) => $"Ends when the order is {sentence.Statuses((ImmutableArray<string>)v)}.",
        },
    ];

    /// <summary>The option of that name in a document; <see langword="null"/> for none.</summary>
    public static RuleOption? Find(string member) => All.FirstOrDefault(o => o.Member == member);

    private static string InWords(Attachment one) =>
        (one.Document is { } document ? $"the {document.Name().Replace('-', ' ')}" : $"the file at {one.File}")
        + (
            one.Audience switch
            {
                null => "",
                Audience.Customer => " to the customer",
                Audience.Staff => " to staff",
                _ => " to those outside",
            }
        );

    private static RuleOption Span(string member, string what, Func<Rule, Duration?> get, Func<Rule, Duration, Rule> set, Func<Rule, Duration, string> said) =>
        new(member, OptionShape.Span, what)
        {
            Get = r => get(r),
            Set = (r, v) => set(r, (Duration)v),
            Compared = (_, v) => ((Duration)v).ExactWords(),
            Said = (_, r, v) => said(r, (Duration)v),
        };

    private static RuleOption Switch(
        string member,
        string what,
        string compared,
        bool usual,
        Func<Rule, bool> get,
        Func<Rule, bool, Rule> set,
        Func<Rule, string?> said
    ) =>
        new(member, OptionShape.Switch, what)
        {
            Usual = usual,
            Get = r => get(r) == usual ? null : !usual,
            Set = (r, v) => set(r, (bool)v),
            Compared = (_, _) => compared,
            Said = (_, r, _) => said(r),
        };

    private static RuleOption Limit(
        string member,
        string what,
        (string Name, Duration Longest, string LongestInWords, string Example) counts,
        Func<Rule, CountWithin?> get,
        Func<Rule, CountWithin, Rule> set,
        Func<CountWithin, string> said
    ) =>
        new(member, OptionShape.Limit, what)
        {
            Get = get,
            Set = (r, v) => set(r, (CountWithin)v),
            Compared = (_, v) => $"{((CountWithin)v).Count} within {((CountWithin)v).Within.ExactWords()}",
            Said = (_, _, v) => said((CountWithin)v),
            Counts = counts,
        };
}
