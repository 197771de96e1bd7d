using System.Collections.Immutable;

namespace Sirena.Core.Ladders;

/// <summary>What a person does with an alert.</summary>
public enum AnswerKind
{
    /// <summary>I have it.</summary>
    Taken,

    /// <summary>Somebody else should.</summary>
    Passed,

    /// <summary>I cannot.</summary>
    Declined,

    /// <summary>It is seen to.</summary>
    Done,

    /// <summary>I have it, and see to it at a later time.</summary>
    Later,
}

/// <summary>What an answer is called, wherever it is said, asked for or replied.</summary>
/// <param name="Kind">The answer.</param>
/// <param name="Said">In the words of whoever gives it: <c>I have it</c>.</param>
/// <param name="Does">What they did, behind their name: <c>has it</c>.</param>
/// <param name="When">Behind <c>when somebody</c>: <c>takes it</c>.</param>
/// <param name="Replies">The first words of a reply that mean it.</param>
public sealed record AnswerTraits(AnswerKind Kind, string Said, string Does, string When, params string[] Replies)
{
    /// <summary>All of them, by <see cref="AnswerKind"/>.</summary>
    public static ImmutableArray<AnswerTraits> All { get; } =
    [
        new(AnswerKind.Taken, "I have it", "has it", "takes it", "ok", "yes"),
        new(AnswerKind.Passed, "Passed on", "passed it on", "passes it on"),
        new(AnswerKind.Declined, "I cannot", "cannot", "cannot", "no", "cannot"),
        new(AnswerKind.Done, "Done", "has done it", "says done", "done"),
        new(AnswerKind.Later, "Later", "puts it off", "puts it off"),
    ];

    /// <summary>The answer that a reply's first word means; taken for any other.</summary>
    public static AnswerKind OfReply(string word) =>
        All.FirstOrDefault(a => a.Replies.Contains(word, StringComparer.OrdinalIgnoreCase))?.Kind ?? AnswerKind.Taken;
}

/// <summary>Traits by answer.</summary>
public static class Answers
{
    /// <summary>Its traits.</summary>
    public static AnswerTraits Traits(this AnswerKind kind) => AnswerTraits.All[(int)kind];
}
