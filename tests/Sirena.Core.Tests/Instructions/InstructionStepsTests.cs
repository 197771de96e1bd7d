using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Instructions;

namespace Sirena.Core.Tests.Instructions;

/// <summary>Each step of an instruction's life, from each state.</summary>
public sealed class InstructionStepsTests
{
    private static readonly Instant Begin = Build.Noon;
    private static readonly Instant Later = Begin + Duration.FromMinutes(3);

    private static Instruction In(InstructionState state, InstructionWait? waits = null, bool handed = true)
    {
        var one = new Instruction
        {
            Id = Guid.NewGuid(),
            Source = "ledger",
            Lane = "order AQ-1",
            Kind = "tag",
            With = """{"add":["export"]}""",
            By = "maren.holt",
            AskedAt = Begin,
            DueAt = Begin,
            Deadline = Begin + Instruction.UsualDeadline,
            Waits = waits,
            Handed = handed,
        };
        _ = state switch
        {
            InstructionState.Taken => one.Take(Begin, null),
            InstructionState.Refused => one.Refuse(Begin, "no"),
            InstructionState.Seen => one.See(Begin, 7),
            InstructionState.Unseen => one.Take(Begin, null) & one.Unsee(Begin + Instruction.UsualSight),
            InstructionState.Failed => one.Fail(Begin, "away"),
            InstructionState.Dropped => !(one.Handed = false) && one.Drop(Begin, "stop"),
            _ => true,
        };
        Assert.Equal(state, one.State);
        return one;
    }

    [Theory]
    [InlineData(InstructionState.Asked, true, InstructionState.Taken)]
    [InlineData(InstructionState.Taken, false, InstructionState.Taken)]
    [InlineData(InstructionState.Failed, true, InstructionState.Taken)]
    [InlineData(InstructionState.Seen, true, InstructionState.Seen)]
    [InlineData(InstructionState.Refused, false, InstructionState.Refused)]
    [InlineData(InstructionState.Unseen, false, InstructionState.Unseen)]
    [InlineData(InstructionState.Dropped, false, InstructionState.Dropped)]
    public void Taken(InstructionState from, bool news, InstructionState to)
    {
        var one = In(from);
        Assert.Equal(news, one.Take(Later, "fine"));
        Assert.Equal(to, one.State);
        Assert.Equal(from is InstructionState.Asked or InstructionState.Failed, one.Words == "fine");
    }

    [Theory]
    [InlineData(InstructionState.Asked, true)]
    [InlineData(InstructionState.Taken, true)]
    [InlineData(InstructionState.Unseen, true)]
    [InlineData(InstructionState.Failed, true)]
    [InlineData(InstructionState.Seen, false)]
    [InlineData(InstructionState.Refused, false)]
    [InlineData(InstructionState.Dropped, false)]
    public void Refused_or_seen_while_it_is_open(InstructionState from, bool counts)
    {
        Assert.Equal(counts, In(from).Refuse(Later, "no"));
        var seen = In(from);
        Assert.Equal(counts, seen.See(Later, 9));
        Assert.Equal(counts ? (Later, 9L) : (seen.SeenAt, seen.SeenEvent), (seen.SeenAt, seen.SeenEvent));
        Assert.True(!counts || seen.EndedAt is null);
    }

    [Theory]
    [InlineData(InstructionState.Asked, true)]
    [InlineData(InstructionState.Taken, false)]
    [InlineData(InstructionState.Failed, false)]
    [InlineData(InstructionState.Seen, false)]
    public void Failed_or_dropped_only_before_it_went(InstructionState from, bool counts)
    {
        Assert.Equal(counts, In(from).Fail(Later, "away"));
        var one = In(from);
        one.Handed = false;
        Assert.Equal(counts, one.Drop(Later, "stop"));
    }

    [Fact]
    public void One_that_waits_for_a_yes_is_neither_taken_nor_refused_nor_failed_but_may_be_dropped_or_go()
    {
        Instruction Waiting() => In(InstructionState.Asked, InstructionWait.SecondYes);
        Assert.False(Waiting().Take(Later, null));
        Assert.False(Waiting().Refuse(Later, "no"));
        Assert.False(Waiting().See(Later, 7));
        Assert.False(Waiting().Fail(Later, "away"));
        Assert.True(Waiting().Drop(Later, "stop"));
        var goes = Waiting();
        Assert.True(goes.Go(Later, "odile"));
        Assert.Equal(("odile", Later, Later + goes.Patience, null), (goes.ApprovedBy, goes.DueAt, goes.Deadline, goes.Waits));
        Assert.False(goes.Go(Later, "odile"));
        Assert.False(In(InstructionState.Taken).Go(Later, null));
    }

    [Fact]
    public void What_was_given_out_cannot_be_dropped_and_what_was_not_is_shown_by_no_event()
    {
        Assert.False(In(InstructionState.Asked, handed: true).Drop(Later, "stop"));
        Assert.False(In(InstructionState.Asked, handed: false).See(Later, 7));
        Assert.True(In(InstructionState.Asked, handed: false).See(Later, null));
    }

