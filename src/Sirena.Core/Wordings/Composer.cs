using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

/// <summary>Writes the messages of an event for one reader, by any channel.</summary>
public sealed partial class Composer(MessageFacts about)
{
    private readonly OrderEvent happened = about.Facts.Event;
    private readonly OrderValues plain = new(about.Facts, about.Language, about.Audience, about.Names, about.Now, html: false);
    private readonly OrderValues html = new(about.Facts, about.Language, about.Audience, about.Names, about.Now, html: true);

    /// <summary>The message for a channel.</summary>
    /// <param name="channel">The channel.</param>
    /// <param name="parts">The wording's texts.</param>
    public FinishedText For(Channel channel, WordingParts parts)
    {
        var subject = OneLine(Part(parts, "mail.subject", inLine: true));
        return channel switch
        {
            Channel.Mail => Mail(parts, subject),
            Channel.Sms => new FinishedText(subject, Marked(Part(parts, "sms", ValueForm.Line).Trim(), " "), null),
            Channel.Ticket => new FinishedText(subject, Marked(Part(parts, "ticket").Trim(), "\n"), null),
            Channel.Screen => new FinishedText(subject, Marked(Part(parts, "screen").Trim(), "\n"), null),
            Channel.Chat => new FinishedText(subject, Marked(WithAnswer(Part(parts, "chat", ValueForm.Chat).Trim()), "\n"), null),
            _ => new FinishedText(subject, Marked(WithAnswer(Part(parts, "push", ValueForm.Line).Trim()), " "), null),
        };
    }

    // What lay here, not read or not decided, and is told of only now, says so to the staff: they must not take it for news.
    private string Marked(string text, string between) => Late is { } late ? late + between + text : text;

    private string? Late =>
        !happened.DecidedLate || about.Audience != Audience.Staff ? null
        : happened.Received.InZone(about.Facts.Zone).ToString("dd'/'MM HH:mm", System.Globalization.CultureInfo.InvariantCulture) is var came
            ? Say("Late: it came {0}, and is told only now.").Replace("{0}", came, StringComparison.Ordinal)
        : null;

    /// <summary>The value at a path as a text shows it; <see langword="null"/> where this event has none.</summary>
    public string? Value(string path)
    {
        foreach (var lines in new[] { "order.lines.now.", "order.lines.later.", "order.lines." })
        {
            if (
                path.StartsWith(lines, StringComparison.Ordinal)
                && path[lines.Length..] is var member
                && WordingFields.OfLine.Any(f => f.Path == member)
                && MessageWriter.Find([new TextMap(Root)], lines[..^1])?.Items is { } items
            )
            {
                return items.Count == 0 ? null : string.Join(", ", items.Take(5).Select(i => MessageWriter.Find([i], member)?.Show()));
            }
        }

        return MessageWriter.Find([new TextMap(Root)], path) is { } found && (found.Holds || found.Show().Length > 0)
            ? found.Show().Trim(MessageWriter.RawBegin, MessageWriter.RawEnd)
            : null;
    }

    private string Part(WordingParts parts, string name, ValueForm form = ValueForm.Text, bool inLine = false) =>
        FactList.Place(Unplaced(parts, name, form), () => FactsOf(parts, form), inLine ? ValueForm.Line : form);

    // With the mark where the facts come.
    private string Unplaced(WordingParts parts, string name, ValueForm form) =>
        parts.Used(name) is not { } used
            ? MessageWriter.Fit(Headline(), form)
            : MessageWriter.Write(ParsedText.Of(used == "mail.html" ? Bare(parts[used]!) : parts[used]!), WithFacts(parts, Root), form);

    private Func<string, TextValue?> WithFacts(WordingParts parts, Func<string, TextValue?> root) =>
        name => name == Fact.Field ? FactList.Value(() => FactsOf(parts, ValueForm.Text).Count > 0) : root(name);

    private IReadOnlyList<WrittenFact> FactsOf(WordingParts parts, ValueForm form) =>
        FactList.Written(parts.Facts.SelectMany(f => f.Value == OwnField.All ? Own(parts, f) : [f]), form == ValueForm.Html ? RootHtml : Root, form);

    // Fields of the business's own, each a fact behind its own name; one that the wording shows itself is not shown twice.
    private IEnumerable<Fact> Own(WordingParts parts, Fact all) =>
        about
            .Names.OwnFor(about.Audience)
            .Where(o => parts.Facts.All(f => f.Value != o.Path))
            .Select(o => new Fact(o.NameIn(about.Language), o.Path, all.Labelled));

    private FinishedText Mail(WordingParts parts, string subject)
    {
        var unplaced = Marked(Unplaced(parts, "mail.text", ValueForm.Text).Trim(), "\n\n");
        var text = FactList.Place(unplaced, () => FactsOf(parts, ValueForm.Text), ValueForm.Text).Trim();
        var body = parts.Html is { } own
            ? (Late is { } late ? Paragraphs(late) : "")
                + FactList.Place(
                    MessageWriter.Write(ParsedText.Of(own), WithFacts(parts, RootHtml), ValueForm.Html),
                    () => FactsOf(parts, ValueForm.Html),
                    ValueForm.Html
                )
            : FactList.Between(unplaced, () => FactsOf(parts, ValueForm.Html), Paragraphs);
        var written = new StringBuilder(text.ReplaceLineEndings("\r\n")).Append("\r\n");
        foreach (var (label, link) in Links().Where(l => !text.Contains(l.Link, StringComparison.Ordinal)))
        {
            written.Append("\r\n").Append(label).Append(": ").Append(link);
        }

        if (about.Branding.Footer.Length > 0)
        {
            written.Append("\r\n\r\n").Append(about.Branding.Footer);
        }

        return new FinishedText(
            subject,
            written.Append("\r\n\r\n").Append(about.Business).Append(about.Audience == Audience.Customer ? "" : ", by Sirena").Append("\r\n").ToString(),
            Layout(subject, body)
        );
    }

