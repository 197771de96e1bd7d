using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Engine.Decide;

/// <summary>
/// What is to go with a mail, noted as the message is written; it is made or fetched when the message goes out, so that neither holds up deciding.
/// </summary>
public static class Packing
{
    /// <summary>The note for a reader, JSON, or <see langword="null"/> for nothing.</summary>
    public static string? Of(Rule rule, Told told, Facts facts, Surroundings around)
    {
        var person = told.Person is { } id ? around.Staff.Person(id) : null;
        var wanted = new JsonArray();
        foreach (var one in rule.Attach.Where(a => a.Audience is null || a.Audience == told.Audience))
        {
            if (one.Document is { } document)
            {
                wanted.Add(
                    new JsonObject
                    {
                        ["document"] = document.Name(),
                        ["sites"] = new JsonArray([.. document == DocumentKind.PickingList ? SitesOf(person, facts, around).Select(s => (JsonNode)s) : []]),
                    }
                );
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

        return wanted.Count == 0
            ? null
            : new JsonObject
            {
                ["event"] = facts.Event.Id,
                ["audience"] = told.Audience.Name(),
                ["language"] = Surroundings.LanguageOf(told.Audience, person, facts),
                ["wanted"] = wanted,
            }.ToJsonString();
    }

    // The sites of the order that the reader manages, or whose team they are of; none for all.
    private static IEnumerable<string> SitesOf(Person? person, Facts facts, Surroundings around)
    {
        var sites = facts
            .Lines.Select(l => Facts.Member(l, "site"))
            .Append(Facts.Member(facts.Event.After, "site"))
            .Where(s => s.ValueKind == JsonValueKind.String)
            .Select(s => s.GetString()!)
            .Distinct();
        return person is null
            ? []
            : sites.Where(s => around.Staff.Site(s) is { } site && (site.Manager == person.Id || (site.Team is { } team && person.Teams.Contains(team))));
    }
}
