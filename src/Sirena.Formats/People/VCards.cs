using System.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Formats.Documents;

namespace Sirena.Formats.People;

/// <summary>
/// People as vCard 4.0 (RFC 6350). UID is the id, FN the name, TITLE what they do, LANG the language, CATEGORIES the teams, EMAIL, TEL and IMPP the contact points. No package of the kind
/// restores here, so this reads and writes the part that people need.
/// </summary>
public static class VCards
{
    private const string IdPrefix = "urn:sirena:person:";

    /// <summary>Writes people, a card each.</summary>
    public static string Write(IEnumerable<Person> people)
    {
        var text = new StringBuilder();
        foreach (var p in people)
        {
            var words = p.Name.Split(' ');
            Line(text, "BEGIN", "VCARD");
            Line(text, "VERSION", "4.0");
            Line(text, "UID", IdPrefix + p.Id);
            Line(text, "FN", Escape(p.Name));
            Line(text, "N", $"{Escape(words.Length > 1 ? words[^1] : p.Name)};{Escape(words.Length > 1 ? string.Join(' ', words[..^1]) : "")};;;");
            Line(text, "LANG", p.Language);
            if (p.Post is not null)
            {
                Line(text, "TITLE", Escape(p.Post));
            }

            if (p.Teams.Count > 0)
            {
                Line(text, "CATEGORIES", string.Join(',', p.Teams.Select(Escape)));
            }

            if (p.Email is not null)
            {
                Line(text, "EMAIL;TYPE=home", p.Email);
            }

            foreach (var point in p.Contacts)
            {
                switch (point.Channel)
                {
                    case Channel.Mail: Line(text, "EMAIL;TYPE=work", point.Address); break;
                    case Channel.Sms: Line(text, "TEL;VALUE=uri;TYPE=\"work,text\"", "tel:" + point.Address); break;
                    case Channel.Chat: Line(text, "IMPP", "xmpp:" + Uri.EscapeDataString(point.Address)); break;
                }
            }

            Line(text, "END", "VCARD");
        }

        return text.ToString();
    }

    /// <summary>Reads cards; each mistake is named by its line.</summary>
    public static PeopleDocument Read(string text)
    {
        var (good, errors, bad) = (new List<PersonEntry>(), new List<DocumentError>(), 0);
        List<(string Name, string Value, int Line)>? card = null;
        foreach (var (line, number) in Unfolded(text))
        {
            var colon = Colon(line);
            if (colon < 0)
            {
                errors.Add(new DocumentError("", number, 1, $"'{Cut(line)}' is no line of a vCard: a colon is expected."));
                bad++;
                continue;
            }

            var (name, value) = (line[..colon], line[(colon + 1)..]);
            if (name.Equals("BEGIN", StringComparison.OrdinalIgnoreCase))
            {
                card = [];
            }
            else if (name.Equals("END", StringComparison.OrdinalIgnoreCase) && card is not null)
            {
                var before = errors.Count;
                var entry = Person(card, number, errors);
                if (errors.Count == before && good.Exists(g => g.Person.Id == entry.Person.Id))
                {
                    errors.Add(new DocumentError("UID", number, 1, $"'{entry.Person.Id}' stands twice in the file."));
                }

                if (errors.Count > before)
                {
                    bad++;
                }
                else
                {
                    good.Add(entry);
                }

                card = null;
            }
            else
            {
                card?.Add((name, value, number));
            }
        }

        if (card is not null)
        {
            errors.Add(new DocumentError("", null, null, "The last card has no END:VCARD."));
            bad++;
        }

        return good.Count == 0 && errors.Count == 0 ? new PeopleDocument([], [new DocumentError("", 1, 1, "The text holds no vCard.")], 1) : new PeopleDocument(good, errors, bad);
    }

