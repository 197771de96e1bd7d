using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.People;

public class WhoIsToldTests
{
    private static readonly StaffDirectory Staff = new(
        [
            Person("ines.calder", "account-managers"),
            Person("noor.haddad", "kitchen"),
            Person("tomas.reyle", "kitchen"),
            new Person
            {
                Id = "pavel.dusek",
                Name = "Pavel Dušek",
                Teams = { "kitchen" },
            },
            new Person
            {
                Id = "gone.away",
                Name = "Gone Away",
                ArchivedAt = Noon,
            },
        ],
        [new Team { Id = "kitchen", Name = "Kitchen" }, new Team { Id = "desk", Name = "Desk" }],
        [
            new Site
            {
                Id = "galley",
                Name = "Galley kitchen",
                Manager = "tomas.reyle",
            },
        ]
    );

    private static Person Person(string id, string team) =>
        new()
        {
            Id = id,
            Name = id,
            Teams = { team },
            Contacts =
            {
                new ContactPoint
                {
                    Channel = Channel.Mail,
                    Address = id + "@averilquay.example",
                    Verified = true,
                },
            },
        };

    private static Resolution Resolve(string order, params Recipient[] recipients) => Resolve(Staff, order, recipients);

    private static Resolution Resolve(StaffDirectory staff, string order, params Recipient[] recipients) =>
        new WhoIsTold(staff, new Business(), Facts(order)).Resolve(new TellQuestion(recipients, null, Urgency.Prompt, "order.held", "held", true, Noon));

    [Fact]
    public void The_screen_is_everybody_s_own_and_needs_no_code_sent_back()
    {
        var who = new WhoIsTold(Staff, new Business(), Facts("{}")).Resolve(
            new TellQuestion([new PersonRecipient("pavel.dusek")], Ways.AllAtOnce(Channel.Screen), Urgency.Prompt, "order.held", "held", true, Noon)
        );
        var told = Assert.Single(who.Told);
        Assert.Equal(("pavel.dusek", Channel.Screen, "pavel.dusek", true), (told.Person, told.Channel, told.Contact, told.Verified));
    }

    [Fact]
    public void A_team_is_all_its_members_each_with_the_reason_and_whoever_has_no_address_is_left_out_by_name()
    {
        var who = Resolve("{}", new TeamRecipient("kitchen"));
        Assert.Equal([("noor.haddad", "you are in Kitchen"), ("tomas.reyle", "you are in Kitchen")], who.Told.Select(t => (t.Person!, t.Because)));
        Assert.Equal([new LeftOut("pavel.dusek", "no mail address")], who.Left);
    }

    [Fact]
    public void Somebody_named_twice_is_told_once() =>
        Assert.Equal(
            "tomas.reyle",
            Assert.Single(Resolve("""{"site":"galley"}""", new PersonRecipient("tomas.reyle"), new RoleRecipient(OrderRole.SiteManager)).Told).Person
        );

    [Theory]
    [InlineData("nobody.here", "there is no such person")]
    [InlineData("gone.away", "archived")]
    public void Nobody_vanishes_silently(string person, string because) =>
        Assert.Equal([new LeftOut(person, because, Nobody: true)], Resolve("{}", new PersonRecipient(person)).Left);

    [Fact]
    public void An_empty_team_and_an_order_without_a_salesperson_are_said() =>
        Assert.Equal(
            ["nobody is in Desk", "the order names no salesperson"],
            Resolve("{}", new TeamRecipient("desk"), new RoleRecipient(OrderRole.Salesperson)).Left.Select(l => l.Because)
        );

    [Fact]
    public void The_order_s_salesperson_is_told() =>
        Assert.Equal(
            "you are the order's salesperson",
            Assert.Single(Resolve("""{"salesperson":"ines.calder"}""", new RoleRecipient(OrderRole.Salesperson)).Told).Because
        );

