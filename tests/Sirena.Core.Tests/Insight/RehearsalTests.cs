using CsCheck;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Insight;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Insight;

public class RehearsalTests
{
    private static readonly StaffDirectory Staff = new(
        [
            new Person
            {
                Id = "ines.calder",
                Name = "Ines",
                Contacts =
                {
                    new ContactPoint { Channel = Channel.Mail, Address = "i@a.example" },
                },
            },
            new Person
            {
                Id = "odile.varga",
                Name = "Odile",
                Contacts =
                {
                    new ContactPoint { Channel = Channel.Mail, Address = "o@a.example" },
                },
            },
        ],
        [],
        []
    );

    private static OrderEvent At(int minutes, string? order, string after, string type = "order.held") =>
        new()
        {
            EventId = $"{order}-{minutes}",
            Source = "/t",
            Type = type,
            Subject = order,
            OrderNumber = order,
            Seq = 1,
            Time = Noon + Duration.FromMinutes(minutes),
            Received = Noon + Duration.FromMinutes(minutes),
            Data = "{}",
            OrderAfter = after,
        };

    private static List<RehearsedAlert> Run(Rule rule, params OrderEvent[] events)
    {
        var run = new RehearsalRun(new CompiledRule(rule, 1), Staff, new Business());
        foreach (var happened in events.Where(e => run.Wants(e.Type, e.Subject)))
        {
            run.Take(happened);
        }

        return run.Alerts;
    }

    [Fact]
    public void A_further_match_joins_until_the_order_moved_on_and_then_rests()
    {
        var rule = Rule("r") with { WithdrawAt = ["loaded"], Rest = Duration.FromMinutes(30) };
        OrderEvent[] events =
        [
            At(0, "A", "{}"),
            At(5, "A", "{}"),
            At(10, "A", """{"status":"loaded"}""", "order.status-changed"),
            At(20, "A", "{}"),
            At(45, "A", "{}"),
            At(46, "B", "{}"),
        ];
        Assert.Equal([("A", 0), ("A", 45), ("B", 46)], Run(rule, events).Select(a => (a.Subject, (int)(a.At - Noon).TotalMinutes)));
    }

    [Fact]
    public void A_case_that_never_fits_is_named_with_how_often_the_others_did()
    {
        var rule = Rule("r") with
        {
            Cases =
            [
                new RuleCase
                {
                    Name = "dear",
                    OnlyIf = Leaf("order.total", "at-least", "5000"),
                    Tell = [new PersonRecipient("odile.varga")],
                },
                new RuleCase { Name = "other", Tell = [new PersonRecipient("odile.varga")] },
            ],
        };
        var run = new RehearsalRun(new CompiledRule(rule, 1), Staff, new Business());
        foreach (var happened in new[] { At(0, "A", """{"total":900}"""), At(1, "A", """{"total":900}"""), At(2, "B", """{"total":300}""") })
        {
            run.Take(happened);
        }

        var found = new Rehearsal(3, run.Alerts, []) { Heard = run.Heard, Cases = run.Cases };
        Assert.Equal([new CaseFit("dear", 0), new CaseFit("other", 3)], found.Cases);
        Assert.Equal((3, "dear"), (found.Heard, Assert.Single(found.NeverFit)));
        Assert.Empty((found with { Heard = 0, Cases = [new CaseFit("dear", 0)] }).NeverFit);
    }

    [Fact]
    public void The_difference_names_the_orders_that_gain_lose_and_change()
    {
        OrderEvent[] events = [At(0, "A", """{"total":900}"""), At(1, "B", """{"total":300}"""), At(2, "C", """{"total":100}""")];
        var old = Run(Rule("r", Leaf("order.total", "at-most", "500")), events);
        var draft = Run(
            Rule("r", Leaf("order.total", "at-least", "300"), cases: new RuleCase { Name = "always", Tell = [new PersonRecipient("odile.varga")] }),
            events
        );
        var found = new Rehearsal(3, draft, old);
        var (gained, lost, changed) = found.Difference();
        Assert.Equal(["A C B"], [string.Join(' ', [.. gained, .. lost, .. changed])]);
        Assert.Equal([("odile.varga", 2, 0), ("ines.calder", 0, 2)], found.ByPerson().Select(p => (p.Person, p.Draft, p.InForce)));
        Assert.Equal((Noon, 2), (found.ByPerson()[0].BusiestHour!.Value, found.ByPerson()[0].InBusiestHour));
        Assert.Equal((2, 2), (found.ByDay(Noon, Noon, Lisbon).Single().Draft, found.ByDay(Noon, Noon, Lisbon).Single().InForce));
    }

