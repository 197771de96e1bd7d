using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Formats.Documents;

namespace Sirena.Web.Pages.Rules;

/// <summary>What a rule asks of the order system, in the editor: when, what, and with what.</summary>
/// <param name="Map">It in the open document: its <c>moment</c>, and <c>ask</c>, which is what a document has for it.</param>
public sealed record DraftAct(JsonObject Map)
{
    /// <summary>At once.</summary>
    public const string Now = "now";

    /// <summary>Offered to whoever is told.</summary>
    public const string Offered = "offer";

    /// <summary>When a message of the alert has landed.</summary>
    public const string Landed = "landed";

    private static readonly JsonSerializerOptions Readable = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary><c>now</c>, <c>offer</c>, <c>landed</c>, or the answer that sets it off.</summary>
    public string Moment => Map.Text("moment");

    /// <summary>The kind's name; empty while none is chosen.</summary>
    public string Kind => Ask is JsonObject ask ? ask.Select(m => m.Key).FirstOrDefault("") : Ask?.ToString() ?? "";

    /// <summary>Its main member as typed; several tags with commas between; all members as JSON where there are others.</summary>
    public string Value
    {
        get
        {
            if (With is not JsonObject members)
            {
                return Plain(With);
            }

            var (rest, main) = (members.DeepClone().AsObject(), InstructionKinds.Find(Kind)?.Main);
            rest.Remove(YesNoOf(Kind)?.Name ?? "");
            return rest.Count == 0 ? ""
                : main is not null && rest.Count == 1 && rest[main] is { } only ? Plain(only)
                : rest.ToJsonString(Readable);
        }
    }

    /// <summary>What can only be yes or no of it: the goods go back, the customer reads it.</summary>
    public bool Yes => YesNoOf(Kind) is { } member && With is JsonObject members && InstructionKinds.Yes(members, member.Name);

    private JsonNode? Ask => Map["ask"];

    private JsonNode? With => (Ask as JsonObject)?.Select(m => m.Value).FirstOrDefault();

    private static string Plain(JsonNode? value) =>
        value switch
        {
            null => "",
            JsonArray list => string.Join(", ", list.Select(t => t!.ToString())),
            JsonValue text when text.TryGetValue<string>(out var plain) => plain,
            _ => value.ToJsonString(Readable),
        };

    private static InstructionMember? YesNoOf(string kind) => InstructionKinds.Find(kind)?.Members.FirstOrDefault(m => m.Type == MemberType.YesNo);

    /// <summary>The moments that a case has, with what they are called.</summary>
    public static IReadOnlyList<(string Moment, string Words)> Moments { get; } =
    [
        (Now, "at once"),
        .. AnswerTraits.All.Select(a => (a.Kind.Name(), $"when somebody {a.When}")),
        (Landed, "when a message has landed"),
        (Offered, "offer a button to"),
    ];

    /// <summary>One of an open document.</summary>
    public static JsonObject Make(string moment, JsonNode ask) => new() { ["moment"] = moment, ["ask"] = ask };

    /// <summary>Reads those at a place of the form, in its order.</summary>
    public static JsonArray Read(IFormCollection form, string place)
    {
        var (moments, kinds, values, yes) = (form[place + ".do.when"], form[place + ".do.kind"], form[place + ".do.value"], form[place + ".do.yes"]);
        return new JsonArray([
            .. kinds.Select(
                (kind, i) =>
                    (JsonNode)Make(
                        moments.ElementAtOrDefault(i) is { Length: > 0 } moment ? moment : Now,
                        AskOf(kind ?? "", (values.ElementAtOrDefault(i) ?? "").Trim(), yes.ElementAtOrDefault(i) == "true")
                    )
            ),
        ]);
    }

    private static JsonNode AskOf(string kind, string typed, bool yes)
    {
        var (yesNo, main) = (yes ? YesNoOf(kind)?.Name : null, InstructionKinds.Find(kind)?.Main);

        // What cannot be read stays as typed, and the reader says what is wrong with it.
        var value = typed.StartsWith('{') && !typed.StartsWith("{{", StringComparison.Ordinal) ? TypedJson.Read(typed) : null;
        var tags = main is not null && InstructionKinds.Find(kind)?.Member(main) is { Type: MemberType.Texts };
        value ??=
            typed.Length == 0 ? null
            : tags ? new JsonArray([.. typed.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(t => (JsonNode)t)])
            : JsonValue.Create(typed);
        if (yesNo is null)
        {
            return value is null ? JsonValue.Create(kind) : new JsonObject { [kind] = value };
        }

        var members = value as JsonObject ?? (value is null || main is null ? [] : new JsonObject { [main] = value });
        members[yesNo] = true;
        return new JsonObject { [kind] = members };
    }
}
