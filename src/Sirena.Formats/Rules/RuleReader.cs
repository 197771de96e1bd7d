using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Instructions;

namespace Sirena.Formats.Rules;

/// <summary>What a rule document may name: an unknown one is a mistake at its place.</summary>
/// <param name="People">Ids of people who can be told.</param>
/// <param name="Teams">Ids of teams.</param>
/// <param name="Statuses">Ids of statuses.</param>
/// <param name="Ladders">The shared ladders by id.</param>
public sealed record KnownNames(
    IReadOnlyCollection<string> People,
    IReadOnlyCollection<string> Teams,
    IReadOnlyCollection<string> Statuses,
    IReadOnlyDictionary<string, ImmutableArray<LadderStep>> Ladders
)
{
    /// <summary>The instructions that some source takes, by name.</summary>
    public IReadOnlyDictionary<string, InstructionKind> Instructions { get; init; } = new Dictionary<string, InstructionKind>();
}

/// <summary>Reads a rule document. Every mistake is collected with its place; unknown members are mistakes.</summary>
public sealed class RuleReader : DocumentReader
{
    private static readonly string[] CaseMembers = ["tell", "by", "wording", "ladder", "notOlderThan", "do", "offer", "onAnswer", "onLanded"];
    private static readonly string[] Members =
    [
        "id",
        "name",
        "on",
        "when",
        "urgency",
        "onlyIf",
        "cases",
        .. CaseMembers,
        .. RuleOptions.All.Select(o => o.Member),
        "version",
        "sentence",
        "inForceSince",
    ];

    private readonly KnownNames? known;

    private RuleReader(KnownNames? known) => this.known = known;

    /// <summary>Reads a text.</summary>
    /// <param name="text">JSON or YAML.</param>
    /// <param name="yaml">It is YAML.</param>
    /// <param name="known">The names that exist, or <see langword="null"/> to take any.</param>
    /// <param name="id">The id for a document that has none; else it is made from the name.</param>
    /// <returns>The rule, or the mistakes; never both.</returns>
    public static (Rule? Rule, IReadOnlyList<DocumentError> Errors) Read(string text, bool yaml, KnownNames? known = null, string? id = null)
    {
        var (node, error) = DocumentText.Read(text, yaml);
        if (error is not null)
        {
            return (null, [error]);
        }

        var reader = new RuleReader(known);
        var rule = reader.ReadRule(node!, id);
        return reader.Errors.Count > 0 ? (null, reader.Errors) : (rule, []);
    }

    /// <summary>Reads the recipients and ways that were stored as JSON.</summary>
    /// <returns>Nothing, with what is wrong, where the text is no object.</returns>
    public static (IReadOnlyList<Recipient> Tell, Ways? By, IReadOnlyList<DocumentError> Errors) ReadTelling(string json) =>
        DocumentText.Read(json, yaml: false) switch
        {
            (MapNode map, _) => ReadTelling(map, null),
            (_, var error) => ([], null, [error ?? new DocumentError("", 1, 1, "Whom to tell is an object.")]),
        };

    /// <summary>Reads the recipients and ways of a question 'who would be told'.</summary>
    public static (IReadOnlyList<Recipient> Tell, Ways? By, IReadOnlyList<DocumentError> Errors) ReadTelling(MapNode map, KnownNames? known)
    {
        var reader = new RuleReader(known);
        if (map["tell"] is null)
        {
            reader.Wrong("tell", map, "'tell' is missing: the recipients, such as [ { duty: credit-control } ].");
        }

        var tell = reader.Recipients(map, "");
        var by = map["by"] is { } ways ? reader.ReadWays(ways, "by") : null;
        return (tell, by, reader.Errors);
    }

    /// <summary>Reads a condition that stands by itself.</summary>
    public static (Condition? Condition, IReadOnlyList<DocumentError> Errors) ReadCondition(Node node, string path)
    {
        var reader = new RuleReader(null);
        var condition = reader.ReadCondition(node, path, 1);
        return (reader.Errors.Count > 0 ? null : condition, reader.Errors);
    }

