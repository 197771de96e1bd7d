using System.Text.Json.Nodes;
using CsCheck;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.People;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Formats;

public class PeopleDocumentTests
{
    private static readonly string[] Sites = ["galley", "cold-store"];

    private static readonly Site[] Managed =
    [
        new Site
        {
            Id = "galley",
            Name = "Galley kitchen",
            Manager = "noor.haddad",
        },
    ];

    private static readonly string[] Odd =
    [
        "Maria-Constança d’Almeida, Vasconcelos; Jr.",
        "yes",
        "null",
        "12",
        "Ólafur Þórarinsson",
        "a\\nb",
        "- x",
        "# y",
        "{z}",
        "'=1+2",
    ];

    private const string Yaml = """
        - id: noor.haddad
          name: Noor Haddad
          teams: [kitchen]
          manages: [galley]
          contacts:
            - { channel: mail, address: "noor@a.example; noor.haddad@b.example", verified: true }
            - { channel: sms, address: "+44 7700 900123" }
          optOuts: [ { event: order.note-added, channel: sms } ]
          quiet: [ { days: [mon, tuesday], from: "22:00", to: "06:00" } ]
          away: [ { from: 2026-12-24, to: 2026-12-26, cover: emil.sorensen }, { from: "2027-01-01T08:00:00Z", to: "2027-01-01T12:00:00Z" } ]
          first: { urgent: sms }
        """;

    private static PersonEntry One(string yaml)
    {
        var read = PeopleReader.Read(yaml, true, Lisbon, Sites);
        Assert.Empty(read.Errors);
        return Assert.Single(read.Good);
    }

    [Fact]
    public void A_person_is_read_with_all_that_is_known()
    {
        var (person, manages, _) = One(Yaml);
        Assert.Equal(["galley"], manages);
        Assert.Equal(["noor@a.example", "noor.haddad@b.example", "+447700900123"], person.Contacts.Select(c => c.Address));
        Assert.Equal(new OptOut("order.note-added", null, Channel.Sms), Assert.Single(person.OptOuts));
        Assert.Equal(new WeeklySpan([IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday], new LocalTime(22, 0), new LocalTime(6, 0)), Assert.Single(person.Quiet));
        Assert.Equal(Leave.Of(new LocalDate(2026, 12, 24), new LocalDate(2026, 12, 26), "emil.sorensen", Lisbon), person.Away[0]);
        Assert.False(person.Away[1].Days);
        Assert.Equal(Channel.Sms, person.First[Urgency.Urgent]);
    }

    [Fact]
    public void What_is_written_reads_back_the_same_as_YAML_and_as_JSON()
    {
        var (person, _, _) = One(Yaml);
        JsonNode Written(Person p) => PeopleWriter.Write(p, Managed, Lisbon);
        var list = new JsonArray(Written(person));
        Assert.Equal(list.ToJsonString(), new JsonArray(Written(One(YamlText.Write(list)).Person)).ToJsonString());
        var json = PeopleReader.Read(new JsonObject { ["items"] = list.DeepClone(), ["next"] = null }.ToJsonString(), false, Lisbon, Sites);
        Assert.Equal(list.ToJsonString(), new JsonArray(Written(Assert.Single(json.Good).Person)).ToJsonString());
    }

    [Fact]
    public void Names_and_texts_of_any_kind_survive_every_format()
    {
        var texts = Gen.OneOf(Gen.String[Gen.Char[' ', '~'], 1, 20], Gen.Int[0, 9].Select(i => Odd[i]))
            .Where(t => t.Trim() == t && t.Length > 0 && !t.StartsWith('\''));
        Gen.Select(texts, texts)
            .Sample(
                (name, post) =>
                {
                    var person = new Person
                    {
                        Id = "x.y",
                        Name = name,
                        Post = post,
                        Teams = ["desk"],
                        Contacts =
                        {
                            new ContactPoint { Channel = Channel.Mail, Address = "x@a.example" },
                        },
                    };
                    var list = new JsonArray(PeopleWriter.Write(person, [], Lisbon));
                    Assert.Equal((name, post), Of(PeopleReader.Read(YamlText.Write(list), true, Lisbon, Sites)));
                    Assert.Equal((name, post), Of(PeopleCsv.Read(PeopleCsv.Write([(person, [])]), Sites)));
                    Assert.Equal((name, post), Of(VCardReader.Read(System.Text.Encoding.UTF8.GetBytes(VCards.Write([person])), null)));
                },
                iter: 500
            );

        static (string, string?) Of(PeopleDocument read)
        {
            Assert.Empty(read.Errors);
            return (read.Good[0].Person.Name, read.Good[0].Person.Post);
        }
    }

