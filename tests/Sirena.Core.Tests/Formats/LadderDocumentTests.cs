using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Formats.Rules;

namespace Sirena.Core.Tests.Formats;

/// <summary>The steps of a ladder as they are written: what is taken, and what is refused at which place.</summary>
public sealed class LadderDocumentTests
{
    private const string Desk = "tell: [ { team: desk } ]";

    private static readonly KnownNames Names = new(
        ["ines.calder"],
        ["desk", "kitchen"],
        ["cancelled"],
        new Dictionary<string, System.Collections.Immutable.ImmutableArray<LadderStep>>()
    );

    [Theory]
    [InlineData("[]", "steps", "at least one step")]
    [InlineData("after: PT5M", "steps", "A ladder is a list")]
    [InlineData("- 5", "steps[0]", "A step")]
    [InlineData("- { after: PT5M }", "steps[0].tell", "needs 'tell', or 'do'")]
    [InlineData("- { after: PT5M, tell: [] }", "steps[0].tell", "somebody to tell")]
    [InlineData("- { tell: [ { team: desk } ] }", "steps[0]", "exactly one of 'after', 'afterWorking' and 'beforeDue'")]
    [InlineData("- { after: PT5M, beforeDue: PT5M, tell: [ { team: desk } ] }", "steps[0]", "exactly one of")]
    [InlineData("- { after: soon, tell: [ { team: desk } ] }", "steps[0].after", "ISO 8601 duration")]
    [InlineData("- { after: P1M, tell: [ { team: desk } ] }", "steps[0].after", "ISO 8601 duration")]
    [InlineData("- { afterWorking: -PT5M, tell: [ { team: desk } ] }", "steps[0].afterWorking", "")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], whom: x }", "steps[0].whom", "no member 'whom'")]
    [InlineData("- { after: PT5M, tell: [ { team: dsk } ] }", "steps[0].tell[0].team", "Did you mean 'desk'?")]
    [InlineData("- { after: PT5M, tell: [ { team: desk, person: ines.calder } ] }", "steps[0].tell[0]", "exactly one of")]
    [InlineData("- { after: PT5M, tell: [ { } ] }", "steps[0].tell[0]", "exactly one of")]
    [InlineData("- { after: PT5M, tell: [ { team: desk, outside: true } ] }", "steps[0].tell[0].outside", "'address' and 'person' only")]
    [InlineData("- { after: PT5M, tell: [ { address: 'a@b.example, c@d.example' } ] }", "steps[0].tell[0].address", "One address")]
    [InlineData("- { after: PT5M, tell: [ { address: '+44 77' } ] }", "steps[0].tell[0].address", "too short or too long")]
    [InlineData("- { after: PT5M, tell: [ { role: boss } ] }", "steps[0].tell[0].role", "one of salesperson, site-manager")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], by: { } }", "steps[0].by", "either 'allAtOnce' or 'firstThatLands'")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], by: { allAtOnce: [mail], firstThatLands: [sms] } }", "steps[0].by", "either")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], by: { allAtOnce: [] } }", "steps[0].by.allAtOnce", "at least one channel")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], by: { allAtOnce: [mail], wait: PT2M } }", "steps[0].by.wait", "'firstThatLands' only")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], repeat: { times: 21, every: PT5M } }", "steps[0].repeat", "from 1 to 20")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], repeat: { times: 2 } }", "steps[0].repeat", "'every', a span")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], repeat: { times: 2, every: PT0.5S } }", "steps[0].repeat", "'every', a span")]
    [InlineData("- { after: PT5M, tell: [ { team: desk } ], repeat: 3 }", "steps[0].repeat", "'repeat'")]
    [InlineData("- { after: PT0S, tell: [ { team: desk } ], repeat: [ ] }", "steps[0].repeat", "'repeat'")]
    public void A_mistake_is_said_at_its_place(string yaml, string path, string words)
    {
        var (_, errors) = LadderReader.ReadLadder(yaml, yaml: true, Names);
        Assert.Contains(errors, e => e.Path == path && e.Problem.Contains(words, StringComparison.Ordinal));
    }

    [Fact]
    public void The_mistakes_of_all_steps_are_found_at_once()
    {
        var (_, errors) = LadderReader.ReadLadder("- { after: soon, tell: [ { team: desk } ] }\n- 7\n- { tell: [ { team: nobody } ] }", yaml: true, Names);
        Assert.Equal(["steps[0].after", "steps[1]", "steps[2]"], errors.Select(e => e.Path).Order(StringComparer.Ordinal));
        Assert.Equal([1, 2, 3], errors.OrderBy(e => e.Path, StringComparer.Ordinal).Select(e => e.Line!.Value));
    }

    [Fact]
    public void Each_clock_and_the_ends_of_each_range_are_taken()
    {
        var (steps, errors) = LadderReader.ReadLadder(
            $$"""
            - { after: PT0S, {{Desk}}, repeat: { times: 1, every: PT1S } }
            - { afterWorking: PT15M, {{Desk}}, repeat: { times: 20, every: PT1H } }
            - { beforeDue: PT1H, {{Desk}}, by: { firstThatLands: [push, sms] }, wording: finance }
            """,
            yaml: true,
            Names
        );
        Assert.Empty(errors);
        Assert.Equal([StepClock.After, StepClock.AfterWorking, StepClock.BeforeDue], steps.Select(s => s.Clock));
        Assert.Equal([Duration.Zero, Duration.FromMinutes(15), Duration.FromHours(1)], steps.Select(s => s.Delay));
        Assert.Equal([1, 20, 0], steps.Select(s => s.Repeat?.Times ?? 0));
        Assert.Equal(Duration.FromSeconds(1), steps[0].Repeat!.Every);
        Assert.Equal(("finance", true), (steps[2].Wording, steps[2].By!.FirstThatLands));
        Assert.Equal(Sirena.Core.Rules.Ways.UsualWait, steps[2].By!.Wait);
    }

    // A name that is not known any more is no reason to lose a ladder that was saved.
    [Fact]
    public void What_was_saved_is_read_without_asking_whether_its_names_still_exist() =>
        Assert.Empty(
            LadderReader.ReadLadder("- { after: PT5M, tell: [ { team: gone }, { person: gone } ], do: [ { own-thing: { a: 1 } } ] }", yaml: true, null).Errors
        );
}