    // Chat and push carry the way to answer wherever the wording does not say it itself.
    private string WithAnswer(string text) =>
        about.Answer is not { } ways || text.Contains(ways.Link, StringComparison.Ordinal) ? text : $"{text}\n{Say("I have it")}: {ways.Link}";

    private IEnumerable<(string Label, string Link)> Links()
    {
        if (about.Answer is { } ways)
        {
            yield return (Say("I have it"), ways.Link);
        }

        if (about.Audience == Audience.Customer)
        {
            yield break;
        }

        yield return (Say("The order and its trail"), OrderLink);
        if (about.ReaderId is not null && about.Delivery is not null)
        {
            yield return (Say("Why was I told"), WhyLink);
            yield return (Say("Change what I am told"), SettingsLink);
        }
    }

    private string OrderLink => happened.OrderNumber is { } order ? $"{about.BaseAddress}/orders/{Uri.EscapeDataString(order)}" : $"{about.BaseAddress}/orders";

    private string WhyLink => $"{about.BaseAddress}/mine/why/{about.Delivery}";

    private string SettingsLink => $"{about.BaseAddress}/people/{about.ReaderId}";

    private string Say(string english) => about.Language.Text(english);

    private TextValue? Root(string name) => Own(name, plain);

    // Only lines look otherwise in HTML: what the plain text has read is not read again.
    private TextValue? RootHtml(string name) =>
        name == "order" ? new TextMap(part => (part == "lines" ? html : plain).Root("order")?.Part(part)) : Own(name, html);

    private TextValue? Own(string name, OrderValues values) =>
        name switch
        {
            "business" => Map(p =>
                p switch
                {
                    "name" => about.Business,
                    "footer" => about.Branding.Footer,
                    _ => null,
                }
            ),
            "recipient" => Map(p => p == "name" ? about.Reader : null),
            "answer" => about.Answer is { } ways
                ? Map(p =>
                    p switch
                    {
                        "link" => ways.Link,
                        "code" => ways.Code,
                        _ => null,
                    }
                )
                : null,
            "links" => Map(p =>
                p switch
                {
                    "order" => OrderLink,
                    "why" => about.Delivery is null ? "" : WhyLink,
                    "settings" => about.ReaderId is null ? "" : SettingsLink,
                    _ => null,
                }
            ),
            "next" => about.Next is { } next
                ? new TextMap(p =>
                    p switch
                    {
                        "who" => new PlainValue(next.Who),
                        "at" => new FieldValue(
                            JsonSerializer.SerializeToElement(NodaTime.Text.InstantPattern.ExtendedIso.Format(next.At)),
                            FieldType.Time,
                            about.Language,
                            about.Facts.Zone,
                            about.Now,
                            ""
                        ),
                        _ => null,
                    }
                )
                : null,
            "alert" => new TextMap(p =>
                p switch
                {
                    "rule" => new PlainValue(about.Rule.Length > 0 ? about.Rule : values.Root("alert")?.Part("ruleName")?.Show() ?? ""),
                    "case" => new PlainValue(about.Case),
                    "urgency" => new PlainValue(about.Urgency),
                    "because" => new PlainValue(about.Language.Say(about.Because)),
                    "also" => new TextList([.. about.Others.Select(o => (TextValue)new PlainValue(o))]),
                    _ => values.Root("alert")?.Part(p),
                }
            ),
            "event" => new TextMap(p =>
                p switch
                {
                    "name" => new PlainValue(about.Language.Event(happened.Type)),
                    "what" => new PlainValue(What()),
                    _ => values.Root("event")?.Part(p),
                }
            ),
            _ => values.Root(name),
        };

    private static TextMap Map(Func<string, string?> part) => new(p => part(p) is { } text ? new PlainValue(text) : null);

    private string Headline() =>
        happened.OrderNumber is { } number ? $"{number}: {What()}" : $"{about.Language.Event(happened.Type)} {happened.Subject}".Trim();

    // What happened, with the detail that matters; to a customer never why.
    private string What()
    {
        var name = about.Language.Event(happened.Type);
        name = happened.OrderNumber is null ? name : Sentences.Small(name);
        string? Read(params string[] path) =>
            MessageWriter.Find([new TextMap(plain.Root)], string.Join('.', path)) is { } found && found.Show() is { Length: > 0 } text ? text : null;
        return happened.Type switch
        {
            EventTypes.StatusChanged => Read("order", "status") is { } status ? $"{name} {about.Language.Word("to")} {status}" : name,
            "order.held" when about.Audience == Audience.Staff && Read("order", "hold", "reason") is { } reason => $"{name}, {reason}",
            "order.risk-flagged" when about.Audience == Audience.Staff && Read("order", "risk", "level") is { } level => $"{name}, {level}",
            "order.note-added" when about.Audience == Audience.Staff && Read("note", "text") is { } note => $"{name}, “{note}”",
            _ => name,
        };
    }

    private static string OneLine(string text) => Spaces().Replace(text, " ").Trim();

    private static string Bare(string html) => Tags().Replace(Breaks().Replace(html, "\n"), "");

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();

    [GeneratedRegex("<br ?/?>|</p>|</tr>|</li>|</h[1-6]>", RegexOptions.IgnoreCase)]
    private static partial Regex Breaks();

    [GeneratedRegex("<[^>]*>")]
    private static partial Regex Tags();

    [GeneratedRegex(@"https?://[^\s<>&""']+(?:&amp;[^\s<>&""']+)*")]
    private static partial Regex Linked();
}
