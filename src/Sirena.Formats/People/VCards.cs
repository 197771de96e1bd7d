using System.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Formats.People;

/// <summary>
/// Writes people as vCard 4.0 (RFC 6350). UID is the id, FN the name, TITLE what they do, LANG the language, CATEGORIES the teams, EMAIL, TEL and IMPP the
/// contact points. No package of the
/// kind restores here, so this writes, and <see cref="VCardReader"/> reads, the part that people need.
/// </summary>
public static class VCards
{
    /// <summary>What stands before an id of ours in a card's UID.</summary>
    internal const string IdPrefix = "urn:sirena:person:";

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
                    case Channel.Mail:
                        Line(text, "EMAIL;TYPE=work", point.Address);
                        break;
                    case Channel.Sms:
                        Line(text, "TEL;VALUE=uri;TYPE=\"work,text\"", "tel:" + point.Address);
                        break;
                    case Channel.Chat:
                        Line(text, "IMPP", "xmpp:" + Uri.EscapeDataString(point.Address));
                        break;
                }
            }

            Line(text, "END", "VCARD");
        }

        return text.ToString();
    }

    private static string Escape(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal)
            .Replace("\n", "\\n", StringComparison.Ordinal)
            .Replace(",", "\\,", StringComparison.Ordinal)
            .Replace(";", "\\;", StringComparison.Ordinal);

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
}
