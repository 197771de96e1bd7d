using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Calendars;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.People;

/// <summary>Duty, leave and cover, wishes and quiet hours: who is told at an instant, and why the others are not.</summary>
public class DutyTests
{
    // Wednesday.
    private static readonly LocalDate Day = new(2026, 11, 25);

    private static Instant At(int hour, int days = 0) => Day.PlusDays(days).At(new LocalTime(hour, 0)).InZoneLeniently(Lisbon).ToInstant();

    private static Person P(string id, params string[] teams) =>
        new()
        {
            Id = id,
            Name = id.ToUpperInvariant(),
            Teams = [.. teams],
            Contacts =
            {
                new ContactPoint
                {
                    Channel = Channel.Mail,
                    Address = id + "@a.example",
                    Verified = true,
                },
                new ContactPoint
                {
                    Channel = Channel.Sms,
                    Address = "+447700900123",
                    Verified = true,
                },
            },
        };

    private static Shift Shift(string team, string person, int from, int to, string? place = null) =>
        ShiftText.Make(
            team,
            new(person, person, person + "@a.example"),
            Day.At(new LocalTime(from, 0)),
            Day.PlusDays(to > from ? 0 : 1).At(new LocalTime(to, 0)),
            [],
            Lisbon,
            place,
            Noon
        );

    private static Resolution Ask(
        Person[] people,
        Shift[] shifts,
        Instant at,
        Recipient recipient,
        Ways? by = null,
        Urgency urgency = Urgency.Prompt,
        string order = "{}",
        Business? business = null,
        bool mayOptOut = true
    )
    {
        var staff = new StaffDirectory(
            people,
            [
                new Team { Id = "credit", Name = "Credit control" },
                new Team
                {
                    Id = "store",
                    Name = "Store",
                    MayOptOut = false,
                },
            ],
            [
                new Site
                {
                    Id = "cold",
                    Name = "Cold store",
                    Team = "store",
                },
                new Site
                {
                    Id = "dry",
                    Name = "Dry store",
                    Team = "store",
                },
            ],
            new Rota(shifts, Lisbon)
        );
        return new WhoIsTold(staff, business ?? new Business(), Facts(order)).Resolve(
            new TellQuestion([recipient], by, urgency, "order.held", "held", mayOptOut, at)
        );
    }

    [Fact]
    public void Duty_is_whoever_stands_on_the_rota_at_that_instant_and_the_others_are_off_duty_until_their_next_shift()
    {
        var who = Ask(
            [P("farah", "credit"), P("joost", "credit")],
            [Shift("credit", "farah", 7, 15), Shift("credit", "joost", 15, 23)],
            At(8),
            new DutyRecipient("credit")
        );
        Assert.Equal(("farah", "you are on duty for Credit control"), (Assert.Single(who.Told).Person, who.Told[0].Because));
        Assert.Equal([new LeftOut("joost", "off duty until 15:00")], who.Left);
    }

    [Fact]
    public void Who_left_is_not_said_to_be_off_duty()
    {
        var gone = P("joost", "credit");
        gone.ArchivedAt = At(0);
        var who = Ask([P("farah", "credit"), gone], [Shift("credit", "farah", 7, 15)], At(8), new DutyRecipient("credit"));
        Assert.Equal(["farah"], who.Told.Select(t => t.Person));
        Assert.Empty(who.Left);
    }

    [Theory]
    [InlineData(7, 1)]
    [InlineData(14, 1)]
    [InlineData(15, 0)]
    [InlineData(6, 0)]
    public void One_shift_is_served_from_its_begin_to_its_last_minute(int hour, int told) =>
        Assert.Equal(told, Ask([P("farah", "credit")], [Shift("credit", "farah", 7, 15)], At(hour), new DutyRecipient("credit")).Told.Count);

    [Fact]
    public void A_dark_hour_is_an_answer_of_its_own()
    {
        var who = Ask([P("farah", "credit")], [Shift("credit", "farah", 7, 15)], At(3), new DutyRecipient("credit"));
        Assert.Empty(who.Told);
        Assert.Contains(new LeftOut("credit", "nobody of Credit control is on duty until 07:00", Nobody: true), who.Left);
        Assert.Equal(1, who.Unreached);
    }

    [Fact]
    public void A_shift_that_names_a_place_counts_for_the_lines_of_that_place_only()
    {
        Shift[] shifts = [Shift("store", "kaia", 8, 16, "cold"), Shift("store", "milo", 8, 16, "Dry store"), Shift("store", "teo", 8, 16)];
        var who = Ask(
            [P("kaia", "store"), P("milo", "store"), P("teo", "store")],
            shifts,
            At(9),
            new RoleRecipient(OrderRole.LineSiteDuty),
            order: """{"lines":[{"site":"cold"}]}"""
        );
        Assert.Equal(["kaia", "teo"], who.Told.Select(t => t.Person));
    }

