using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Core.People;

namespace Sirena.Core.Tests.People;

/// <summary>People, teams and sites as they are named, found and left out.</summary>
public sealed class StaffTests
{
    private static Person Who(string id, string name, params string[] teams) =>
        new()
        {
            Id = id,
            Name = name,
            Teams = [.. teams],
        };

    // A code tells one person. Whoever is archived is told nothing, and their code is free.
    [Theory]
    [InlineData("ann: A1 / ben: A2", null)]
    [InlineData("ann: A1 / ben: a1", "A1 ben")]
    [InlineData("ann: A1 / ben: B B,a1 / cleo: A1", "A1 ben")]
    [InlineData("ann: A1 / ben: A1 archived", null)]
    [InlineData("ann: A1 archived / ben: A1", null)]
    [InlineData("ann: A1,B B / ben archived / cleo: b b", "B B cleo")]
    [InlineData("ann / ben: A1", null)]
    public void A_code_that_somebody_else_has_is_taken(string written, string? taken)
    {
        Person[] people =
        [
            .. written
                .Split(" / ")
                .Select(p =>
                {
                    var (archived, text) = (p.EndsWith(" archived", StringComparison.Ordinal), p.Replace(" archived", "", StringComparison.Ordinal));
                    var parts = text.Split(": ");
                    return new Person
                    {
                        Id = parts[0],
                        Name = parts[0].ToUpperInvariant(),
                        ArchivedAt = archived ? Build.Noon : null,
                        Codes = [.. parts.Skip(1).SelectMany(c => c.Split(','))],
                    };
                }),
        ];
        var found = SalesCodes.Taken(people[0], people.Reverse());
        Assert.Equal(taken, found is (var code, var of) ? $"{code} {of.Id}" : null);
        if (found is (var twice, var owner))
        {
            Assert.Equal($"The code '{twice}' belongs to {owner.Name}. Take it away there first, or leave it out.", SalesCodes.Sentence(twice, owner));
        }
    }

    [Fact]
    public void A_code_names_whoever_is_here_before_somebody_archived_and_else_the_first_by_id()
    {
        Person With(string id, bool archived) =>
            new()
            {
                Id = id,
                Name = id,
                Codes = ["X-1"],
                ArchivedAt = archived ? Build.Noon : null,
            };
        foreach (var order in new[] { new[] { 0, 1, 2 }, [2, 1, 0], [1, 2, 0] })
        {
            Person[] all = [With("ann", archived: true), With("ben", archived: false), With("cleo", archived: false)];
            Assert.Equal("ben", new StaffDirectory(order.Select(i => all[i]), [], []).ByCode("x-1")!.Id);
        }

        Assert.Equal("ann", new StaffDirectory([With("ann", archived: true)], [], []).ByCode("X-1")!.Id);
    }

    private static readonly StaffDirectory Staff = new(
        [
            Who("bram.osei", "Bram Osei", "desk"),
            Who("ines.calder", "Inês Calder", "kitchen", "desk"),
            new Person
            {
                Id = "odile",
                Name = "Odile Calder",
                Codes = ["OC", "Odile-1"],
            },
            new Person
            {
                Id = "gone",
                Name = "Tomas Reyle",
                ArchivedAt = Build.Noon,
                Codes = ["oc"],
            },
            new Person
            {
                Id = "guest",
                Name = "Vera Guest",
                Outside = true,
            },
        ],
        [new Team { Id = "kitchen", Name = "Galley kitchen" }, new Team { Id = "desk", Name = "Desk" }],
        [
            new Site
            {
                Id = "quay",
                Name = "Quay",
                Manager = "bram.osei",
            },
            new Site
            {
                Id = "cold-store",
                Name = "Cold store",
                Manager = "bram.osei",
            },
            new Site { Id = "bonded", Name = "Bonded store" },
        ]
    );

