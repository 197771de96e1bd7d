using Sirena.Core.Ladders;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Ladders;

/// <summary>Every state, holder and answer there is, against the decided transitions (semantics 16), written down anew.</summary>
public class AnswerTableTests
{
    private static Alert In(AlertState state, string? holder) => new() { RuleId = "r", Case = "c", State = state, RaisedAt = Noon, TakenBy = holder, TakenAt = holder is null ? null : Noon };

    private static AlertState? After(AlertState state, string? holder, AnswerKind answer) => (state, answer) switch
    {
        (AlertState.Done or AlertState.Withdrawn, _) => null,
        (AlertState.Taken, _) when holder != "me" => null,
        (AlertState.Taken, AnswerKind.Taken) => null,
        (AlertState.Taken, AnswerKind.Done) => AlertState.Done,
        (AlertState.Taken, _) => AlertState.Open,
        (_, AnswerKind.Taken) => AlertState.Taken,
        (_, AnswerKind.Done) => AlertState.Done,
        (_, AnswerKind.Passed) => AlertState.Open,
        (_, AnswerKind.Declined) => state,
        _ => throw new InvalidOperationException($"{answer} is not in the table"),
    };

    public static IEnumerable<TheoryDataRow<AlertState, string?, AnswerKind>> All =>
        from state in Enum.GetValues<AlertState>()
        from holder in state is AlertState.Taken or AlertState.Done ? new string?[] { "me", "you" } : [null]
        from answer in Enum.GetValues<AnswerKind>()
        select new TheoryDataRow<AlertState, string?, AnswerKind>(state, holder, answer);

    [Theory]
    [MemberData(nameof(All))]
    public void An_answer_is_taken_or_refused_as_the_table_says(AlertState state, string? holder, AnswerKind answer)
    {
        var alert = In(state, holder);
        var answered = Answering.Of(alert, "me", answer, id => id);
        var expected = After(state, holder, answer);
        Assert.Equal(expected is null, answered.Problem is not null);
        Assert.Equal(expected ?? state, answered.State);
        Assert.Equal(expected is null, answered.Conflict);
        Assert.Equal((state, holder), (alert.State, alert.TakenBy));
    }
}
