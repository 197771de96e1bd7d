using System.Text.Json.Nodes;
using Sirena.Core.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>A page on which recipients are chosen.</summary>
public interface IRecipientSheet
{
    /// <summary>The address that its buttons post to.</summary>
    string Self { get; }

    /// <summary>Who and what there is.</summary>
    Engine.Surroundings Around { get; }

    /// <summary>The moment.</summary>
    Shared.DeskTime Clock { get; }

    /// <summary>Recipients may be named by their part in an order.</summary>
    bool OnOrder { get; }
}

/// <summary>
/// A recipient in the editor: <c>person:ines.calder</c>, <c>team:kitchen</c>, <c>role:salesperson</c>, or <c>address</c> with the address beside it;
/// empty while nobody is chosen, which an empty map stands for.
/// </summary>
public sealed record DraftRecipient(string Who, string Address, bool Permitted = true)
{
    /// <summary>What a document's recipients show.</summary>
    public static IReadOnlyList<DraftRecipient> All(JsonArray tell) => [.. tell.OfType<JsonObject>().Select(Of)];

    /// <summary>Reads all of a place.</summary>
    public static JsonArray Read(IFormCollection form, string place)
    {
        var all = new JsonArray();
        for (var i = 0; form.ContainsKey($"{place}.tell.{i}"); i++)
        {
            all.Add(Write(form[$"{place}.tell.{i}"].ToString(), form[$"{place}.address.{i}"].ToString(), form[$"{place}.forbidden.{i}"].ToString() != "true"));
        }

        return all;
    }

    /// <summary>A copy of recipients without those that nobody chose yet.</summary>
    public static JsonArray Chosen(JsonArray tell) => new([.. tell.OfType<JsonObject>().Where(r => r.Count > 0).Select(r => r.DeepClone())]);

    private static DraftRecipient Of(JsonObject map)
    {
        var (kind, permitted) = (RecipientKinds.All.FirstOrDefault(k => map.ContainsKey(k.Member)), (bool?)map["outside"] == true);
        return kind is null ? new("", "")
            : kind.Holds == RecipientHolds.Address ? new(kind.Member, map.Text(kind.Member), permitted)
            : new($"{(permitted ? "outside" : kind.Member)}:{map.Text(kind.Member)}", "");
    }

    private static JsonObject Write(string who, string address, bool permitted)
    {
        if (who.Length == 0)
        {
            return [];
        }

        if (who.Split(':', 2) is [var kind, var id])
        {
            return kind == "outside" ? new JsonObject { ["person"] = id, ["outside"] = true } : new JsonObject { [kind] = id };
        }

        var map = new JsonObject { ["address"] = address.Trim() };
        if (permitted)
        {
            map["outside"] = true;
        }

        return map;
    }
}

/// <summary>By which channels, in the editor.</summary>
/// <param name="Map">It in the document.</param>
public sealed record DraftWays(JsonObject Map)
{
    /// <summary>One after the other until one lands.</summary>
    public bool First => Map.ContainsKey("firstThatLands");

    /// <summary>The channels' names in order.</summary>
    public IReadOnlyList<string> Channels => [.. Map.List(First ? "firstThatLands" : "allAtOnce").Select(c => c?.ToString() ?? "")];

    /// <summary>How long each has to land, as typed.</summary>
    public string Wait => Map.Span("wait");

    /// <summary>Reads it; <see langword="null"/> where the place has no channels of its own.</summary>
    public static JsonObject? Read(IFormCollection form, string place)
    {
        var how = form[place + ".how"].ToString();
        if (how is not ("all" or "first"))
        {
            return null;
        }

        var channels = new JsonArray();
        for (var i = 0; form.ContainsKey($"{place}.channel.{i}"); i++)
        {
            channels.Add(form[$"{place}.channel.{i}"].ToString());
        }

        if (channels.Count == 0)
        {
            channels.Add("mail");
        }

        var map = new JsonObject { [how == "first" ? "firstThatLands" : "allAtOnce"] = channels };
        if (how == "first" && form[place + ".wait"].ToString().Trim() is { Length: > 0 } wait)
        {
            map["wait"] = RuleDraft.Span(wait);
        }

        return map;
    }
}
