using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;
using Sirena.Web.Pages.Rules;

namespace Sirena.Web.Pages.Sources;

public sealed partial class IndexModel
{
    // The form as the document that everything else sends.
    private static JsonObject Document(IFormCollection form, bool isNew)
    {
        string? Said(string name) => form[name].ToString().Trim() is { Length: > 0 } text ? text : null;
        var document = new JsonObject
        {
            ["name"] = Said("name"),
            ["prefix"] = form["prefix"].ToString().Trim(),
            ["on"] = form["on"].Contains("true"),
            ["silence"] = new JsonObject { ["watch"] = form["watch"].Contains("true") },
        };
        document["limit"] = int.TryParse(Said("limit"), out var limit) ? limit : -1;
        if (isNew)
        {
            document["kind"] = Said("kind");
        }

        if (form.ContainsKey("key") && (!isNew || Said("kind") == "listing"))
        {
            document["listing"] = new JsonObject
            {
                ["role"] = Said("role"),
                ["key"] = Said("key"),
                ["gone"] = Said("gone") ?? "nothing",
                ["charset"] = Said("charset") ?? "utf-8",
                ["url"] = form["url"].ToString().Trim(),
                ["schedule"] = form["schedule"].ToString().Trim(),
                ["folder"] = form["folder"].ToString().Trim(),
            };
        }

        var proof = (Said("kind") is "events" or "listing" ? "key" : Said("proof")) switch
        {
            "basic" => new JsonObject { ["basic"] = new JsonObject { ["user"] = Said("user") } },
            "signature" => new JsonObject
            {
                ["signature"] = new JsonObject
                {
                    ["header"] = Said("header"),
                    ["algorithm"] = Said("algorithm"),
                    ["encoding"] = Said("encoding"),
                    ["before"] = Said("before") ?? "",
                    ["timeHeader"] = Said("timeHeader"),
                },
            },
            "standardWebhooks" => new JsonObject { ["standardWebhooks"] = true },
            "inAddress" => new JsonObject { ["inAddress"] = true },
            _ => new JsonObject { ["key"] = true },
        };
        if (Said("secret") is { } secret)
        {
            proof["secret"] = secret;
        }

        document["proof"] = proof;
        if (form.ContainsKey("takes.asked"))
        {
            document["takes"] = new JsonArray([
                .. form["takes"].OfType<string>().Select(t => (t.StartsWith('{') ? TypedJson.Read(t) : null) ?? JsonValue.Create(t)),
            ]);
            document["instructionsTo"] = form["instructionsTo"].ToString().Trim();
            document["seenWithin"] = Said("seenWithin") is { } sight ? RuleDraft.Span(sight) : null;
            document["tryFor"] = Said("tryFor") is { } tries ? RuleDraft.Span(tries) : null;
            document["instructionsSecret"] = Said("instructionsSecret");
            document["intake"] =
                Said("intakeFrom") is { } from && Said("intakeTo") is { } to
                    ? new JsonObject
                    {
                        ["open"] = new JsonArray(
                            new JsonObject
                            {
                                ["days"] = new JsonArray([.. form["intakeDays"].OfType<string>().Select(d => (JsonNode)d)]),
                                ["from"] = from,
                                ["to"] = to,
                            }
                        ),
                        ["exceptions"] = Exceptions(form["intakeExceptions"].ToString()),
                        ["holidays"] = form["intakeHolidays"].Contains("true"),
                    }
                    : "always";
        }

        return document;
    }

    /// <summary>The days on which a source takes orders otherwise, one a line, as they are typed.</summary>
    public string ExceptionsOf(Source source) =>
        source.IntakeHours is not { } plan
            ? ""
            : string.Join(
                '\n',
                plan.Exceptions.Select(x =>
                    $"{NodaTime.Text.LocalDatePattern.Iso.Format(x.Date)}"
                    + $"{(x.From is { } from ? $" {from.ToString("HH:mm", null)}-{x.To?.ToString("HH:mm", null)}" : "")}"
                    + $"{(x.Name is { } name ? " " + name : "")}"
                )
            );

    // One a line: the day, perhaps from-to, and why.
    private static JsonArray Exceptions(string typed)
    {
        var all = new JsonArray();
        foreach (var line in typed.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var parts = line.Split(' ', 3, StringSplitOptions.RemoveEmptyEntries);
            var hours =
                parts.Length > 1 && parts[1].Split('-') is [var from, var to] && from.Contains(':', StringComparison.Ordinal)
                    ? (from, to)
                    : ((string, string)?)null;
            all.Add(
                (JsonNode)
                    new JsonObject
                    {
                        ["date"] = parts[0],
                        ["from"] = hours?.Item1,
                        ["to"] = hours?.Item2,
                        ["name"] = hours is null
                            ? string.Join(' ', parts.Skip(1)) is { Length: > 0 } name
                                ? name
                                : null
                            : parts.Length > 2
                                ? parts[2]
                                : null,
                    }
            );
        }

        return all;
    }
}