    private static PersonEntry Person(List<(string Name, string Value, int Line)> card, int end, List<DocumentError> errors)
    {
        string? First(string name) => card.Where(l => Is(l.Name, name)).Select(l => Unescape(l.Value)).FirstOrDefault();
        var name = First("FN") ?? "";
        if (name.Length == 0)
        {
            errors.Add(new DocumentError("FN", end, 1, "The card has no name (FN)."));
        }

        var uid = First("UID");
        var id = uid is not null && uid.StartsWith(IdPrefix, StringComparison.Ordinal) ? uid[IdPrefix.Length..] : Rules.RuleReader.IdFrom(name).Replace('-', '.');
        if (!PeopleReader.IsId(id))
        {
            errors.Add(new DocumentError("UID", end, 1, $"'{id}' cannot be an id: lower-case letters, digits, dots, hyphens and underscores."));
        }

        string? email = null;
        var points = new List<ContactPoint>();
        foreach (var (property, value, line) in card)
        {
            var channel = Is(property, "EMAIL") ? Channel.Mail : Is(property, "TEL") ? Channel.Sms : Is(property, "IMPP") ? Channel.Chat : (Channel?)null;
            if (channel is null)
            {
                continue;
            }

            var plain = Unescape(value);
            plain = plain.StartsWith("tel:", StringComparison.OrdinalIgnoreCase) || plain.StartsWith("mailto:", StringComparison.OrdinalIgnoreCase) || channel == Channel.Chat ? Uri.UnescapeDataString(plain[(plain.IndexOf(':', StringComparison.Ordinal) + 1)..]) : plain;
            var (addresses, problems) = Addresses.Read(channel.Value, plain.Split(';')[0]);
            errors.AddRange(problems.Select(p => new DocumentError(property.Split(';')[0].ToUpperInvariant(), line, 1, p)));
            if (channel == Channel.Mail && property.Contains("TYPE=home", StringComparison.OrdinalIgnoreCase) && addresses.Count > 0)
            {
                email ??= addresses[0];
            }
            else
            {
                points.AddRange(addresses.Select(a => new ContactPoint { Channel = channel.Value, Address = a }));
            }
        }

        var person = new Person
        {
            Id = id,
            Name = name,
            Email = email,
            Language = First("LANG") is { Length: > 0 } language ? language : "en",
            Post = First("TITLE"),
            Teams = [.. card.Where(l => Is(l.Name, "CATEGORIES")).SelectMany(l => l.Value.Split(',')).Select(t => Unescape(t).Trim()).Where(PeopleReader.IsId).Distinct()],
            Contacts = points,
        };
        return new PersonEntry(person, null, new HashSet<string> { "name", "email", "language", "post", "teams", "mail", "sms", "chat" });
    }

    private static bool Is(string property, string name) => property.Split(';')[0].Split('.')[^1].Equals(name, StringComparison.OrdinalIgnoreCase);

    // RFC 6350, 3.2: a line that begins with white space goes on with the one before it.
    private static IEnumerable<(string Line, int Number)> Unfolded(string text)
    {
        var (held, at, number) = ((string?)null, 0, 0);
        foreach (var raw in text.Split('\n'))
        {
            number++;
            var line = raw.TrimEnd('\r');
            if (held is not null && line.Length > 0 && line[0] is ' ' or '\t')
            {
                held += line[1..];
                continue;
            }

            if (held is { Length: > 0 })
            {
                yield return (held, at);
            }

            (held, at) = (line, number);
        }

        if (held is { Length: > 0 })
        {
            yield return (held, at);
        }
    }

    // The colon that ends the name is the first one outside quotes.
    private static int Colon(string line)
    {
        var quoted = false;
        for (var i = 0; i < line.Length; i++)
        {
            quoted ^= line[i] == '"';
            if (line[i] == ':' && !quoted)
            {
                return i;
            }
        }

        return -1;
    }

    private static string Escape(string text) => text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\n", "\\n", StringComparison.Ordinal).Replace(",", "\\,", StringComparison.Ordinal).Replace(";", "\\;", StringComparison.Ordinal);

    private static string Unescape(string text)
    {
        var plain = new StringBuilder();
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] == '\\' && i + 1 < text.Length)
            {
                plain.Append(text[++i] is 'n' or 'N' ? '\n' : text[i]);
            }
            else
            {
                plain.Append(text[i]);
            }
        }

        return plain.ToString();
    }

    // Lines are folded at 75 octets.
    private static void Line(StringBuilder text, string name, string value)
    {
        var octets = 0;
        foreach (var rune in $"{name}:{value}".EnumerateRunes())
        {
            if (octets + rune.Utf8SequenceLength > 75)
            {
                text.Append("\r\n ");
                octets = 1;
            }

            text.Append(rune.ToString());
            octets += rune.Utf8SequenceLength;
        }

        text.Append("\r\n");
    }

    private static string Cut(string text) => text.Length > 40 ? text[..40] + "…" : text;
}