    [Fact]
    public void Hours_and_the_busiest_of_them_are_those_of_the_business()
    {
        var found = new Rehearsal(4, Run(Rule("r"), At(0, "A", "{}"), At(59, "B", "{}"), At(60, "C", "{}"), At(61, "D", "{}"), At(62, "E", "{}")), []);
        Assert.Equal((2, 3), (found.ByHour(Lisbon).Draft[12], found.ByHour(Lisbon).Draft[13]));
        Assert.Equal((Noon + Duration.FromHours(1), 3), found.Busiest);
        Assert.Null(new Rehearsal(0, [], []).Busiest);
    }

    [Fact]
    public void Rules_that_tell_the_same_people_of_the_same_orders_and_rules_that_flood_are_found()
    {
        static CompiledRule One(string id, string person, Condition? only = null) =>
            new(Rule(id, only, cases: new RuleCase { Name = "always", Tell = [new PersonRecipient(person)] }), 1);
        var run = new BookRehearsal(
            new RuleBook(1, [One("a", "ines.calder"), One("b", "ines.calder", Leaf("order.total", "at-least", "5")), One("c", "odile.varga")]),
            Staff,
            new Business()
        );
        for (var i = 0; i < 12; i++)
        {
            run.Take(At(i, $"O{i}", $$"""{"total":{{i}}}"""));
        }

        Assert.Equal([new Overlap("a", "b", 7, 7)], run.Overlaps(least: 5));
        Assert.Empty(run.Overlaps(least: 8));
        Assert.Equal([("a", "ines.calder", 12), ("c", "odile.varga", 12)], run.Floods(most: 10).Select(f => (f.Rule, f.Person, f.Times)).Order());
    }

    // Two rules overlap from half of the smaller one's orders on.
    [Theory]
    [InlineData(5, 5, 10, true)]
    [InlineData(4, 5, 10, false)]
    [InlineData(5, 5, 11, false)]
    [InlineData(6, 5, 11, true)]
    public void An_overlap_begins_at_half_of_the_smaller_rule_s_orders(int both, int least, int smaller, bool found)
    {
        static CompiledRule One(string id, Condition only) =>
            new(Rule(id, only, cases: new RuleCase { Name = "always", Tell = [new PersonRecipient("ines.calder")] }), 1);
        var run = new BookRehearsal(
            new RuleBook(1, [One("a", Leaf("order.total", "less-than", $"{both + 20}")), One("b", Leaf("order.total", "at-least", "20"))]),
            Staff,
            new Business()
        );
        for (var total = 0; total < 20 + smaller; total++)
        {
            run.Take(At(total, $"O{total}", $$"""{"total":{{total}}}"""));
        }

        Assert.Equal(found ? [new Overlap("a", "b", both, smaller)] : [], run.Overlaps(least));
    }

    [Fact]
    public void Ten_an_hour_are_no_flood_and_eleven_are()
    {
        var rule = new CompiledRule(Rule("r", cases: new RuleCase { Name = "always", Tell = [new PersonRecipient("ines.calder")] }), 1);
        var run = new BookRehearsal(new RuleBook(1, [rule]), Staff, new Business());
        for (var i = 0; i < 11; i++)
        {
            run.Take(At(i, $"O{i}", "{}"));
        }

        run.Take(At(75, "P", "{}"));
        Assert.Equal([new Flood("r", "ines.calder", Noon, 11)], run.Floods(most: 10));
        Assert.Empty(run.Floods(most: 11));
    }

    [Fact]
    public void A_rule_rehearsed_alone_and_within_the_book_raises_the_same() =>
        Gen.Select(Rules.Anything.Rule.List[1, 8], Rules.Anything.Order.List[1, 12])
            .Sample(sample =>
            {
                CompiledRule[] rules =
                [
                    .. sample
                        .Item1.DistinctBy(r => r.Id)
                        .Select(r => new CompiledRule(r with { Cases = [.. r.Cases.Select(c => c with { Tell = [new PersonRecipient("ines.calder")] })] }, 1)),
                ];
                OrderEvent[] events = [.. sample.Item2.Select((o, i) => At(i * 40, $"O{i % 3}", o))];
                var book = new BookRehearsal(new RuleBook(1, rules), Staff, new Business());
                Array.ForEach(events, book.Take);
                return rules.All(r =>
                    Run(r.Rule, events).Select(a => (a.Subject, a.At, a.Case)).SequenceEqual(book.Alerts[r.Rule.Id].Select(a => (a.Subject, a.At, a.Case)))
                );
            });

