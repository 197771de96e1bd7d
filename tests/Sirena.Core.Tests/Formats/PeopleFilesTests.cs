using System.Text;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.People;

namespace Sirena.Core.Tests.Formats;

/// <summary>People's files as programs elsewhere write them: character sets, older cards, tables cut off, lines that change a part.</summary>
public sealed class PeopleFilesTests
{
    private static readonly DateTimeZone Lisbon = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];

    private static PeopleDocument Read(string text, string format, Encoding? encoding = null, string? charset = null) =>
        PeopleFile.Read((encoding ?? Encoding.UTF8).GetBytes(text), charset, format, Lisbon, ["galley"])!;

    [Fact]
    public void A_card_of_1996_is_read_with_its_quoted_printable_and_its_bare_types()
    {
        var read = Read(
            "BEGIN:VCARD\r\nVERSION:2.1\r\nN;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:=C3=96stlund;J=C3=B6rg;;;\r\nFN;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:J=C3=B6rg =\r\n=C3=96stlund\r\nTITLE;QUOTED-PRINTABLE:Caf=E9\r\n"
                + "TEL;FAX;WORK:+44 7700 900200\r\nTEL;CELL:+44 7700 900201\r\nTEL;HOME:+44 7700 900202\r\nEMAIL;INTERNET:jorg@a.example\r\nEND:VCARD\r\n",
            "vcf"
        );
        Assert.Empty(read.Errors);
        var entry = Assert.Single(read.Good);
        Assert.Equal(("Jörg Östlund", "Café"), (entry.Person.Name, entry.Person.Post));
        Assert.Equal(["jorg@a.example", "+447700900201"], entry.Person.Contacts.Select(c => c.Address));
        Assert.True(entry.FoundByMail);
        Assert.Equal(["mail", "name", "post", "sms"], entry.Given!.Order());
    }

    [Fact]
    public void Fax_machines_internet_calls_groups_and_foreign_categories_take_nothing_away()
    {
        var read = Read(
            "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ann Lee\r\nTEL;TYPE=FAX:+44 7700 900200\r\nIMPP:sip:ann@a.example\r\nCATEGORIES:My Friends\r\nEMAIL;TYPE=HOME:ann@a.example\r\nEND:VCARD\r\n"
                + "BEGIN:VCARD\r\nVERSION:4.0\r\nKIND:group\r\nFN:The desk\r\nMEMBER:urn:uuid:1\r\nEND:VCARD\r\n",
            "vcf"
        );
        var entry = Assert.Single(read.Good);
        Assert.Equal(["mail", "name"], entry.Given!.Order());
        Assert.Null(entry.Person.Email);
        Assert.Empty(read.Errors);
    }

    [Theory]
    [InlineData("BEGIN:VCARD\r\nVERSION:4.0\r\nUID:1\r\nFN:Ana\\nTarn\\, Desk\r\nEND:VCARD\r\n", "vcf", "Ana Tarn, Desk")]
    [InlineData("id,name\nana,\"Ana\r\nTarn\"\n", "csv", "Ana Tarn")]
    public void A_name_on_several_lines_of_another_program_s_file_is_one_line(string text, string kind, string name) =>
        Assert.Equal(name, Assert.Single(Read(text, kind).Good).Person.Name);

    [Theory]
    [InlineData("BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ann\r\n", "no END:VCARD")]
    [InlineData("<html><body>\r\n</body></html>", "BEGIN:VCARD is expected")]
    [InlineData("BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ann\r\nEND:VCARD\r\nBEGIN:VCARD\r\nFN:Ben", "no END:VCARD")]
    public void A_file_of_cards_that_is_cut_off_is_refused_whole(string text, string problem)
    {
        var read = Read(text, "vcf");
        Assert.Empty(read.Good);
        Assert.Contains(problem, read.Errors[^1].Problem);
    }

    [Fact]
    public void Tables_are_read_in_their_character_set_and_never_with_replaced_letters()
    {
        const string table = "id,name,mail\r\njorg,Jörg,jorg@a.example\r\n";
        Assert.Equal("Jörg", Read(table, "csv", Encoding.Latin1, "windows-1252").Good[0].Person.Name);
        Assert.Equal(
            "Jörg",
            Assert.Single(PeopleFile.Read([.. Encoding.Unicode.GetPreamble(), .. Encoding.Unicode.GetBytes(table)], null, "csv", Lisbon, [])!.Good).Person.Name
        );
        var error = Assert.Single(Read(table, "csv", Encoding.Latin1).Errors);
        Assert.Equal(2, error.Line);
        Assert.Contains("no UTF-8 (F6)", error.Problem);
        Assert.Contains("is not known", Read(table, "csv", null, "martian").Errors[0].Problem);
    }

    [Fact]
    public void A_table_changes_its_columns_only_and_half_a_row_is_no_row()
    {
        var read = Read("mail,post\r\nann@a.example,Cook\r\nben@a.example", "csv");
        var entry = Assert.Single(read.Good);
        Assert.True(entry.FoundByMail);
        Assert.Equal(["mail", "post"], entry.Given!.Order());
        Assert.Contains("1 of 2 cells", Assert.Single(read.Errors).Problem);
        Assert.Contains("neither", Read("name\r\nAnn\r\n", "csv").Errors[0].Problem.Replace("and so are", "neither", StringComparison.Ordinal));
        Assert.NotEmpty(Read("id,name\r\nann,\"Ann Lee\r\nben,Ben\r\n", "csv").Errors);
        Assert.Contains("stands twice", Read("id,name,name\r\na,b,c\r\n", "csv").Errors[0].Problem);
    }

    // A spreadsheet would take some cells for formulas; those are written with an apostrophe, and none is lost of a name that begins with one.
    [Theory]
    [InlineData("'t Hooft", "'t Hooft")]
    [InlineData("''t Hooft", "''t Hooft")]
    [InlineData("=SUM(A1)", "'=SUM(A1)")]
    [InlineData("'=SUM(A1)", "''=SUM(A1)")]
    [InlineData("-1 cook", "'-1 cook")]
    [InlineData("@home", "'@home")]
    [InlineData("'", "'")]
    public void A_cell_reads_back_to_the_text_that_was_written(string post, string cell)
    {
        var person = new Person
        {
            Id = "ann",
            Name = "Ann Lee",
            Post = post,
            Codes = ["A B", "C"],
        };
        var table = PeopleCsv.Write([(person, [])]);
        Assert.Contains($",{cell},", table.Replace("\"", "", StringComparison.Ordinal), StringComparison.Ordinal);
        var read = Assert.Single(Read(table, "csv").Good).Person;
        Assert.Equal((post, "Ann Lee"), (read.Post, read.Name));
        Assert.Equal(["A B", "C"], read.Codes);
    }

    [Theory]
    [InlineData("id,name\nteams,Teams\n", "csv")]
    [InlineData("[{\"id\":\"new\",\"name\":\"N\"}]", "json")]
    [InlineData("- { id: who }", "yaml")]
    [InlineData("BEGIN:VCARD\r\nVERSION:4.0\r\nUID:urn:sirena:person:rota\r\nFN:Rota\r\nEND:VCARD\r\n", "vcf")]
    public void A_word_of_the_pages_addresses_is_nobody_s_id(string text, string format)
    {
        var read = Read(text, format);
        Assert.Empty(read.Good);
        Assert.Contains("is a word of Sirena's own addresses", read.Errors[0].Problem, StringComparison.Ordinal);
    }

    // Whoever changes a post leaves the sites that somebody manages as they are.
    [Theory]
    [InlineData("{\"id\":\"ann\",\"post\":\"Cook\"}", null)]
    [InlineData("{\"id\":\"ann\",\"manages\":null}", "")]
    [InlineData("{\"id\":\"ann\",\"manages\":[]}", "")]
    [InlineData("{\"id\":\"ann\",\"manages\":[\"galley\"]}", "galley")]
    public void A_part_of_a_person_says_of_sites_only_what_stands_in_it(string line, string? manages)
    {
        var entry = Assert.Single(Read(line, "jsonl").Good);
        Assert.Equal(manages, entry.Manages is null ? null : string.Join(' ', entry.Manages));
    }

    [Theory]
    [InlineData("en", true)]
    [InlineData("pt-PT", true)]
    [InlineData("zh-Hant-TW", true)]
    [InlineData("de-1996", true)]
    [InlineData("e", false)]
    [InlineData("Portuguese", false)]
    [InlineData("en_GB", false)]
    [InlineData("en-", false)]
    [InlineData("e1", false)]
    [InlineData("português", false)]
    public void A_language_is_named_by_its_tag(string language, bool taken)
    {
        var table = Read($"id,language\nann,{language}\n", "csv");
        var list = Read($"[{{\"id\":\"ann\",\"language\":\"{language}\"}}]", "json");
        foreach (var read in new[] { table, list })
        {
            Assert.Equal(taken ? [language] : [], read.Good.Select(g => g.Person.Language));
            Assert.Equal(taken ? [] : [$"'{language}' is no language: give its tag (BCP 47), such as en or pt."], read.Errors.Select(e => e.Problem));
        }

        // A card of another program may say it in words: then it says nothing of the language.
        var card = Assert.Single(Read($"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ann Lee\r\nLANG:{language}\r\nEND:VCARD\r\n", "vcf").Good);
        Assert.Equal((taken ? language : "en", taken), (card.Person.Language, card.Gives("language")));
    }

    [Theory]
    [InlineData("[\"a,b\"]", "'a,b' cannot be a code")]
    [InlineData("[\"a;b\"]", "'a;b' cannot be a code")]
    [InlineData("[\" \"]", "cannot be a code")]
    public void A_code_with_what_stands_between_codes_is_refused(string codes, string problem) =>
        Assert.Contains(problem, Read($"[{{\"id\":\"ann\",\"codes\":{codes}}}]", "json").Errors[0].Problem, StringComparison.Ordinal);

    [Fact]
    public void A_line_of_JSON_changes_what_it_carries_and_null_clears()
    {
        var read = Read(
            "{\"id\":\"ann\",\"post\":null,\"quiet\":[]}\n\n{\"contacts\":[{\"channel\":\"mail\",\"address\":\"ben@a.example\"}],\"name\":\"Ben Moss\"}\n",
            "jsonl"
        );
        Assert.Empty(read.Errors);
        Assert.Equal([("ann", "id,post,quiet"), ("ben.moss", "contacts,name")], read.Good.Select(g => (g.Person.Id, string.Join(',', g.Given!.Order()))));
        Assert.True(read.Good[1].FoundByMail);
        Assert.Equal([(2, "This is not JSON")], Read("{\"id\":\"a\"}\n{\"id\":", "jsonl").Errors.Select(e => (e.Line!.Value, e.Problem[..16])));
    }

    [Theory]
    [InlineData("- ", 200_000, true)]
    [InlineData("[", 4_000, true)]
    [InlineData("[", 200_000, true)]
    [InlineData("{\"a\":", 100_000, true)]
    [InlineData("a: ", 4_000, true)]
    [InlineData("? ", 100_000, true)]
    [InlineData("{a: ", 40_000, true)]
    [InlineData("[", 100_000, false)]
    [InlineData("{\"a\":", 100_000, false)]
    [InlineData("[1,", 1, false)]
    [InlineData("- 1\n", 250_000, true)]
    public void A_bomb_costs_next_to_nothing(string part, int times, bool yaml)
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var (node, error) = DocumentText.Read(string.Concat(Enumerable.Repeat(part, times)), yaml);
        Assert.Null(node);
        Assert.NotNull(error);
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(20), $"{watch.Elapsed}");
    }

    [Theory]
    [InlineData("{\"a\":1,\n\"a\":2}", false, 2)]
    [InlineData("a: 1\nb: 1\na: 2\n", true, 3)]
    [InlineData("- { a: 1, a: 2 }", true, 1)]
    public void A_member_stands_once(string text, bool yaml, int line)
    {
        var (_, error) = DocumentText.Read(text, yaml);
        Assert.Equal((line, "'a' stands twice."), (error!.Line!.Value, error.Problem));
    }

    [Fact]
    public void A_person_under_another_id_keeps_every_other_member()
    {
        var ines = new Person
        {
            Id = "ines",
            Name = "Ines Calder",
            Email = "ines@averilquay.example",
            Language = "pt",
            Post = "sales",
            Outside = true,
            ArchivedAt = NodaConstants.UnixEpoch,
            Contacts = [new ContactPoint { Channel = Channel.Sms, Address = "+447700900123" }],
            Teams = ["sales"],
            Codes = ["IC"],
            OptOuts = [new OptOut(null, null, Channel.Sms)],
            Quiet = [new WeeklySpan([IsoDayOfWeek.Monday], LocalTime.Noon, LocalTime.Midnight)],
            Away = [new Leave(NodaConstants.UnixEpoch, NodaConstants.UnixEpoch, null, true)],
            First = new() { [Urgency.Urgent] = Channel.Sms },
        };
        var other = ines.As("ines.calder");
        Assert.Equal("ines.calder", other.Id);
        Assert.All(typeof(Person).GetProperties().Where(p => p.Name != nameof(Person.Id) && p.CanWrite), p =>
            Assert.Equal(p.GetValue(ines), p.GetValue(other))
        );
    }
}