    [Theory]
    [InlineData("bram.osei", "bram.osei")]
    [InlineData("Bram Osei", "bram.osei")]
    [InlineData(" bram ", "bram.osei")]
    [InlineData("INES CALDER", "ines.calder")]
    [InlineData("ines", "ines.calder")]
    [InlineData("calder", null)]
    [InlineData("kitchen", "kitchen")]
    [InlineData("Galley", "kitchen")]
    [InlineData("Tomas Reyle", null)]
    [InlineData("gone", "gone")]
    [InlineData("Vera", null)]
    [InlineData("Bra", null)]
    [InlineData("", null)]
    public void Somebody_is_found_by_what_only_one_is_called(string written, string? id) => Assert.Equal(id, Staff.IdOf(written));

    [Fact]
    public void A_code_or_an_id_names_a_person_however_it_is_written_and_the_first_keeps_it()
    {
        Assert.Contains(Staff.ByCode("oc")!.Id, new[] { "odile", "gone" });
        Assert.Equal("odile", Staff.ByCode("ODILE-1")!.Id);
        Assert.Equal("bram.osei", Staff.ByCode("bram.osei")!.Id);
        Assert.Null(Staff.ByCode("XY"));
    }

    [Fact]
    public void Sites_teams_and_names_are_asked_by_their_ids()
    {
        Assert.Equal(["cold-store", "quay"], Staff.ManagedBy("bram.osei").Select(s => s.Id));
        Assert.Empty(Staff.ManagedBy("odile"));
        Assert.Equal(["bram.osei", "ines.calder"], Staff.Members("desk").Select(p => p.Id));
        Assert.Empty(Staff.Members("nobody"));
        Assert.Equal(["Bram Osei", "Desk", "Quay", "elsewhere"], new[] { "bram.osei", "desk", "quay", "elsewhere" }.Select(Staff.NameOf));
    }

    [Fact]
    public void A_person_s_mails_begin_with_that_of_the_sign_in()
    {
        var person = new Person
        {
            Id = "a",
            Name = "A",
            Email = "in@a.example",
            Contacts =
            [
                new ContactPoint { Channel = Channel.Sms, Address = "+351900000001" },
                new ContactPoint { Channel = Channel.Mail, Address = "first@a.example" },
                new ContactPoint { Channel = Channel.Mail, Address = "second@a.example" },
            ],
        };
        Assert.Equal(["in@a.example", "first@a.example", "second@a.example"], person.Mails);
        person.Email = null;
        Assert.Equal(["first@a.example", "second@a.example"], person.Mails);
        person.NumberContacts();
        Assert.Equal([0, 1, 2], person.Contacts.Select(c => c.Position));
        (person.Contacts[0].Position, person.Contacts[2].Position) = (2, 0);
        Assert.Equal(["second@a.example", "first@a.example", "+351900000001"], person.InOrder().Contacts.Select(c => c.Address));
        Assert.Equal("b", person.As("b").Id);
        Assert.Same(person.Contacts, person.As("b").Contacts);
    }

    [Theory]
    [InlineData(false, false, false, true)]
    [InlineData(false, true, false, false)]
    [InlineData(true, true, false, true)]
    [InlineData(true, false, true, false)]
    [InlineData(false, false, true, false)]
    public void An_address_is_used_unless_it_is_broken_or_waits_for_its_code(bool verified, bool pending, bool broken, bool usable) =>
        Assert.Equal(
            usable,
            new ContactPoint
            {
                Address = "a@a.example",
                Verified = verified,
                Pending = pending,
                BrokenAt = broken ? Build.Noon : null,
            }.Usable
        );

    [Theory]
    [InlineData("order.held", null, null, "order.held", "r1", Channel.Mail, true)]
    [InlineData("order.held", null, Channel.Mail, "order.held", "r1", Channel.Sms, false)]
    [InlineData("order.held", null, Channel.Sms, "order.held", null, Channel.Sms, true)]
    [InlineData("order.held", null, null, "order.paid", "r1", Channel.Mail, false)]
    [InlineData(null, "r1", null, "order.paid", "r1", Channel.Mail, true)]
    [InlineData(null, "r1", null, "order.paid", "r2", Channel.Mail, false)]
    [InlineData(null, "r1", null, "order.paid", null, Channel.Mail, false)]
    [InlineData(null, null, null, "order.paid", null, Channel.Mail, false)]
    public void A_wish_not_to_be_told_holds_for_its_event_or_rule_and_channel(
        string? happened,
        string? rule,
        Channel? channel,
        string type,
        string? by,
        Channel way,
        bool covers
    ) => Assert.Equal(covers, new OptOut(happened, rule, channel).Covers(type, by, way));