    [Fact]
    public void What_would_be_asked_stands_at_its_step_and_time_and_a_match_that_joins_asks_nothing()
    {
        var (hold, release) = (new InstructionAsk("hold", "{}"), new InstructionAsk("release", "{}"));
        var one = new RuleCase
        {
            Name = "always",
            Tell = [new PersonRecipient("ines.calder")],
            Do = [hold, release],
            Ladder =
            [
                new LadderStep(StepClock.After, Duration.FromMinutes(10), [new PersonRecipient("odile.varga")], null, null),
                new LadderStep(StepClock.After, Duration.FromMinutes(25), [], null, null) { Do = [hold, release] },
            ],
        };
        var run = new RehearsalRun(new CompiledRule(Rule("r", cases: one), 1), Staff, new Business());
        run.Take(At(0, "A", "{}"));
        run.Take(At(5, "A", "{}"));
        Assert.Equal(
            [("hold", "A", 0, 0), ("hold", "A", 25, 2), ("release", "A", 25, 2)],
            run.Asks.Select(a => (a.Kind, a.Subject!, (int)(a.At - Noon).TotalMinutes, a.Step))
        );
        Assert.Single(run.Alerts);
    }

    [Fact]
    public void A_case_that_tells_nobody_raises_none_and_one_that_only_has_steps_does()
    {
        var step = new LadderStep(StepClock.After, Duration.FromMinutes(10), [new PersonRecipient("odile.varga")], null, null);
        Assert.Empty(Run(Rule("r", cases: new RuleCase { Name = "quiet" }), At(0, "A", "{}")));
        var raised = Run(Rule("r", cases: new RuleCase { Name = "later", Ladder = [step] }), At(0, "A", "{}")).Single();
        Assert.Equal(("A", "later", 0, 0), (raised.Subject, raised.Case, raised.People.Count, raised.Unreached));
    }

    // Prompt alerts lapse after four hours: what comes in that very moment raises another.
    [Theory]
    [InlineData(239, 1)]
    [InlineData(240, 2)]
    [InlineData(241, 2)]
    public void An_alert_counts_as_open_until_the_deadline_of_its_urgency(int minutes, int alerts) =>
        Assert.Equal(alerts, Run(Rule("r"), At(0, "A", "{}"), At(minutes, "A", "{}")).Count);

    [Theory]
    [InlineData("""{"status":"loaded"}""", 2)]
    [InlineData("""{"status":"picking"}""", 1)]
    [InlineData("""{"status":7}""", 1)]
    [InlineData("{}", 1)]
    public void Only_a_status_that_ends_alerts_ends_one(string after, int alerts) =>
        Assert.Equal(
            alerts,
            Run(Rule("r") with { WithdrawAt = ["loaded"] }, At(0, "A", "{}"), At(5, "A", after, "order.status-changed"), At(10, "A", "{}")).Count
        );

    [Fact]
    public void A_rule_wants_what_it_listens_to_and_what_may_end_its_alerts()
    {
        var run = new RehearsalRun(new CompiledRule(Rule("r") with { WithdrawAt = ["loaded"] }, 1), Staff, new Business());
        Assert.True(run.Wants("order.held", null));
        Assert.False(run.Wants("order.status-changed", "A"));
        run.Take(At(0, "A", "{}"));
        Assert.True(run.Wants("order.status-changed", "A"));
        Assert.False(run.Wants("order.status-changed", "B"));
        Assert.False(run.Wants("order.status-changed", null));
        var never = new RehearsalRun(new CompiledRule(Rule("r"), 1), Staff, new Business());
        never.Take(At(0, "A", "{}"));
        Assert.False(never.Wants("order.status-changed", "A"));
    }

    [Fact]
    public void Events_of_no_order_are_each_a_thing_of_their_own()
    {
        OrderEvent[] events = [At(0, null, "{}"), At(1, null, "{}"), At(2, null, "{}")];
        Assert.Equal(3, Run(Rule("r"), events).Count);
        var found = new Rehearsal(3, Run(Rule("r"), events), []);
        Assert.Equal((0, 0, 0), (found.Difference().Gained.Count, found.Difference().Lost.Count, found.Difference().Changed.Count));
    }