    [Theory]
    [InlineData("- { id: noor }\n- { id: noor }", "'noor' stands twice in the list.", 2)]
    [InlineData("- { id: Noor }", "'Noor' cannot be an id: lower-case letters, digits, dots, hyphens and underscores, 60 at most: first.last.", 1)]
    [InlineData("- { id: a, manages: [gally] }", "There is no site 'gally'. Did you mean 'galley'?", 1)]
    [InlineData("- { id: a, contacts: [ { channel: mail, address: 'x@a.example, y@a' } ] }", "'y@a' has no domain ending.", 1)]
    [InlineData(
        "- { id: a, contacts: [ { channel: sms, address: '020 7946' } ] }",
        "'020 7946' has no country code: write it with a plus sign, such as +44 7700 900123.",
        1
    )]
    [InlineData("- { id: a, quiet: [ { from: '25:00', to: '06:00' } ] }", "'25:00' is no time of day, such as \"22:00\".", 1)]
    [InlineData("- { id: a, away: [ { from: 2026-12-24, to: 2026-12-20 } ] }", "The leave ends (2026-12-20) before it begins (2026-12-24).", 1)]
    [InlineData("- { id: a, name: \"Ana\\nTarn\" }", "'name' is one line: a line break or another control character stands in it.", 1)]
    [InlineData("- { id: a, nam: x }", "A person has no member 'nam'. Did you mean 'name'?", 1)]
    [InlineData("x: 1", "A list of people is expected.", 1)]
    public void A_mistake_is_one_sentence_at_its_line(string yaml, string problem, int line)
    {
        var error = PeopleReader.Read(yaml, true, Lisbon, Sites).Errors[0];
        Assert.Equal((problem, line), (error.Problem, error.Line!.Value));
    }

    [Fact]
    public void Good_rows_of_a_table_stand_beside_the_bad_ones_that_are_named_by_line_and_column()
    {
        var read = PeopleCsv.Read("id;name;mail;teams\r\nann;Ann;ann@a.example;desk\r\nben;Ben;ben@a;desk\r\n;Cleo;;\r\n", Sites);
        Assert.Equal("ann", Assert.Single(read.Good).Person.Id);
        Assert.Equal(
            [(3, 3, "'ben@a' has no domain ending."), (4, 1, "The id is missing, and there is no mail address by which somebody could be found.")],
            read.Errors.Select(e => (e.Line!.Value, e.Column!.Value, e.Problem))
        );
        Assert.Equal(2, read.Bad);
        Assert.Contains("There is no column 'mial'. Did you mean 'mail'?", PeopleCsv.Read("id,mial\na,b\n", Sites).Errors[0].Problem);
    }

    [Fact]
    public void A_card_made_elsewhere_is_read()
    {
        var read = VCardReader.Read(
            System.Text.Encoding.UTF8.GetBytes(
                "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ólafur\r\n  Þórarinsson\r\nitem1.EMAIL;PREF=1:olafur@a.example\r\nTEL;VALUE=uri;TYPE=\"voice,home\":tel:+44-7700-900456\r\nCATEGORIES:desk,Not A Team\r\nEND:VCARD\r\nBEGIN:VCARD\r\nFN:\r\nTEL:12\r\nEND:VCARD\r\n"
            ),
            null
        );
        var person = Assert.Single(read.Good).Person;
        Assert.Equal(("olafur.thorarinsson", "Ólafur Þórarinsson"), (person.Id, person.Name));
        Assert.Equal(["olafur@a.example", "+447700900456"], person.Contacts.Select(c => c.Address));
        Assert.Equal(["desk"], person.Teams);
        Assert.Equal(1, read.Bad);
    }

    [Theory]
    [InlineData("a@x.example, b@x.example; c@x.example\nd@x.example a@x.example", 4)]
    [InlineData("", 0)]
    public void One_field_takes_several_mail_addresses(string field, int count) => Assert.Equal(count, Addresses.Read(Channel.Mail, field).Good.Count);

    [Fact]
    public void One_field_takes_several_numbers_with_their_spaces() =>
        Assert.Equal(
            ["+447700900123", "+447700900456", "+351210000000"],
            Addresses.Read(Channel.Sms, "+44 7700 900123 +44 7700 900 456; 00351 210000000").Good
        );
}