    [Fact]
    public void An_outside_address_needs_its_permission()
    {
        Assert.Equal("harbour@port.example", Assert.Single(Resolve("{}", new AddressRecipient("harbour@port.example", Outside: true)).Told).Contact);
        Assert.Contains("no permission for outside", Assert.Single(Resolve("{}", new AddressRecipient("harbour@port.example", Outside: false)).Left).Because);
    }

    [Fact]
    public void A_customer_who_is_told_by_mail_is_not_left_out_for_their_phone_as_well_but_one_with_a_phone_alone_is()
    {
        var both = Resolve(
            """{"customer":{"name":"MV Corvane","email":"purser@corvane.example","phone":"+447700900123"}}""",
            new RoleRecipient(OrderRole.Customer)
        );
        Assert.Equal("purser@corvane.example", Assert.Single(both.Told).Contact);
        Assert.Empty(both.Left);
        var phone = Assert.Single(Resolve("""{"customer":{"name":"MV Corvane","phone":"+447700900123"}}""", new RoleRecipient(OrderRole.Customer)).Left);
        Assert.Equal(("+447700900123 works only by SMS", true), (phone.Because, phone.Nobody));
        Assert.Equal(
            "+447700900124 works only by SMS",
            Assert
                .Single(
                    Resolve(
                        """{"customer":{"email":"purser@corvane.example"}}""",
                        new RoleRecipient(OrderRole.Customer),
                        new AddressRecipient("+447700900124", Outside: true)
                    ).Left
                )
                .Because
        );
    }

    [Fact]
    public void A_broken_contact_point_is_not_used()
    {
        var person = new Person
        {
            Id = "joost.hale",
            Name = "Joost Hale",
            Contacts =
            {
                new ContactPoint
                {
                    Channel = Channel.Mail,
                    Address = "old@a.example",
                    Verified = true,
                    BrokenAt = Noon,
                    BrokenBecause = "550",
                },
                new ContactPoint { Channel = Channel.Mail, Address = "new@a.example" },
            },
        };
        var who = Resolve(new StaffDirectory([person], [], []), "{}", new PersonRecipient("joost.hale"));
        Assert.Equal("new@a.example", Assert.Single(who.Told).Contact);
    }

    [Theory]
    [InlineData("ines.calder@averilquay.example", null)]
    [InlineData("ines@averil", "has no domain ending")]
    [InlineData("ines", "has no @")]
    [InlineData("a@b@c.example", "has more than one @")]
    [InlineData("a b@c.example", "has a part before the @ that no mail address can have")]
    [InlineData("a@-c.example", "has a domain that cannot exist")]
    public void A_mail_address_is_judged_once(string text, string? problem)
    {
        Assert.Equal(problem is null, MailAddress.TryParse(text, out _, out var found));
        Assert.Equal(problem, found);
    }

    [Theory]
    [InlineData("tomas.reyle", "tomas.reyle")]
    [InlineData("kitchen", "kitchen")]
    [InlineData("Tomas Reyle", "tomas.reyle")]
    [InlineData("tomas reyle", "tomas.reyle")]
    [InlineData("SØRENSEN", "emil.sorensen")]
    [InlineData("emil", "emil.sorensen")]
    [InlineData("galley kitchen", "kitchen")]
    [InlineData("reyle", null)]
    [InlineData("bram", null)]
    [InlineData("outsider", null)]
    [InlineData("", null)]
    public void A_person_or_team_is_known_by_id_or_by_a_name_that_only_one_has(string written, string? id)
    {
        Person P(string id, string name, bool archived = false, bool outside = false) =>
            new()
            {
                Id = id,
                Name = name,
                ArchivedAt = archived ? Noon : null,
                Outside = outside,
            };
        var staff = new StaffDirectory(
            [
                P("tomas.reyle", "Tomas Reyle"),
                P("ada.reyle", "Ada Reyle"),
                P("emil.sorensen", "Emil Sørensen"),
                P("bram.osei", "Bram Osei", archived: true),
                P("pilot", "Port Outsider", outside: true),
            ],
            [new Team { Id = "kitchen", Name = "Galley kitchen" }],
            []
        );
        Assert.Equal(id, staff.IdOf(written));
    }
}