    [Fact]
    public void It_is_unseen_from_the_end_of_its_sight_on()
    {
        var one = In(InstructionState.Taken);
        Assert.Equal(Begin + Instruction.UsualSight, one.SightUntil);
        Assert.False(one.Unsee(one.SightUntil!.Value - Duration.Epsilon));
        Assert.True(one.Unsee(one.SightUntil.Value));
        Assert.Null(In(InstructionState.Asked).SightUntil);
    }

    [Theory]
    [InlineData(InstructionState.Asked, null, true)]
    [InlineData(InstructionState.Taken, null, true)]
    [InlineData(InstructionState.Seen, null, false)]
    [InlineData(InstructionState.Refused, "instruction.refused", false)]
    [InlineData(InstructionState.Unseen, "instruction.unseen", false)]
    [InlineData(InstructionState.Failed, "instruction.failed", false)]
    [InlineData(InstructionState.Dropped, "instruction.dropped", false)]
    public void What_ends_badly_is_news_and_what_is_under_way_holds_the_lane(InstructionState state, string? news, bool underWay)
    {
        Assert.Equal(news, In(state).News);
        Assert.Equal(underWay, In(state).UnderWay);
    }

    [Theory]
    [InlineData("tag", """{"add":["export"]}""", true)]
    [InlineData("tag", """{"add":["export"],"remove":null}""", true)]
    [InlineData("tag", """{"add":["rush"]}""", false)]
    [InlineData("hold", """{"add":["export"]}""", false)]
    public void Two_are_the_same_by_kind_and_by_what_tells_them_apart(string kind, string with, bool same) =>
        Assert.Equal(same, In(InstructionState.Asked).Same(InstructionKinds.Find(kind)!, Build.Json(with)));

    [Theory]
    [InlineData("hold", "staff", true)]
    [InlineData("hold", "supervisor", true)]
    [InlineData("refund", "staff", false)]
    [InlineData("refund", "supervisor", true)]
    [InlineData("intake", "staff", false)]
    [InlineData("hold", "guest", false)]
    public void Staff_may_what_can_be_undone_and_supervisors_all(string kind, string role, bool may) =>
        Assert.Equal(may, InstructionRight.Usual(InstructionKinds.Find(kind)!).Permits(role, ["desk"]));

    [Fact]
    public void A_right_may_be_a_team_s_and_the_business_s_own_goes_before_the_usual()
    {
        var right = new InstructionRight { Kind = "refund", Teams = ["finance"] };
        Assert.True(right.Permits("staff", ["desk", "finance"]));
        Assert.False(right.Permits("supervisor", ["desk"]));
        var business = new Business { InstructionRights = [right] };
        Assert.Same(right, business.RightOf(InstructionKinds.Find("refund")!));
        Assert.Equal(["staff", "supervisor"], business.RightOf(InstructionKinds.Find("hold")!).Roles);
    }

    [Theory]
    [InlineData("assign", "salesperson")]
    [InlineData("status", "to")]
    [InlineData("note", "text")]
    public void What_a_kind_cannot_do_without_is_needed(string kind, string member) => Assert.True(InstructionKinds.Find(kind)!.Member(member)!.Needed);

    [Fact]
    public void A_kind_of_one_s_own_says_its_button_and_its_members()
    {
        var wrap = new OwnInstruction
        {
            Name = "gift-wrap",
            Button = "Gift wrap",
            Members = ["paper"],
            Shows = "{}",
            Final = true,
        };
        var kind = wrap.Kind(f => f.Event.Type == "order.changed");
        Assert.True(kind is { Own: true, Final: true, Main: "paper" });
        Assert.Equal(["paper"], kind.Tells);
        Assert.Equal("Paper", Assert.Single(kind.Members).Label);
        Assert.Equal("gift wrap (paper red)", kind.Clause(new JsonObject { ["paper"] = "red" }, id => id));
        Assert.Equal("gift wrap", kind.Clause([], id => id));
        Assert.True(kind.Shown(new InstructionSight(Build.Facts("{}", type: "order.changed"), []), []));
        Assert.False(kind.Shown(new InstructionSight(Build.Facts("{}"), []), []));
        Assert.Null((wrap with { Members = ["paper", "ribbon"] }).Kind(_ => true).Main);
    }

    [Fact]
    public void What_the_order_shows_already_makes_no_sense_unless_it_may_be_done_again()
    {
        var held = new InstructionSight(Build.Facts("""{"number":"AQ-1","hold":{"reason":"credit"}}"""), []);
        Assert.NotNull(InstructionKinds.Find("hold")!.WhyNot(held, []));
        Assert.Null(InstructionKinds.Find("release")!.WhyNot(held, []));
        var again = InstructionKinds.All.First(k => k.Again);
        Assert.Null((again with { NotNow = _ => null, Shown = (_, _) => true }).WhyNot(held, []));
        Assert.Equal("the order shows it already", (again with { Again = false, NotNow = _ => null, Shown = (_, _) => true }).WhyNot(held, []));
        Assert.Equal("not today", (again with { NotNow = _ => "not today" }).WhyNot(held, []));
    }
}