    /// <summary>A condition as a question that can be asked of an event.</summary>
    /// <param name="json">The condition, JSON, as it was checked when it was saved.</param>
    public static Func<Core.Orders.Fields.Facts, bool> Ask(string json)
    {
        if (DocumentText.Read(json, yaml: false).Node is not { } node || ReadCondition(node, "").Condition is not { } condition)
        {
            return _ => false;
        }

        var rule = new CompiledRule(
            new Rule
            {
                Id = "shows",
                Name = "shows",
                When = ["any"],
                OnlyIf = condition,
                Cases = [new RuleCase { Name = "always" }],
            },
            0
        );
        return facts => rule.Decide(facts).Outcome == Outcome.Matched;
    }

    /// <summary>Reads the steps of a shared ladder: a list.</summary>
    public static (ImmutableArray<LadderStep> Steps, IReadOnlyList<DocumentError> Errors) ReadLadder(string text, bool yaml, KnownNames? known)
    {
        var (node, error) = DocumentText.Read(text, yaml);
        if (error is not null)
        {
            return ([], [error]);
        }

        var reader = new RuleReader(known);
        if (node is not ListNode { Items.Count: > 0 } list)
        {
            return (
                [],
                [
                    new DocumentError(
                        "steps",
                        node!.Line,
                        node.Column,
                        "A ladder is a list with at least one step, such as [ { after: PT5M, tell: [ { team: desk } ] } ]."
                    ),
                ]
            );
        }

        var steps = reader.ReadSteps(list, "steps");
        return (steps, reader.Errors);
    }

