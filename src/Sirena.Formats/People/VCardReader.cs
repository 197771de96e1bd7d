using System.Text;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Formats.Calendars;
using Sirena.Formats.Documents;

namespace Sirena.Formats.People;

/// <summary>
/// Reads vCards as they are met: 4.0 (RFC 6350), 3.0 (RFC 2426) and 2.1 with quoted-printable values. A card changes only what it carries; fax machines, calls
/// over the internet and groups are
/// nobody's messages and left alone.
/// </summary>
public static class VCardReader
{
    private static readonly string[] NoText = ["FAX", "PAGER", "MODEM", "BBS", "ISDN", "VIDEO", "TEXTPHONE"];
    private static readonly string[] Mobile = ["CELL", "TEXT", "MOBILE", "IPHONE"];

    /// <summary>Reads cards; each mistake is named by its line.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="charset">Its declared character set, or <see langword="null"/>.</param>
    public static PeopleDocument Read(byte[] bytes, string? charset)
    {
        var (lines, broken) = ContentLines.Read(bytes, charset);
        if (broken is not null)
        {
            return new PeopleDocument([], [broken], 1);
        }

        var (good, errors, bad) = (new List<PersonEntry>(), new List<DocumentError>(), 0);
        List<CalendarProperty>? card = null;
        var begun = 0;
        for (var i = 0; i < lines.Count; i++)
        {
            var (text, number) = lines[i];
            while (text.EndsWith('=') && text.Contains("QUOTED-PRINTABLE", StringComparison.OrdinalIgnoreCase) && i + 1 < lines.Count)
            {
                text = text[..^1] + lines[++i].Text.TrimStart();
            }

            if (
                CalendarProperty.Read(text, number) is not { } property
                || (card is null && property.Name != "BEGIN")
                || (property.Name is "BEGIN" or "END" && !property.Value.Trim().Equals("VCARD", StringComparison.OrdinalIgnoreCase))
            )
            {
                errors.Add(
                    new DocumentError("", number, 1, $"'{Quoting.Cut(text)}' is no line of a vCard{(card is null ? ": BEGIN:VCARD is expected" : "")}.")
                );
                return new PeopleDocument([], errors, bad + 1);
            }

            if (property.Name == "BEGIN")
            {
                if (card is not null)
                {
                    break;
                }

                (card, begun) = ([], number);
            }
            else if (property.Name == "END")
            {
                var before = errors.Count;
                var entry = Card(card!, begun, errors);
                bad += errors.Count > before ? 1 : 0;
                if (entry is not null && errors.Count == before)
                {
                    good.Add(entry);
                }

                card = null;
            }
            else
            {
                card!.Add(property);
            }
        }

        if (card is not null)
        {
            errors.Add(new DocumentError("", begun, 1, "This card has no END:VCARD. Is the file cut off?"));
            return new PeopleDocument([], errors, bad + 1);
        }

        return good.Count == 0 && errors.Count == 0
            ? new PeopleDocument([], [new DocumentError("", 1, 1, "The text holds no vCard of a person.")], 1)
            : new PeopleDocument(good, errors, bad);
    }

    // Null without a mistake: the card is no person's.
    private static PersonEntry? Card(List<CalendarProperty> card, int line, List<DocumentError> errors)
    {
        CalendarProperty? First(string name) => card.Find(p => Is(p, name));
        string? Value(string name) => First(name) is { } found ? Plain(found, errors) : null;
        if (Value("KIND")?.ToUpperInvariant() is not (null or "INDIVIDUAL") || Value("X-ADDRESSBOOKSERVER-KIND") is not null)
        {
            return null;
        }

        var name = NameText.Line(Value("FN") is { Length: > 0 } full ? full : NameOf(First("N"), errors));
        if (name.Length == 0)
        {
            errors.Add(new DocumentError("FN", line, 1, "The card has no name (FN)."));
        }

        var uid = Value("UID");
        var ours = uid?.StartsWith(VCards.IdPrefix, StringComparison.Ordinal) == true;
        var id = ours ? uid![VCards.IdPrefix.Length..] : PersonId.From(name);
        if (name.Length > 0 && PeopleReader.WhyNoId(id) is { } noId)
        {
            errors.Add(new DocumentError("UID", line, 1, noId));
        }

        var given = new HashSet<string> { "name" };
        string? email = null;
        var points = new List<ContactPoint>();
        foreach (var (property, channel, signIn) in Reached(card, ours))
        {
            var plain = Plain(property, errors);
            var colon = plain.IndexOf(':', StringComparison.Ordinal);
            plain = colon > 0 && plain[..colon].ToLowerInvariant() is "tel" or "mailto" or "xmpp" ? Uri.UnescapeDataString(plain[(colon + 1)..]) : plain;
            var (addresses, problems) = Addresses.Read(channel, plain.Split(';')[0]);
            errors.AddRange(problems.Select(p => new DocumentError(property.Name, property.Line, 1, p)));
            given.Add(signIn ? "email" : channel.Name());
            if (signIn)
            {
                email ??= addresses.Count > 0 ? addresses[0] : null;
            }
            else
            {
                points.AddRange(addresses.Select(a => new ContactPoint { Channel = channel, Address = a }));
            }
        }

        var teams = card.Where(p => Is(p, "CATEGORIES")).SelectMany(p => Plain(p, errors, ",").Split(',')).Select(t => t.Trim()).ToList();
        string[] known = [.. teams.Where(PeopleReader.IsId).Distinct()];
        given.UnionWith(
            new[]
            {
                ("language", Value("LANG") is { } tongue && TextLanguage.IsTag(tongue)),
                ("post", First("TITLE") is not null),
                ("teams", known.Length > 0 || (teams.Count > 0 && teams.All(t => t.Length == 0))),
            }
                .Where(x => x.Item2)
                .Select(x => x.Item1)
        );
        var person = new Person
        {
            Id = id,
            Name = name,
            Email = email,
            Language = Value("LANG") is { } language && TextLanguage.IsTag(language) ? language : "en",
            Post = Value("TITLE") is { Length: > 0 } post ? post : null,
            Teams = [.. known],
            Contacts = points,
        };
        return new PersonEntry(person, null, given) { FoundByMail = !ours, Line = line };
    }