    [Fact]
    public void Leave_goes_to_the_cover_and_covers_chain()
    {
        var (farah, wanda) = (P("farah", "credit"), P("wanda"));
        farah.Away.Add(Leave.Of(Day, Day, "wanda", Lisbon));
        wanda.Away.Add(Leave.Of(Day, Day, "ivo", Lisbon));
        var who = Ask([farah, wanda, P("ivo")], [], At(9), new PersonRecipient("farah"));
        Assert.Equal("ivo", Assert.Single(who.Told).Person);
        Assert.Contains("you cover for FARAH", who.Told[0].Because);
        Assert.Equal(["away until Thu 00:00, WANDA covers", "away until Thu 00:00, IVO covers"], who.Left.Select(l => l.Because));
        Assert.Equal("farah", Assert.Single(Ask([farah, wanda, P("ivo")], [], At(9, days: 1), new PersonRecipient("farah")).Told).Person);
    }

    [Fact]
    public void Covers_that_go_in_a_circle_are_said_and_found_where_they_are_made()
    {
        var (a, b) = (P("a"), P("b"));
        a.Away.Add(Leave.Of(Day, Day, "b", Lisbon));
        b.Away.Add(Leave.Of(Day, Day.PlusDays(3), "a", Lisbon));
        Assert.Contains("circle: A → B → A", Ask([a, b], [], At(9), new PersonRecipient("a")).Left[^1].Because);
        Assert.Equal(["a", "b", "a"], Covers.Circle(new Dictionary<string, Person> { ["a"] = a, ["b"] = b }));
        b.Away[0] = Leave.Of(Day.PlusDays(1), Day.PlusDays(3), "a", Lisbon);
        Assert.Null(Covers.Circle(new Dictionary<string, Person> { ["a"] = a, ["b"] = b }));
    }

    [Fact]
    public void An_opt_out_holds_for_its_event_rule_and_channel_unless_the_team_or_the_rule_forbids_it()
    {
        var p = P("milo", "store", "credit");
        p.OptOuts.Add(new OptOut("order.held", null, Channel.Sms));
        var by = Ways.AllAtOnce(Channel.Mail, Channel.Sms);
        var who = Ask([p], [], At(9), new TeamRecipient("credit"), by, Urgency.Urgent);
        Assert.Equal([Channel.Mail], who.Told.Select(t => t.Channel));
        Assert.Equal("opted out of order.held by SMS", Assert.Single(who.Left).Because);
        Assert.Equal(2, Ask([p], [], At(9), new TeamRecipient("store"), by).Told.Count);
        Assert.Equal(2, Ask([p], [], At(9), new TeamRecipient("credit"), by, mayOptOut: false).Told.Count);
        p.OptOuts.Add(new OptOut(null, "held", null));
        Assert.Equal(1, Ask([p], [], At(9), new TeamRecipient("credit"), by).Unreached);
    }

    [Fact]
    public void Quiet_hours_hold_what_can_wait_until_they_end_and_urgent_passes()
    {
        var p = P("noor");
        p.Quiet.Add(new WeeklySpan([IsoDayOfWeek.Wednesday], new LocalTime(22, 0), new LocalTime(6, 0)));
        var held = Ask([p], [], At(3, days: 1), new PersonRecipient("noor"));
        Assert.Empty(held.Told);
        Assert.Equal((At(6, days: 1), "quiet until 06:00"), (Assert.Single(held.Held).HeldUntil!.Value, Assert.Single(held.Left).Because));
        Assert.Equal(0, held.Unreached);
        Assert.Single(Ask([p], [], At(3, days: 1), new PersonRecipient("noor"), urgency: Urgency.Urgent).Told);
        Assert.Single(Ask([p], [], At(3), new PersonRecipient("noor")).Told); // the span belongs to the day it starts on
        Assert.Single(
            Ask(
                [P("noor")],
                [],
                At(23),
                new PersonRecipient("noor"),
                business: new Business { Quiet = [new WeeklySpan([], new LocalTime(22, 0), new LocalTime(6, 0))] }
            ).Held
        );
    }

    // Upon its first second it is quiet, upon its end no longer; what the business lets pass may be less than urgent, or nothing at all.
    [Theory]
    [InlineData(-1, Urgency.Prompt, Urgency.Urgent, false)]
    [InlineData(0, Urgency.Prompt, Urgency.Urgent, true)]
    [InlineData((8 * 3600) - 1, Urgency.Routine, Urgency.Urgent, true)]
    [InlineData(8 * 3600, Urgency.Routine, Urgency.Urgent, false)]
    [InlineData(60, Urgency.Urgent, Urgency.Urgent, false)]
    [InlineData(60, Urgency.Prompt, Urgency.Prompt, false)]
    [InlineData(60, Urgency.Routine, Urgency.Prompt, true)]
    public void Quiet_begins_and_ends_to_the_second_and_the_business_says_what_passes(int second, Urgency urgency, Urgency passes, bool held)
    {
        var business = new Business { QuietPasses = passes, Quiet = [new WeeklySpan([], new LocalTime(22, 0), new LocalTime(6, 0))] };
        var who = Ask([P("noor")], [], At(22) + Duration.FromSeconds(second), new PersonRecipient("noor"), urgency: urgency, business: business);
        Assert.Equal(held, who.Held.Count == 1);
        Assert.Equal(held, who.Told.Count == 0);
    }