    [Fact]
    public void Days_without_an_alert_stand_between_those_with_some()
    {
        static RehearsedAlert On(int day, params string[] people) => new("A", "c", Noon + Duration.FromDays(day), people, 0);
        var found = new Rehearsal(9, [On(0), On(0), On(2)], [On(1)]);
        Assert.Equal([(24, 2, 0), (25, 0, 1), (26, 1, 0)], found.ByDay(Noon, Noon + Duration.FromDays(2), Lisbon).Select(d => (d.Day.Day, d.Draft, d.InForce)));
        Assert.Equal(2, found.ByDay(Noon - Duration.FromHours(13), Noon, Lisbon).Count);
        Assert.Equal((3, 1), (found.ByHour(Lisbon).Draft[12], found.ByHour(Lisbon).InForce[12]));
    }

    [Fact]
    public void Whoever_the_draft_tells_most_stands_first_then_whom_the_version_in_force_does_then_by_name()
    {
        static RehearsedAlert To(int minutes, params string[] people) => new($"O{minutes}", "c", Noon + Duration.FromMinutes(minutes), people, 0);
        var found = new Rehearsal(9, [To(0, "b", "d"), To(70, "b", "c", "a")], [To(0, "c"), To(1, "e")]);
        Assert.Equal([("b", 2, 0), ("c", 1, 1), ("a", 1, 0), ("d", 1, 0), ("e", 0, 1)], found.ByPerson().Select(p => (p.Person, p.Draft, p.InForce)));

        // Of two hours with as many the first is the busiest; whoever the draft tells of nothing has none.
        Assert.Equal((Noon, 1), (found.ByPerson()[0].BusiestHour, found.ByPerson()[0].InBusiestHour));
        Assert.Equal((null, 0), (found.ByPerson()[4].BusiestHour, found.ByPerson()[4].InBusiestHour));
        Assert.Equal((Noon, 1), (found.Busiest!.Value.From, found.Busiest.Value.Alerts));
    }

    [Fact]
    public void An_order_has_changed_when_its_case_or_its_people_differ_and_not_when_they_come_in_another_order()
    {
        static RehearsedAlert Of(string order, string @case, params string[] people) => new(order, @case, Noon, people, 0);
        var found = new Rehearsal(
            9,
            [Of("same", "c", "a", "b"), Of("case", "c", "a"), Of("people", "c", "a"), Of("twice", "c", "a"), Of("twice", "c", "a")],
            [Of("same", "c", "b", "a"), Of("case", "d", "a"), Of("people", "c", "b"), Of("twice", "c", "a")]
        );
        Assert.Equal(["case", "people", "twice"], found.Difference().Changed);
        Assert.Empty(found.Difference().Gained.Concat(found.Difference().Lost));
    }

    [Fact]
    public void A_recipient_that_would_be_nobody_is_counted() =>
        Assert.Equal(
            1,
            Run(Rule("r", cases: new RuleCase { Name = "always", Tell = [new RoleRecipient(OrderRole.Salesperson)] }), At(0, "A", "{}")).Single().Unreached
        );

    [Fact]
    public void Coverage_counts_the_hour_that_the_clocks_skip_as_none_and_the_darker_of_the_one_that_comes_twice()
    {
        var dark = Instant.FromUtc(2026, 10, 25, 1, 0);
        Coverage Week(LocalDate monday) =>
            Coverage.Of(monday, Lisbon, at =>
                at >= dark && at < dark + Duration.FromHours(1)
                    ? new Resolution([], [], [new LeftOut("desk", "nobody of Desk is on duty", Nobody: true)])
                    : new Resolution([new Told("a", Channel.Mail, "a@a.example", "")], [], [])
            );
        Assert.Equal((167m, 0m), (Week(new LocalDate(2026, 3, 23)).Hours, Week(new LocalDate(2026, 3, 23)).DarkHours));
        var autumn = Week(new LocalDate(2026, 10, 19));
        Assert.Equal((168m, 1m), (autumn.Hours, autumn.DarkHours));
        Assert.Equal(
            (new LocalDateTime(2026, 10, 25, 1, 0), new LocalDateTime(2026, 10, 25, 2, 0)),
            (autumn.DarkTimes().Single().From, autumn.DarkTimes().Single().To)
        );
    }
}
