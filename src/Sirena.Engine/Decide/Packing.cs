using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Engine.Decide;

/// <summary>What is to go with a mail, noted as the message is written; it is made or fetched when the message goes out, so that neither holds up deciding.</summary>
public static class Packing
{
    /// <summary>The note for a reader, JSON, or <see langword="null"/> for nothing.</summary>
    public static string? Of(Rule rule, Told told, Facts facts, Surroundings around)
    {
        var audience = told.Customer ? Audience.Customer : told.Person is null ? Audience.Outside : Audience.Staff;
        var wanted = new JsonArray();
        foreach (var one in rule.Attach.Where(a => a.Audience is null || a.Audience == audience))
        {
            if (one.Document is { } document)
            {
                wanted.Add(new JsonObject { ["document"] = document.Name(), ["sites"] = new JsonArray([.. document == DocumentKind.PickingList ? SitesOf(told, facts, around).Select(s => (JsonNode)s) : []]) });
            }
            else if (FieldCatalogue.Find(one.File!) is { } field && facts.Read(field) is { ValueKind: JsonValueKind.String } address)
            {
                wanted.Add(new JsonObject { ["file"] = address.GetString() });
            }
        }

        if (OwnRules.IsOwn(rule.Id) && Facts.Member(Facts.Member(facts.Event.DataJson, "note"), "picture") is { ValueKind: JsonValueKind.String } picture)
        {
            wanted.Add(new JsonObject { ["picture"] = picture.GetString() });
        }

        return wanted.Count == 0 ? null : new JsonObject { ["event"] = facts.Event.Id, ["audience"] = audience.Name(), ["language"] = Language(audience, told, facts, around), ["wanted"] = wanted }.ToJsonString();
    }

    // The sites of the order that the reader manages, or whose team they are of; none for all.
    private static IEnumerable<string> SitesOf(Told told, Facts facts, Surroundings around)
    {
        var sites = facts.Lines.Select(l => Facts.Member(l, "site")).Append(Facts.Member(facts.Event.After, "site")).Where(s => s.ValueKind == JsonValueKind.String).Select(s => s.GetString()!).Distinct();
        var person = told.Person is { } id ? around.Staff.Person(id) : null;
        return person is null ? [] : sites.Where(s => around.Staff.Site(s) is { } site && (site.Manager == person.Id || (site.Team is { } team && person.Teams.Contains(team))));
    }

    private static string Language(Audience audience, Told told, Facts facts, Surroundings around) => audience switch
    {
        Audience.Customer => Facts.Member(Facts.Member(facts.Event.After, "customer"), "language") is { ValueKind: JsonValueKind.String } language ? language.GetString()! : "en",
        Audience.Staff => around.Staff.Person(told.Person!)?.Language ?? "en",
        _ => "en",
    };
}
