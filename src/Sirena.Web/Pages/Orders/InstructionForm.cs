using System.Text.Json.Nodes;
using Sirena.Core.Instructions;
using Sirena.Engine.Instructions;
using Sirena.Formats.Documents;

namespace Sirena.Web.Pages.Orders;

/// <summary>An instruction as a form gives it.</summary>
public static class InstructionForm
{
    /// <summary>Its members, as a document that the reader checks; what was left empty is left out.</summary>
    public static MapNode Members(IFormCollection form, InstructionKind kind) => Node(With(form, kind));

    /// <summary>Members as a document that the reader checks.</summary>
    public static MapNode Node(JsonObject with) => (MapNode)DocumentText.Read(with.ToJsonString(), yaml: false).Node!;

    /// <summary>What is said when one that waited was let go or stopped.</summary>
    public static string? Settled(WishEnd ended, bool stop) =>
        ended.Status != 200 ? ended.Problem
        : stop ? "It is stopped; nothing was asked of the order system."
        : "It goes now.";

    /// <summary>The same as an object.</summary>
    public static JsonObject With(IFormCollection form, InstructionKind kind)
    {
        var with = new JsonObject();
        foreach (var member in kind.Members)
        {
            var typed = form["with." + member.Name].ToString().Trim();
            JsonNode? value = member.Type switch
            {
                _ when typed.Length == 0 => null,
                MemberType.YesNo => typed == "true",
                MemberType.Texts => new JsonArray([
                    .. typed.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(t => (JsonNode)t),
                ]),
                _ => typed,
            };
            if (value is not null)
            {
                with[member.Name] = value;
            }
        }

        return with;
    }

    /// <summary>Whom the event is to tell, as the form says: <c>customer</c>, <c>staff</c>, <c>nobody</c>, else both.</summary>
    public static TellChoice? Tell(IFormCollection form, string by) =>
        form["tell"].ToString() switch
        {
            "customer" => new TellChoice(true, false, by),
            "staff" => new TellChoice(false, true, by),
            "nobody" => new TellChoice(false, false, by),
            _ => null,
        };
}
