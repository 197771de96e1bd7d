using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Deliveries;
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
/// A recipient in the editor: <c>person:ines.calder</c>, <c>team:kitchen</c>, <c>role:salesperson</c>, or <c>address</c> with the address beside it.
/// </summary>
public sealed record DraftRecipient(string Who, string Address, bool Permitted = true)
{
    /// <summary>Nobody chosen yet.</summary>
    public static DraftRecipient None => new("", "");

    /// <summary>What a document's recipient shows.</summary>
    public static DraftRecipient Of(Recipient recipient) =>
        RecipientKinds.Find(recipient.Member) is { Holds: RecipientHolds.Address } kind
            ? new(kind.Member, recipient.Id, recipient.Permitted)
            : new(recipient.Permitted ? "outside:" + recipient.Id : recipient.Key, "");

    /// <summary>Reads all of a place.</summary>
    public static IEnumerable<DraftRecipient> Read(IFormCollection form, string place)
    {
        for (var i = 0; form.ContainsKey($"{place}.tell.{i}"); i++)
        {
            yield return new DraftRecipient(
                form[$"{place}.tell.{i}"].ToString(),
                form[$"{place}.address.{i}"].ToString(),
                form[$"{place}.forbidden.{i}"].ToString() != "true"
            );
        }
    }

    /// <summary>The document's recipients; those that nobody chose yet are left out.</summary>
    public static JsonArray Write(IEnumerable<DraftRecipient> all) => new([.. all.Where(r => r.Who.Length > 0).Select(r => (JsonNode)r.Write())]);

    private JsonObject Write()
    {
        if (Who.Split(':', 2) is [var kind, var id])
        {
            return kind == "outside" ? new JsonObject { ["person"] = id, ["outside"] = true } : new JsonObject { [kind] = id };
        }

        var map = new JsonObject { ["address"] = Address.Trim() };
        if (Permitted)
        {
            map["outside"] = true;
        }

        return map;
    }
}

/// <summary>By which channels, in the editor.</summary>
public sealed class DraftWays
{
    /// <summary>One after the other until one lands.</summary>
    public bool First { get; set; }

    /// <summary>The channels' names in order.</summary>
    public List<string> Channels { get; } = [];

    /// <summary>How long each has to land, as typed.</summary>
    public string Wait { get; set; } = "";

    /// <summary>What a document's ways show; <see langword="null"/> where it has none.</summary>
    public static DraftWays? Of(Ways? ways)
    {
        if (ways is null)
        {
            return null;
        }

        var made = new DraftWays { First = ways.FirstThatLands, Wait = ways.FirstThatLands ? ways.Wait.ExactWords() : "" };
        made.Channels.AddRange(ways.Channels.Select(c => c.Name()));
        return made;
    }

    /// <summary>Reads it; <see langword="null"/> where the place has no channels of its own.</summary>
    public static DraftWays? Read(IFormCollection form, string place)
    {
        if (form[place + ".how"].ToString() is not ("all" or "first"))
        {
            return null;
        }

        var made = new DraftWays { First = form[place + ".how"].ToString() == "first", Wait = form[place + ".wait"].ToString() };
        for (var i = 0; form.ContainsKey($"{place}.channel.{i}"); i++)
        {
            made.Channels.Add(form[$"{place}.channel.{i}"].ToString());
        }

        if (made.Channels.Count == 0)
        {
            made.Channels.Add("mail");
        }

        return made;
    }

    /// <summary>The document's <c>by</c>.</summary>
    public JsonObject Write()
    {
        var map = new JsonObject { [First ? "firstThatLands" : "allAtOnce"] = new JsonArray([.. Channels.Where(c => c.Length > 0).Select(c => (JsonNode)c)]) };
        if (First && Wait.Trim().Length > 0)
        {
            map["wait"] = RuleDraft.Span(Wait);
        }

        return map;
    }
}