    [Fact]
    public void The_first_verified_address_in_the_list_is_used_and_one_that_waits_for_its_code_is_not()
    {
        var p = new Person
        {
            Id = "x",
            Name = "X",
            Contacts = { Mail("a@x.example"), Mail("b@x.example", verified: true), Mail("c@x.example", verified: true) },
        };
        Assert.Equal("b@x.example", Assert.Single(Ask([p], [], Noon, new PersonRecipient("x")).Told).Contact);
        var waiting = new Person
        {
            Id = "x",
            Name = "X",
            Contacts =
            {
                new ContactPoint
                {
                    Channel = Channel.Mail,
                    Address = "a@x.example",
                    Pending = true,
                },
            },
        };
        Assert.Equal("a@x.example is not used until its code was sent back", Ask([waiting], [], Noon, new PersonRecipient("x")).Left[0].Because);

        static ContactPoint Mail(string address, bool verified = false) =>
            new()
            {
                Channel = Channel.Mail,
                Address = address,
                Verified = verified,
            };
    }

    [Theory]
    [InlineData("OV7", "odile")]
    [InlineData("ov7", "odile")]
    [InlineData("odile", "odile")]
    public void The_order_system_s_codes_name_people(string code, string person)
    {
        var odile = P("odile");
        odile.Codes.Add("OV7");
        Assert.Equal(
            person,
            Assert.Single(Ask([odile], [], Noon, new RoleRecipient(OrderRole.Salesperson), order: $$"""{"salesperson":"{{code}}"}""").Told).Person
        );
    }

    [Fact]
    public void A_customer_is_reached_by_what_the_order_gives()
    {
        const string order = """{"customer":{"name":"MV Corvane","email":"purser@corvane.example","phone":"+44 7700 900123"}}""";
        Assert.Equal(
            ["purser@corvane.example", "+447700900123"],
            Ask([], [], Noon, new RoleRecipient(OrderRole.Customer), Ways.AllAtOnce(Channel.Mail, Channel.Sms), order: order).Told.Select(t => t.Contact)
        );
        Assert.True(Assert.Single(Ask([], [], Noon, new RoleRecipient(OrderRole.Customer), order: "{}").Left).Nobody);
    }

    [Fact]
    public void A_customer_who_wants_nothing_more_by_a_channel_is_left_out_there_alone()
    {
        const string order = """{"customer":{"name":"MV Corvane","email":"Purser@corvane.example","phone":"+44 7700 900123"}}""";
        Resolution Of(params string[] refused) =>
            new WhoIsTold(new StaffDirectory([], [], []) { Refused = refused.ToHashSet() }, new Business(), Facts(order)).Resolve(
                new TellQuestion(
                    [new RoleRecipient(OrderRole.Customer)],
                    Ways.AllAtOnce(Channel.Mail, Channel.Sms),
                    Urgency.Prompt,
                    "order.held",
                    "held",
                    true,
                    Noon
                )
            );
        var one = Of("mail purser@corvane.example");
        Assert.Equal([Channel.Sms], one.Told.Select(t => t.Channel));
        Assert.Equal("the customer wants nothing more by mail at Purser@corvane.example", Assert.Single(one.Left).Because);
        Assert.Equal(2, Of("mail other@corvane.example", "sms purser@corvane.example").Told.Count);
        var both = Of("mail purser@corvane.example", "sms +447700900123");
        Assert.Empty(both.Told);
        Assert.Equal(1, both.Unreached);
    }

    [Fact]
    public void Somebody_outside_the_house_needs_the_rule_s_permission()
    {
        var p = P("pilot");
        p.Outside = true;
        Assert.Equal(1, Ask([p], [], Noon, new PersonRecipient("pilot")).Unreached);
        Assert.Single(Ask([p], [], Noon, new PersonRecipient("pilot", Outside: true)).Told);
    }

    // Named by herself and by her team's duty: that she is off duty is no reason, for she is told.
    [Fact]
    public void Who_is_told_otherwise_is_not_left_out_for_being_off_duty()
    {
        var staff = new StaffDirectory(
            [P("farah", "credit"), P("joost", "credit")],
            [new Team { Id = "credit", Name = "Credit control" }],
            [],
            new Rota([Shift("credit", "joost", 7, 15)], Lisbon)
        );
        Resolution Of(params Recipient[] tell) =>
            new WhoIsTold(staff, new Business(), Facts("{}")).Resolve(new TellQuestion(tell, null, Urgency.Prompt, "order.held", "held", true, At(8)));
        var both = Of(new DutyRecipient("credit"), new PersonRecipient("farah"));
        Assert.Equal(["farah", "joost"], both.Told.Select(t => t.Person!).Order());
        Assert.Empty(both.Left);
        Assert.Equal([new LeftOut("farah", "off duty") { OffDuty = true }], Of(new DutyRecipient("credit")).Left);
    }
}
