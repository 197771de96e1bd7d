using System.Text.Json;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Notices;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine.Intake;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;

namespace Sirena.Engine.Decide;

/// <summary>
/// What is told without a rule of the supervisor's: a note tells whom it names, a notice whom it is for. Each becomes an alert like any other, so that its proof and its answers are the same.
/// </summary>
public static class OwnRules
{
    /// <summary>The id under which a note's alerts stand.</summary>
    public const string Note = "sirena.note";

    /// <summary>The id under which a notice's alerts stand.</summary>
    public const string Notice = "sirena.notice";

    private static readonly Ways EveryChannel = new([Channel.Screen, Channel.Push, Channel.Chat, Channel.Mail, Channel.Sms], false, NodaTime.Duration.Zero);

    /// <summary>Whether an id is one of these.</summary>
    public static bool IsOwn(string rule) => rule is Note or Notice;

    /// <summary>Its name, or <see langword="null"/> for another id.</summary>
    public static string? NameOf(string rule) => rule switch { Note => "Note", Notice => "Notice", _ => null };

    /// <summary>What an event tells by itself.</summary>
    public static IEnumerable<Decision> Matches(OrderEvent happened, Surroundings around)
    {
        var rule = happened.Type switch
        {
            "order.note-added" => OfNote(happened, around),
            EventTypes.NoticeSent when happened.Source == OwnEvents.Source => OfNotice(happened),
            _ => null,
        };
        return rule is null ? [] : [new Decision(rule, 0, Outcome.Matched, rule.Cases[0], [])];
    }

    private static Rule? OfNote(OrderEvent happened, Surroundings around)
    {
        var note = Facts.Member(happened.DataJson, "note");
        List<Recipient> tell = [.. Mentions.Find(Facts.InWords(Facts.Member(note, "text")), around.Staff)];
        if (happened.Source == OwnEvents.Source && Facts.Member(note, "visibleToCustomer").ValueKind == JsonValueKind.True)
        {
            tell.Add(new RoleRecipient(OrderRole.Customer));
        }

        return tell.Count == 0 ? null : Of(Note, happened.Type, Urgency.Prompt, tell, EveryChannel, Note);
    }

    private static Rule? OfNotice(OrderEvent happened)
    {
        var notice = Facts.Member(happened.DataJson, "notice");
        if (notice.ValueKind != JsonValueKind.Object || DocumentText.Read(notice.GetRawText(), yaml: false).Node is not MapNode map || RuleReader.ReadTelling(map, null) is not { Errors.Count: 0 } telling)
        {
            return null;
        }

        return Of(Notice, happened.Type, Names.Parse<Urgency>(Facts.InWords(Facts.Member(notice, "urgency"))) ?? Urgency.Prompt, telling.Tell, telling.By ?? EveryChannel, Notice);
    }

    private static Rule Of(string id, string type, Urgency urgency, IEnumerable<Recipient> tell, Ways by, string wording) => new()
    {
        Id = id,
        Name = NameOf(id)!,
        When = [type],
        Urgency = urgency,
        MayOptOut = false,
        Short = true,
        Cases = [new RuleCase { Name = "always", Tell = [.. tell], By = by, Wording = wording }],
    };
}