    /// <summary>An id from a name: lower-case ASCII letters and digits, hyphens between the words.</summary>
    public static string IdFrom(string name)
    {
        var folded = TextFolding.Fold(name);
        foreach (
            var (letter, latin) in new[] { ("ß", "ss"), ("æ", "ae"), ("œ", "oe"), ("ø", "o"), ("þ", "th"), ("ð", "d"), ("đ", "d"), ("ł", "l"), ("ı", "i") }
        )
        {
            folded = folded.Replace(letter, latin, StringComparison.Ordinal);
        }

        // Of letters that have no Latin ones a mark is kept, so that two such names do not become one.
        var mark = folded.Any(c => !char.IsAscii(c) && char.IsLetter(c))
            ? "-" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(folded)))[..6]
            : "";
        var words = new string([.. folded.Select(c => char.IsAsciiLetterOrDigit(c) ? c : ' ')]).Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var id = string.Join('-', words);
        return (id[..Math.Min(id.Length, 60 - mark.Length)] + mark).Trim('-') is { Length: > 0 } made ? made : "unnamed";
    }

    private Rule? ReadRule(Node node, string? id)
    {
        if (Map(node, "", "A rule", Members) is not { } map)
        {
            return null;
        }

        var name = Text(map, "name", "", required: true) ?? "";
        if (name.Length > 120)
        {
            Wrong("name", map["name"]!, "The name is longer than 120 characters.");
        }

        id = Text(map, "id", "") ?? id ?? IdFrom(name);
        if (id.Length is 0 or > 60 || !id.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c is '-' or '.' or '_'))
        {
            Wrong("id", map["id"] ?? map, "An id is made of lower-case letters, digits, hyphens, dots and underscores, 60 at most.");
        }

        if (id.StartsWith("sirena.", StringComparison.Ordinal))
        {
            Wrong("id", map["id"] ?? map, "Ids that begin with 'sirena.' are Sirena's own. Choose another.");
        }

        var (cases, brief) = Cases(map);
        var rule = new Rule
        {
            Id = id,
            Name = name,
            On = Bool(map, "on", "") ?? true,
            When = Events(map),
            Urgency = OneOf<Urgency>(map, "urgency", "") ?? Urgency.Prompt,
            OnlyIf = map["onlyIf"] is { } only ? ReadCondition(only, "onlyIf", 1) : null,
            Cases = cases,
            Short = brief,
        };
        return RuleOptions.All.Aggregate(rule, (made, option) => ReadOption(map, option) is { } value ? option.Set(made, value) : made);
    }

    private object? ReadOption(MapNode map, RuleOption option) =>
        option.Shape switch
        {
            OptionShape.Switch => Bool(map, option.Member, ""),
            OptionShape.Span => Span(map, option.Member, ""),
            OptionShape.Limit => map[option.Member] is { } limit ? ReadLimit(limit, option) : null,
            OptionShape.Statuses => ImmutableArray.CreateRange(Texts(map, option.Member).Select(s => Known(s.Node, s.Path, s.Text, known?.Statuses, "status"))),
            _ => List(map, option.Member, "") is { } files
                ? ImmutableArray.CreateRange(files.Items.Select((f, i) => ReadAttachment(f, $"{option.Member}[{i}]")).OfType<Attachment>())
                : null,
        };

    private Attachment? ReadAttachment(Node node, string path)
    {
        if (Map(node, path, "What goes with a mail", ["document", "file", "audience"]) is not { } map)
        {
            return null;
        }

        if (map["document"] is null == map["file"] is null)
        {
            Wrong(path, map, "Name either a 'document' or a 'file': the field that holds its address, such as order.extra.drawing.");
            return null;
        }

        var file = Text(map, "file", path);
        if (file is not null && Sirena.Core.Orders.Fields.FieldCatalogue.Find(file) is null)
        {
            Wrong(At(path, "file"), map["file"]!, $"There is no field '{file}'. The address of a file stands in one such as order.extra.drawing.");
        }

        return new Attachment(OneOf<DocumentKind>(map, "document", path), file, OneOf<Audience>(map, "audience", path));
    }

    private CountWithin? ReadLimit(Node node, RuleOption option)
    {
        var (counts, longest, longestInWords, example) = option.Counts;
        if (Map(node, option.Member, $"'{option.Member}'", [counts, "within"]) is not { } map)
        {
            return null;
        }

        var (count, within) = (Number(map, counts, option.Member), Span(map, "within", option.Member));
        if (count is null or < 1 or > 10_000 || within is null || within < Duration.FromSeconds(1) || within > longest)
        {
            Wrong(
                option.Member,
                map,
                $"'{option.Member}' needs '{counts}', a number from 1 to 10000, and 'within', a span up to {longestInWords}, such as {example}."
            );
            return null;
        }

        return new CountWithin(count.Value, within.Value);
    }

    private ImmutableArray<InstructionAsk> Asks(MapNode map, string name, string path, bool offered = false)
    {
        if (List(map, name, path) is not { } list)
        {
            return [];
        }

        var (asks, errors) = InstructionReader.ReadList(
            list,
            At(path, name),
            new InstructionNames(known?.Instructions, known?.Statuses, known?.People),
            offered
        );
        Errors.AddRange(errors);
        return [.. asks];
    }

    // Only what leaves a mark: a message that lands must not move an order.
    private ImmutableArray<InstructionAsk> OnLanded(MapNode map, string path)
    {
        var asks = Asks(map, "onLanded", path);
        for (var i = 0; i < asks.Length; i++)
        {
            if (asks[i].Kind is not ("tag" or "note"))
            {
                Wrong($"{At(path, "onLanded")}[{i}]", map["onLanded"]!, $"'onLanded' leaves a mark only: a tag or a note, not '{asks[i].Kind}'.");
            }
        }

        return asks;
    }

    private ImmutableArray<AnswerDo> OnAnswer(MapNode map, string path)
    {
        var at = At(path, "onAnswer");
        if (map["onAnswer"] is not { } node || Map(node, at, "'onAnswer'", [.. Names.All<AnswerKind>()]) is not { } answers)
        {
            return [];
        }

        return
        [
            .. answers
                .Members.Select(m => Names.Parse<AnswerKind>(m.Name))
                .OfType<AnswerKind>()
                .Distinct()
                .Select(kind => new AnswerDo(kind, Asks(answers, kind.Name(), at)))
                .Where(a => !a.Do.IsEmpty),
        ];
    }

    private ImmutableArray<string> Events(MapNode map)
    {
        if (map["when"] is null)
        {
            Wrong("when", map, "A rule needs 'when': the events that it listens to, such as [order.held].");
        }

        var events = Texts(map, "when").ToArray();
        foreach (var (node, path, text) in events.Where(e => !EventTypes.IsType(e.Text)))
        {
            Wrong(path, node, $"'{text}' cannot be an event: lower-case words joined by dots, such as order.held.{Closest.Hint(text, EventTypes.All)}");
        }

        if (map["when"] is ListNode { Items.Count: 0 } empty)
        {
            Wrong("when", empty, "'when' is empty. Name at least one event.");
        }

        return [.. events.Select(e => e.Text)];
    }

    private (ImmutableArray<RuleCase> Cases, bool Short) Cases(MapNode map)
    {
        var top = CaseMembers.Where(m => map[m] is not null).ToArray();
        if (map["cases"] is not { } cases)
        {
            if (map["tell"] is null && map["do"] is null)
            {
                Wrong("tell", map, "The rule needs either 'tell' or 'cases', or 'do' where it tells nobody.");
            }

            return ([ReadCase(map, "", "always", CaseMembers, top: true)], true);
        }

        if (top.Length > 0)
        {
            Wrong(top[0], map[top[0]]!, $"'{top[0]}' cannot stand at the top beside 'cases'. Move it into a case.");
        }

        if (cases is not ListNode { Items.Count: > 0 } list)
        {
            Wrong("cases", cases, "'cases' is a list with at least one case.");
            return ([], false);
        }

        var read = list.Items.Select((c, i) => ReadCase(c, $"cases[{i}]", $"case {i + 1}", ["name", "onlyIf", .. CaseMembers], top: false)).ToImmutableArray();
        if (read.GroupBy(c => c.Name).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            Wrong("cases", list, $"Two cases are called '{twice.Key}'. Give each a name of its own.");
        }

        return (read, false);
    }

    private RuleCase ReadCase(Node node, string path, string name, string[] members, bool top)
    {
        var map = top ? (MapNode)node : Map(node, path, "A case", members);
        if (map is null)
        {
            return new RuleCase { Name = name };
        }

        var (shared, ladder) = Ladder(map, path);
        return new RuleCase
        {
            SharedLadder = shared,
            Name = top ? name : Text(map, "name", path) ?? name,
            OnlyIf = !top && map["onlyIf"] is { } only ? ReadCondition(only, At(path, "onlyIf"), 1) : null,
            Tell = Recipients(map, path),
            By = map["by"] is { } by ? ReadWays(by, At(path, "by")) : null,
            Wording = Text(map, "wording", path),
            Ladder = ladder,
            NotOlderThan = Span(map, "notOlderThan", path),
            Do = Asks(map, "do", path),
            Offer = Asks(map, "offer", path, offered: true),
            OnAnswer = OnAnswer(map, path),
            OnLanded = OnLanded(map, path),
        };
    }

    // Steps of the case's own, or the name of a shared ladder; a stored document carries the steps as they were when it was saved.
    private (string? Shared, ImmutableArray<LadderStep> Steps) Ladder(MapNode map, string path)
    {
        var at = At(path, "ladder");
        if (map["ladder"] is not MapNode shared)
        {
            return (null, List(map, "ladder", path) is { } steps ? ReadSteps(steps, at) : []);
        }

        Map(shared, at, "A shared ladder", ["shared", "steps"]);
        var id = Text(shared, "shared", at, required: true);
        if (id is null)
        {
            return (null, []);
        }

        if (known is null)
        {
            return (id, List(shared, "steps", at) is { } kept ? ReadSteps(kept, At(at, "steps")) : []);
        }

        if (known.Ladders.TryGetValue(id, out var found))
        {
            return (id, found);
        }

        Wrong(At(at, "shared"), shared["shared"]!, $"There is no shared ladder '{id}'.{Closest.Hint(id, known.Ladders.Keys)}");
        return (id, []);
    }

    private ImmutableArray<LadderStep> ReadSteps(ListNode steps, string path) =>
        [.. steps.Items.Select((s, i) => Step(s, $"{path}[{i}]")).OfType<LadderStep>()];

    private LadderStep? Step(Node node, string path)
    {
        if (Map(node, path, "A step", ["after", "afterWorking", "beforeDue", "tell", "do", "by", "wording", "repeat"]) is not { } map)
        {
            return null;
        }

        string[] clocks = [.. new[] { "after", "afterWorking", "beforeDue" }.Where(c => map[c] is not null)];
        if (clocks.Length != 1)
        {
            Wrong(path, map, "A step needs exactly one of 'after', 'afterWorking' and 'beforeDue'.");
            return null;
        }

        var acts = Asks(map, "do", path);
        if (map["tell"] is null && map["do"] is null)
        {
            Wrong(At(path, "tell"), map, "A step needs 'tell', or 'do' where it tells nobody.");
        }
        else if (acts.IsEmpty && map["tell"] is ListNode { Items.Count: 0 } empty)
        {
            Wrong(At(path, "tell"), empty, "A step needs somebody to tell. Choose a recipient, or take the step out.");
        }

        var clock = clocks[0] switch
        {
            "after" => StepClock.After,
            "afterWorking" => StepClock.AfterWorking,
            _ => StepClock.BeforeDue,
        };
        return new LadderStep(
            clock,
            Span(map, clocks[0], path) ?? Duration.Zero,
            Recipients(map, path),
            map["by"] is { } by ? ReadWays(by, At(path, "by")) : null,
            Text(map, "wording", path)
        )
        {
            Repeat = map["repeat"] is { } repeat ? ReadRepeat(repeat, At(path, "repeat")) : null,
            Do = acts,
        };
    }

    private StepRepeat? ReadRepeat(Node node, string path)
    {
        if (Map(node, path, "'repeat'", ["times", "every"]) is not { } map)
        {
            return null;
        }

        var (times, every) = (Number(map, "times", path), Span(map, "every", path));
        if (times is null or < 1 or > 20 || every is null || every < Duration.FromSeconds(1))
        {
            Wrong(path, map, "'repeat' needs 'times', a number from 1 to 20, and 'every', a span, such as { times: 3, every: PT5M }.");
            return null;
        }

        return new StepRepeat(times.Value, every.Value);
    }

    private ImmutableArray<Recipient> Recipients(MapNode map, string path) =>
        List(map, "tell", path) is { } list ? [.. list.Items.Select((r, i) => ReadRecipient(r, $"{At(path, "tell")}[{i}]")).OfType<Recipient>()] : [];

    private Recipient? ReadRecipient(Node node, string path)
    {
        if (Map(node, path, "A recipient", [.. RecipientKinds.All.Select(k => k.Member), "outside"]) is not { } map)
        {
            return null;
        }

        RecipientKind[] given = [.. RecipientKinds.All.Where(k => map[k.Member] is not null)];
        if (given is not [var kind])
        {
            Wrong(path, map, $"A recipient is exactly one of {Quoting.All(RecipientKinds.All.Select(k => k.Member))}.");
            return null;
        }

        if (map["outside"] is { } outside && !kind.MayBeOutside)
        {
            Wrong(At(path, "outside"), outside, "'outside' goes with 'address' and 'person' only.");
        }

        var at = At(path, kind.Member);
        var text = Text(map, kind.Member, path) ?? "";
        text = kind.Holds switch
        {
            RecipientHolds.Person => Known(map[kind.Member]!, at, text, known?.People, "person"),
            RecipientHolds.Team => Known(map[kind.Member]!, at, text, known?.Teams, "team"),
            RecipientHolds.Role => OneOf<OrderRole>(map, kind.Member, path)?.Name() ?? "",
            _ => Address(map[kind.Member]!, at, text),
        };
        return kind.Make(text, kind.MayBeOutside && (Bool(map, "outside", path) ?? false));
    }

    private string Address(Node node, string path, string text)
    {
        var (good, problems) = Addresses.Read(text.StartsWith('+') ? Channel.Sms : Channel.Mail, text);
        if (problems.Count > 0 || good.Count != 1)
        {
            Wrong(path, node, problems.Count > 0 ? problems[0] : "One address is expected here.");
        }

        return good.Count == 1 ? good[0] : text;
    }

    private Ways? ReadWays(Node node, string path)
    {
        if (Map(node, path, "'by'", ["allAtOnce", "firstThatLands", "wait"]) is not { } map)
        {
            return null;
        }

        var first = map["firstThatLands"] is not null;
        if (first == map["allAtOnce"] is not null)
        {
            Wrong(path, map, "'by' needs either 'allAtOnce' or 'firstThatLands'.");
            return null;
        }

        if (!first && map["wait"] is { } wait)
        {
            Wrong(At(path, "wait"), wait, "'wait' goes with 'firstThatLands' only.");
        }

        var member = first ? "firstThatLands" : "allAtOnce";
        var channels = Texts(map, member, path)
            .Select(c => Names.Parse<Channel>(c.Text) is { } channel ? channel : WrongChannel(c))
            .OfType<Channel>()
            .Distinct()
            .ToImmutableArray();
        if (channels.Length == 0 && map[member] is ListNode { Items.Count: 0 } empty)
        {
            Wrong(At(path, member), empty, $"'{member}' is empty. Name at least one channel.");
        }

        return new Ways(channels, first, Span(map, "wait", path) ?? (first ? Ways.UsualWait : Duration.Zero));
    }

    private Channel? WrongChannel((Node Node, string Path, string Text) given)
    {
        Wrong(given.Path, given.Node, $"There is no channel '{given.Text}'. Use {string.Join(", ", Names.All<Channel>())}.");
        return null;
    }

    private Condition? ReadCondition(Node node, string path, int depth)
    {
        if (depth > 20)
        {
            Wrong(path, node, "Conditions are nested more than 20 deep.");
            return null;
        }

        if (node is not MapNode map)
        {
            Wrong(path, node, "A condition is { field, is, value }, or { all: [...] }, { any: [...] }, { none: [...] }.");
            return null;
        }

        foreach (var grouping in Enum.GetValues<Grouping>())
        {
            if (map[grouping.Name()] is not null)
            {
                return Group(map, path, grouping, depth);
            }
        }

        return Leaf(map, path);
    }

    private ConditionGroup? Group(MapNode map, string path, Grouping grouping, int depth)
    {
        Map(map, path, $"A group '{grouping.Name()}'", [grouping.Name()]);
        if (List(map, grouping.Name(), path) is not { } list)
        {
            return null;
        }

        if (list.Items.Count == 0)
        {
            Wrong(At(path, grouping.Name()), list, $"'{grouping.Name()}' is empty. Give it at least one condition, or leave it out.");
        }

        return new ConditionGroup(
            grouping,
            [.. list.Items.Select((c, i) => ReadCondition(c, $"{At(path, grouping.Name())}[{i}]", depth + 1)).OfType<Condition>()]
        );
    }

    private ConditionLeaf? Leaf(MapNode map, string path)
    {
        Map(map, path, "A condition", ["field", "is", "value", "exactly"]);
        var field = Text(map, "field", path, required: true);
        var word = Text(map, "is", path, required: true);
        if (field is null || word is null)
        {
            return null;
        }

        if (Names.Parse<Operator>(word) is not { } op)
        {
            Wrong(
                At(path, "is"),
                map["is"]!,
                $"There is no operator '{word}'.{Closest.Hint(word, Names.All<Operator>())} Known are {string.Join(", ", Names.All<Operator>())}."
            );
            return null;
        }

        var leaf = new ConditionLeaf(field, op, map["value"]?.ToJson() ?? default, Bool(map, "exactly", path) ?? false);
        if (Question.TryMake(leaf, out _) is { } mistake)
        {
            Wrong(At(path, mistake.Member), map[mistake.Member] ?? map, mistake.Problem);
        }

        return leaf;
    }
}
