using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>What a rule asks of the order system, in the editor: when, what, and with what.</summary>
public sealed class DraftAct
{
    /// <summary>At once.</summary>
    public const string Now = "now";

    /// <summary>Offered to whoever is told.</summary>
    public const string Offered = "offer";

    /// <summary>When a message of the alert has landed.</summary>
    public const string Landed = "landed";

    private static readonly JsonSerializerOptions Readable = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary><c>now</c>, <c>offer</c>, or the answer that sets it off.</summary>
    public string Moment { get; set; } = Now;

    /// <summary>The kind's name.</summary>
    public string Kind { get; set; } = "";

    /// <summary>Its main member as typed; several tags with commas between; all members as JSON where there are others.</summary>
    public string Value { get; set; } = "";

    /// <summary>What can only be yes or no of it: the goods go back, the customer reads it.</summary>
    public bool Yes { get; set; }

    private static InstructionMember? YesNoOf(string kind) => InstructionKinds.Find(kind)?.Members.FirstOrDefault(m => m.Type == MemberType.YesNo);

    /// <summary>The moments that a case has, with what they are called.</summary>
    public static IReadOnlyList<(string Moment, string Words)> Moments { get; } =
    [
        (Now, "at once"),
        .. AnswerTraits.All.Select(a => (a.Kind.Name(), $"when somebody {a.When}")),
        (Landed, "when a message has landed"),
        (Offered, "offer a button to"),
    ];

    /// <summary>What a document's case shows.</summary>
    public static IEnumerable<DraftAct> Of(RuleCase one) =>
        one
            .Do.Select(d => Of(d, Now))
            .Concat(one.OnAnswer.SelectMany(a => a.Do.Select(d => Of(d, a.Answer.Name()))))
            .Concat(one.OnLanded.Select(d => Of(d, Landed)))
            .Concat(one.Offer.Select(d => Of(d, Offered)));

    /// <summary>What one shows.</summary>
    public static DraftAct Of(InstructionAsk ask, string moment)
    {
        var with = ask.Members;
        var yesNo = YesNoOf(ask.Kind)?.Name;
        var yes = yesNo is not null && InstructionKinds.Yes(with, yesNo);
        if (yesNo is not null)
        {
            with.Remove(yesNo);
        }

        var main = InstructionKinds.Find(ask.Kind)?.Main;
        var value =
            with.Count == 0 ? ""
            : main is not null && with.Count == 1 && with[main] is { } only
                ? only is JsonArray list ? string.Join(", ", list.Select(t => t!.ToString()))
                    : only is JsonValue text && text.TryGetValue<string>(out var plain) ? plain
                    : only.ToJsonString()
            : with.ToJsonString(Readable);
        return new DraftAct
        {
            Moment = moment,
            Kind = ask.Kind,
            Value = value,
            Yes = yes,
        };
    }

    /// <summary>Reads those at a place of the form.</summary>
    public static IEnumerable<DraftAct> Read(IFormCollection form, string place)
    {
        var (moments, kinds, values, yes) = (form[place + ".do.when"], form[place + ".do.kind"], form[place + ".do.value"], form[place + ".do.yes"]);
        for (var i = 0; i < kinds.Count; i++)
        {
            yield return new DraftAct
            {
                Moment = i < moments.Count ? moments[i] ?? Now : Now,
                Kind = kinds[i] ?? "",
                Value = i < values.Count ? values[i] ?? "" : "",
                Yes = i < yes.Count && yes[i] == "true",
            };
        }
    }

    /// <summary>Writes them into a case's or a step's map.</summary>
    /// <param name="map">The map.</param>
    /// <param name="acts">All of its place.</param>
    public static void Write(JsonObject map, IReadOnlyCollection<DraftAct> acts)
    {
        Put(map, "do", acts.Where(a => a.Moment == Now));
        Put(map, "offer", acts.Where(a => a.Moment == Offered));
        Put(map, "onLanded", acts.Where(a => a.Moment == Landed));
        var answers = new JsonObject();
        foreach (var answer in Names.All<AnswerKind>())
        {
            Put(answers, answer, acts.Where(a => a.Moment == answer));
        }

        if (answers.Count > 0)
        {
            map["onAnswer"] = answers;
        }
    }

    private static void Put(JsonObject map, string name, IEnumerable<DraftAct> acts)
    {
        JsonNode[] written = [.. acts.Where(a => a.Kind.Length > 0).Select(a => a.Write())];
        if (written.Length > 0)
        {
            map[name] = new JsonArray(written);
        }
    }

    private JsonNode Write()
    {
        var (typed, yesNo) = (Value.Trim(), Yes ? YesNoOf(Kind)?.Name : null);
        var main = InstructionKinds.Find(Kind)?.Main;
        JsonNode? value = null;
        if (typed.StartsWith('{') && !typed.StartsWith("{{", StringComparison.Ordinal))
        {
            try
            {
                value = JsonNode.Parse(typed);
            }
            catch (JsonException)
            {
                // It stays as typed, and the reader says what is wrong with it.
            }
        }

        var tags = main is not null && InstructionKinds.Find(Kind)?.Member(main) is { Type: MemberType.Texts };
        value ??=
            typed.Length == 0 ? null
            : tags ? new JsonArray([.. typed.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(t => (JsonNode)t)])
            : JsonValue.Create(typed);
        if (yesNo is null)
        {
            return value is null ? JsonValue.Create(Kind) : new JsonObject { [Kind] = value };
        }

        var members = value as JsonObject ?? (value is null || main is null ? [] : new JsonObject { [main] = value });
        members[yesNo] = true;
        return new JsonObject { [Kind] = members };
    }
}
