using System.Globalization;
using CsvHelper;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Formats.Documents;

namespace Sirena.Formats.People;

/// <summary>
/// People as CSV (RFC 4180), a person a row: <c>id, name, email, language, post, teams, manages, codes, mail, sms, chat</c>; several values of a cell separated
/// by semicolons. What a row
/// cannot hold (opt-outs, quiet hours, leave) and what a file has no column for stays as it is when the file is read. A row without an id is found by its mail
/// address.
/// </summary>
public static class PeopleCsv
{
    private static readonly string[] Columns =
    [
        "id",
        "name",
        "email",
        "language",
        "post",
        "teams",
        "manages",
        "codes",
        .. ChannelTraits.WithGateways.Select(c => c.Name()),
    ];
    private static readonly Channel[] Channels = [.. ChannelTraits.WithGateways];

    /// <summary>Writes people. A cell that a spreadsheet would take for a formula is guarded with an apostrophe.</summary>
    public static string Write(IEnumerable<(Person Person, IEnumerable<Site> Manages)> people)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using var csv = CsvWriter.Create(text, CsvWriterOptions.Default, true);
        csv.WriteRecord(Columns);
        foreach (var (p, manages) in people)
        {
            string?[] cells =
            [
                p.Id,
                p.Name,
                p.Email,
                p.Language,
                p.Post,
                Join(p.Teams),
                Join(manages.Select(s => s.Id)),
                Join(p.Codes),
                .. Channels.Select(c => Join(p.Contacts.Where(x => x.Channel == c).Select(x => x.Address))),
            ];
            csv.WriteRecord([.. cells.Select(c => CsvText.Guarded(c ?? ""))]);
        }

