using System.Collections.Immutable;
using System.Text.Json;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Notices;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine.Intake;
using Sirena.Formats.Rules;

namespace Sirena.Engine.Decide;

/// <summary>
/// What is told without a rule of the supervisor's: a note tells whom it names, a notice whom it is for. Each becomes an alert like any other, so that its
/// proof and its answers are the same.
/// </summary>
public static class OwnRules
{
    /// <summary>The id under which a note's alerts stand.</summary>
    public const string Note = "sirena.note";

    /// <summary>The id under which a notice's alerts stand.</summary>
    public const string Notice = "sirena.notice";

    /// <summary>The id under which the alerts of instructions stand that need somebody's yes.</summary>
    public const string Instruction = "sirena.instruction";

    /// <summary>Every channel at once, but for tickets.</summary>
    public static Ways EveryChannel { get; } = new([Channel.Screen, Channel.Push, Channel.Chat, Channel.Mail, Channel.Sms], false, Duration.Zero);

    /// <summary>Whether an id is one of these.</summary>
    public static bool IsOwn(string rule) => rule is Note or Notice or Instruction;

    /// <summary>Its name, or <see langword="null"/> for another id.</summary>
    public static string? NameOf(string rule) =>
        rule switch
        {
            Note => "Note",
            Notice => "Notice",
            Instruction => "Instruction",
            _ => null,
        };

    /// <summary>What an event tells by itself.</summary>
    public static IEnumerable<Decision> Matches(OrderEvent happened, Surroundings around)
    {
        var rule = happened.Type switch
        {
            "order.note-added" => OfNote(happened, around),
            EventTypes.NoticeSent when happened.Source == OwnEvents.Source => OfNotice(happened),
            _ when happened.Source == OwnEvents.Source && happened.Type.StartsWith("instruction.", StringComparison.Ordinal) => OfInstruction(happened),
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

    // Whose yes an instruction needs, and whoever is to know that rules go in a circle.
    private static Rule? OfInstruction(OrderEvent happened) =>
        Facts.Member(happened.DataJson, "instruction") is { ValueKind: JsonValueKind.Object } said
        && Facts.Member(said, "tell") is { ValueKind: JsonValueKind.Array } tell
        && tell.GetArrayLength() > 0
        && TellingReader.ReadTelling(
            new System.Text.Json.Nodes.JsonObject { ["tell"] = System.Text.Json.Nodes.JsonNode.Parse(tell.GetRawText()) }.ToJsonString()
        )
            is { Errors.Count: 0 } telling
            ? Of(Instruction, happened.Type, Urgency.Prompt, telling.Tell, EveryChannel, Instruction)
            : null;

    private static Rule? OfNotice(OrderEvent happened)
    {
        var notice = Facts.Member(happened.DataJson, "notice");
        if (notice.ValueKind != JsonValueKind.Object || TellingReader.ReadTelling(notice.GetRawText()) is not { Errors.Count: 0 } telling)
        {
            return null;
        }

        var asks = Facts.Member(notice, "ask").ValueKind != JsonValueKind.False;
        var rule = Of(
            Notice,
            happened.Type,
            Names.Parse<Urgency>(Facts.InWords(Facts.Member(notice, "urgency"))) ?? Urgency.Prompt,
            telling.Tell,
            telling.By ?? EveryChannel,
            Notice
        );
        return rule with
        {
            Cases =
            [
                rule.Cases[0] with
                {
                    Name = asks ? "asks" : Tells,
                    Ladder =
                        asks && Facts.Member(notice, "remindMinutes") is { ValueKind: JsonValueKind.Number } remind && remind.TryGetInt32(out var minutes)
                            ? Reminders(telling.Tell, minutes, Facts.InWords(Facts.Member(notice, "then")))
                            : [],
                },
            ],
        };
    }

    /// <summary>The name of the case that asks for no answer.</summary>
    public const string Tells = "tells";

    private static ImmutableArray<LadderStep> Reminders(IEnumerable<Recipient> tell, int minutes, string then)
    {
        var first = new LadderStep(StepClock.After, Duration.FromMinutes(minutes), [.. tell], null, null);
        return then.Length == 0
            ? [first]
            : [first, new LadderStep(StepClock.After, Duration.FromMinutes(2 * minutes), [new PersonRecipient(then)], null, null)];
    }

    private static Rule Of(string id, string type, Urgency urgency, IEnumerable<Recipient> tell, Ways by, string wording) =>
        new()
        {
            Id = id,
            Name = NameOf(id)!,
            When = [type],
            Urgency = urgency,
            MayOptOut = false,
            Short = true,
            Cases =
            [
                new RuleCase
                {
                    Name = "always",
                    Tell = [.. tell],
                    By = by,
                    Wording = wording,
                },
            ],
        };
}