    [Fact]
    public void Leave_of_days_holds_to_the_end_of_the_last_one()
    {
        var leave = Leave.Of(new LocalDate(2026, 10, 24), new LocalDate(2026, 10, 25), "odile", Build.Lisbon);
        Assert.True(leave.Days);
        Assert.Equal(Duration.FromHours(49), leave.To - leave.From);
        Assert.True(leave.Holds(leave.From));
        Assert.False(leave.Holds(leave.From - Duration.Epsilon));
        Assert.True(leave.Holds(leave.To - Duration.Epsilon));
        Assert.False(leave.Holds(leave.To));
    }

    private static Told Told(string? person, string contact, bool customer = false) => new(person, Channel.Mail, contact, "you are asked", Customer: customer);

    [Fact]
    public void Those_who_are_told_otherwise_are_left_out_with_the_reason_once()
    {
        var all = new Resolution([Told("bram.osei", "b@a.example"), Told("odile", "o@a.example")], [Told("bram.osei", "+351")], [new LeftOut("x", "no mail")]);
        Assert.Same(all, all.Without(new Dictionary<string, string> { ["nobody"] = "away" }));
        var some = all.Without(new Dictionary<string, string> { ["bram.osei"] = "told by another rule" });
        Assert.Equal(["odile"], some.Told.Select(t => t.Person));
        Assert.Empty(some.Held);
        Assert.Equal([new LeftOut("x", "no mail"), new LeftOut("bram.osei", "told by another rule")], some.Left);

        var outside = new Resolution([Told(null, "Purser@Corvane.example")], [], []).Without(
            new Dictionary<string, string> { ["purser@corvane.example"] = "told already" }
        );
        Assert.Empty(outside.Told);
        Assert.Equal([new LeftOut("Purser@Corvane.example", "told already")], outside.Left);
    }

    [Theory]
    [InlineData(true, true, 2, 0, 1)]
    [InlineData(true, false, 1, 1, 0)]
    [InlineData(false, true, 1, 1, 1)]
    [InlineData(false, false, 0, 2, 0)]
    public void Whom_somebody_chose_not_to_tell_is_left_out_and_then_no_fault_is_that_nobody_is(bool customer, bool staff, int told, int more, int unreached)
    {
        var all = new Resolution(
            [Told("bram.osei", "b@a.example"), Told(null, "c@a.example", customer: true)],
            [],
            [new LeftOut("kitchen", "nobody on duty", Nobody: true)]
        );
        var chosen = all.Chosen(new TellChoice(customer, staff, "Maren Holt"));
        Assert.Equal((told, 1 + more, unreached), (chosen.Told.Count, chosen.Left.Count, chosen.Unreached));
        Assert.All(chosen.Left.Skip(1), l => Assert.Equal("not to be told, chosen by Maren Holt", l.Because));
        Assert.Same(all, all.Chosen(null));
    }

    [Fact]
    public void The_same_reader_by_the_same_channel_is_one_however_the_address_is_written()
    {
        Assert.Equal(Told(null, "A@a.example").Reader, Told(null, "a@A.example").Reader);
        Assert.NotEqual(Told("odile", "a@a.example").Reader, Told(null, "a@a.example").Reader);
        Assert.Equal(
            [Audience.Staff, Audience.Outside, Audience.Customer],
            new[] { Told("odile", ""), Told(null, ""), Told(null, "", customer: true) }.Select(t => t.Audience)
        );
    }

    [Theory]
    [InlineData("a@mail.example", "mail.example")]
    [InlineData("mail.example", "mail.example")]
    [InlineData("@", "")]
    public void The_domain_is_what_stands_after_the_at(string address, string domain) => Assert.Equal(domain, MailAddress.DomainOf(address));
}
