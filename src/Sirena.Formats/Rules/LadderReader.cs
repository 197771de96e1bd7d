using System.Collections.Immutable;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Instructions;

namespace Sirena.Formats.Rules;

/// <summary>Reads the steps of a ladder, and what a document asks of the order system.</summary>
public class LadderReader : TellingReader
{
    private protected LadderReader(KnownNames? known)
        : base(known) { }

    /// <summary>Reads the steps of a shared ladder: a list.</summary>
    public static (ImmutableArray<LadderStep> Steps, IReadOnlyList<DocumentError> Errors) ReadLadder(string text, bool yaml, KnownNames? known)
    {
        var (node, error) = DocumentText.Read(text, yaml);
        if (error is not null)
        {
            return ([], [error]);
        }

        var reader = new LadderReader(known);
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

    protected ImmutableArray<InstructionAsk> Asks(MapNode map, string name, string path, bool offered = false)
    {
        if (List(map, name, path) is not { } list)
        {
            return [];
        }

        var (asks, errors) = InstructionReader.ReadList(
            list,
            At(path, name),
            new InstructionNames(Existing?.Instructions, Existing?.Statuses, Existing?.People),
            offered
        );
        Errors.AddRange(errors);
        return [.. asks];
    }

    // Only what leaves a mark: a message that lands must not move an order.
    protected ImmutableArray<InstructionAsk> OnLanded(MapNode map, string path)
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

    protected ImmutableArray<AnswerDo> OnAnswer(MapNode map, string path)
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

    // Steps of the case's own, or the name of a shared ladder; a stored document carries the steps as they were when it was saved.
    protected (string? Shared, ImmutableArray<LadderStep> Steps) Ladder(MapNode map, string path)
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

        if (Existing is null)
        {
            return (id, List(shared, "steps", at) is { } kept ? ReadSteps(kept, At(at, "steps")) : []);
        }

        if (Existing.Ladders.TryGetValue(id, out var found))
        {
            return (id, found);
        }

        Wrong(At(at, "shared"), shared["shared"]!, $"There is no shared ladder '{id}'.{Closest.Hint(id, Existing.Ladders.Keys)}");
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
}