    // What of a card messages can reach. A home address of a card of ours is the one to sign in with; where a card says which number is a mobile, the others
    // are not.
    private static IEnumerable<(CalendarProperty Property, Channel Channel, bool SignIn)> Reached(List<CalendarProperty> card, bool ours)
    {
        foreach (var mail in card.Where(p => Is(p, "EMAIL")))
        {
            yield return (mail, Channel.Mail, ours && Has(mail, ["HOME"]));
        }

        var phones = card.FindAll(p => Is(p, "TEL") && !Has(p, NoText));
        foreach (var phone in phones.Exists(p => Has(p, Mobile)) ? phones.Where(p => Has(p, Mobile)) : phones)
        {
            yield return (phone, Channel.Sms, false);
        }

        foreach (var chat in card.Where(p => Is(p, "IMPP") && p.Value.StartsWith("xmpp:", StringComparison.OrdinalIgnoreCase)))
        {
            yield return (chat, Channel.Chat, false);
        }
    }

    private static bool Is(CalendarProperty property, string name) => property.Name.Split('.')[^1] == name;

    // 4.0 and 3.0 write TYPE=a,b or TYPE="a,b", 2.1 the word alone.
    private static bool Has(CalendarProperty property, string[] types) =>
        property
            .Parameters.ToUpperInvariant()
            .Split([';', ',', '=', '"'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Intersect(types)
            .Any();

    private static string NameOf(CalendarProperty? parts, List<DocumentError> errors) =>
        parts is null ? ""
        : Plain(parts, errors, ";") is var text && text.Split(';') is [var last, var first, ..] ? $"{first.Trim()} {last.Trim()}".Trim()
        : text.Trim();

    private static string Plain(CalendarProperty property, List<DocumentError> errors, string keep = "")
    {
        var value = property.Value;
        if (property.Parameters.Contains("QUOTED-PRINTABLE", StringComparison.OrdinalIgnoreCase))
        {
            var (text, error) = TextBytes.Read(Unquoted(value), property.Parameter("CHARSET"));
            if (error is not null && TextBytes.Read(Unquoted(value), "windows-1252") is { Text: { } western } && property.Parameter("CHARSET") is null)
            {
                (text, error) = (western, null);
            }

            if (error is not null)
            {
                errors.Add(error with { Path = property.Name, Line = property.Line });
            }

            value = text ?? "";
        }

        return Unescape(value, keep).Trim();
    }

    private static byte[] Unquoted(string value)
    {
        var bytes = new List<byte>();
        for (var i = 0; i < value.Length; i++)
        {
            if (
                value[i] == '='
                && i + 2 < value.Length
                && byte.TryParse(
                    value.AsSpan(i + 1, 2),
                    System.Globalization.NumberStyles.HexNumber,
                    System.Globalization.CultureInfo.InvariantCulture,
                    out var octet
                )
            )
            {
                bytes.Add(octet);
                i += 2;
            }
            else
            {
                bytes.AddRange(Encoding.UTF8.GetBytes(value.Substring(i, 1)));
            }
        }

        return [.. bytes];
    }

    // An escaped separator that a caller splits at becomes a space.
    private static string Unescape(string text, string separators)
    {
        var plain = new StringBuilder();
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] == '\\' && i + 1 < text.Length)
            {
                plain.Append(
                    text[++i] is 'n' or 'N' ? '\n'
                    : separators.Contains(text[i], StringComparison.Ordinal) ? ' '
                    : text[i]
                );
            }
            else
            {
                plain.Append(text[i]);
            }
        }

        return plain.ToString();
    }
}