        csv.Flush();
        return text.ToString();
    }

    /// <summary>Reads people; each bad cell is named by line and column.</summary>
    public static PeopleDocument Read(string text, IReadOnlyCollection<string> sites)
    {
        text = text.TrimStart('\uFEFF');
        var first = text.Split('\n', '\r')[0];
        var separator = first.Count(c => c == ';') > first.Count(c => c == ',') ? ';' : ',';
        if (CsvText.OpenQuote(text, separator) is { } open)
        {
            return new PeopleDocument([], [new DocumentError("", open, 1, "A quotation mark is opened here and never closed. Is the file cut off?")], 1);
        }

        using var csv = CsvReader.FromText(
            text,
            CsvReaderOptions.Default with
            {
                HasHeader = false,
                Separator = separator,
                TrimWhitespace = true,
                TrackLineNumbers = true,
                FieldCountMismatch = CsvFieldCountHandling.Allow,
            }
        );
        if (!csv.Read())
        {
            return new PeopleDocument(
                [],
                [new DocumentError("", 1, 1, "The file is empty. Its first line names the columns: " + string.Join(", ", Columns) + ".")],
                1
            );
        }

        var header = Enumerable.Range(0, csv.FieldCount).Select(i => csv.GetString(i).Trim().ToLowerInvariant()).ToArray();
        var unknown = header
            .Select((h, i) => (h, i))
            .Where(x => !Columns.Contains(x.h))
            .Select(x => new DocumentError(
                x.h,
                1,
                x.i + 1,
                $"There is no column '{x.h}'.{Core.Closest.Hint(x.h, Columns)} Known are {string.Join(", ", Columns)}."
            ))
            .ToList();
        foreach (var twice in header.Select((h, i) => (h, i)).GroupBy(x => x.h).Where(g => g.Count() > 1))
        {
            unknown.Add(new DocumentError(twice.Key, 1, twice.Last().i + 1, $"The column '{twice.Key}' stands twice."));
        }

        if (!header.Contains("id") && !header.Contains("mail") && !header.Contains("email"))
        {
            unknown.Add(new DocumentError("id", 1, 1, "The column 'id' is missing, and so are 'mail' and 'email', by which somebody could be found."));
        }

        if (unknown.Count > 0)
        {
            return new PeopleDocument([], unknown, 1);
        }

        var (good, errors, bad) = (new List<PersonEntry>(), new List<DocumentError>(), 0);
        while (csv.Read())
        {
            var row = new Row(header, csv, (int)csv.LineNumber, errors);
            var before = errors.Count;
            if (csv.FieldCount == 1 && csv.GetString(0).Length == 0)
            {
                continue;
            }

            if (csv.FieldCount != header.Length)
            {
                bad++;
                errors.Add(
                    new DocumentError(
                        "",
                        (int)csv.LineNumber,
                        csv.FieldCount,
                        $"The row has {csv.FieldCount} of {header.Length} cells. Is the file cut off, or a quotation mark not closed?"
                    )
                );
                continue;
            }

            var entry = row.Read(sites, good);
            if (errors.Count > before)
            {
                bad++;
            }
            else
            {
                good.Add(entry);
            }
        }

        return new PeopleDocument(good, errors, bad);
    }

    private static string Join(IEnumerable<string> values) => string.Join("; ", values);

    private sealed class Row(string[] header, CsvReader csv, int line, List<DocumentError> errors)
    {
        public PersonEntry Read(IReadOnlyCollection<string> sites, List<PersonEntry> good)
        {
            var byMail = Cell("id").Length == 0 && (Cell("mail").Length > 0 || Cell("email").Length > 0);
            var id = byMail ? PersonId.From(Cell("name") is { Length: > 0 } called ? called : (Cell("mail") + Cell("email")).Split('@')[0]) : Cell("id");
            if (PeopleReader.WhyNoId(id) is { } noId)
            {
                Wrong("id", id.Length == 0 ? "The id is missing, and there is no mail address by which somebody could be found." : noId);
            }
            else if (!byMail && good.Exists(g => !g.FoundByMail && g.Person.Id == id))
            {
                Wrong("id", $"'{id}' stands twice in the file.");
            }

            var email = Cell("email");
            if (email.Length > 0 && !MailAddress.TryParse(email, out _, out var problem))
            {
                Wrong("email", $"'{email}' {problem}.");
            }

            var language = Cell("language") is { Length: > 0 } said ? said : "en";
            if (!TextLanguage.IsTag(language))
            {
                Wrong("language", TextLanguage.NoTag(language));
            }

            var manages = Several("manages");
            foreach (var site in manages.Where(s => !sites.Contains(s)))
            {
                Wrong("manages", $"There is no site '{site}'.{Core.Closest.Hint(site, sites)}");
            }

            foreach (var team in Several("teams").Where(t => !PeopleReader.IsId(t)))
            {
                Wrong("teams", $"'{team}' cannot be a team's id.");
            }

            var person = new Person
            {
                Id = id,
                Name = NameText.Line(Cell("name")) is { Length: > 0 } name ? name : id,
                Email = email.Length > 0 ? email : null,
                Language = language,
                Post = Cell("post") is { Length: > 0 } post ? post : null,
                Teams = [.. Several("teams")],
                Codes = [.. Several("codes")],
                Contacts = [.. Channels.SelectMany(c => Points(c.Name(), c))],
            };
            return new PersonEntry(person, header.Contains("manages") ? manages : null, header.ToHashSet()) { FoundByMail = byMail, Line = line };
        }

        private IEnumerable<ContactPoint> Points(string column, Channel channel)
        {
            var (addresses, problems) = Addresses.Read(channel, Cell(column));
            foreach (var problem in problems)
            {
                Wrong(column, problem);
            }

            return addresses.Select(a => new ContactPoint { Channel = channel, Address = a });
        }

        private string[] Several(string column) => Cell(column).Split([';', ','], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);

        private string Cell(string column) => Array.IndexOf(header, column) is >= 0 and var i && i < csv.FieldCount ? CsvText.Unguarded(csv.GetString(i)) : "";

        private void Wrong(string column, string problem) =>
            errors.Add(new DocumentError(column, line, Math.Max(1, Array.IndexOf(header, column) + 1), problem));
    }
}
