using Sirena.Core.Rules;

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
}

/// <summary>Whether an answer can be given, and what it makes of the alert (semantics 16).</summary>
/// <param name="State">The alert's state after it.</param>
/// <param name="Problem">Why it cannot be given, or <see langword="null"/>.</param>
/// <param name="Conflict">Somebody else has the alert.</param>
public sealed record Answering(AlertState State, string? Problem, bool Conflict)
{
    /// <summary>Decides it.</summary>
    /// <param name="alert">The alert as it stands.</param>
    /// <param name="person">Who answers.</param>
    /// <param name="answer">What they say.</param>
    /// <param name="nameOf">Names a person.</param>
    public static Answering Of(Alert alert, string person, AnswerKind answer, Func<string, string> nameOf)
    {
        Answering No(string problem, bool conflict = false) => new(alert.State, problem, conflict);
        Answering Yes(AlertState state) => new(state, null, false);
        if (alert.State is AlertState.Done or AlertState.Withdrawn)
        {
            return No(alert.State == AlertState.Done ? "It is done already." : "It was withdrawn: the order has moved on.", conflict: true);
        }

        var holder = alert.State == AlertState.Taken ? alert.TakenBy : null;
        return answer switch
        {
            AnswerKind.Taken when holder == person => No("You have it already.", conflict: true),
            AnswerKind.Taken when holder is not null => No($"{nameOf(holder)} has it already.", conflict: true),
            AnswerKind.Taken => Yes(AlertState.Taken),
            AnswerKind.Done when holder is not null && holder != person => No($"{nameOf(holder)} has it; only they, or a supervisor in their name, can say that it is done.", conflict: true),
            AnswerKind.Done => Yes(AlertState.Done),
            AnswerKind.Declined when holder is not null && holder != person => No($"{nameOf(holder)} has it already.", conflict: true),
            AnswerKind.Declined => Yes(holder == person ? AlertState.Open : alert.State),
            AnswerKind.Passed when holder is not null && holder != person => No($"{nameOf(holder)} has it; only they, or a supervisor in their name, can pass it on.", conflict: true),
            _ => Yes(AlertState.Open),
        };
    }
}
