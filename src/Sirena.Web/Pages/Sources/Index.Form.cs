using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Instructions;
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
            var spans = Spans(form);
            var exceptions = Exceptions(form["intakeExceptions"].ToString());
            document["intake"] =
                spans.Count > 0 || exceptions.Count > 0
                    ? new JsonObject
                    {
                        ["open"] = spans,
                        ["exceptions"] = exceptions,
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

    /// <summary>How many rows of usual hours the form has: those that there are, and one more where there is one.</summary>
    public int RowsOf(Source source)
    {
        var there = Typed is { } typed
            ? Enumerable.Range(0, MostSpans).Count(i => (typed[$"intake.{i}.from"].ToString() + typed[$"intake.{i}.to"]).Trim().Length > 0)
            : source.IntakeHours?.Open.Count ?? 0;
        return there == 0 ? 1 : Math.Min(there + 1, MostSpans);
    }

    private const int MostSpans = 20;

    // The usual hours, a row for each. A row of which nothing is filled in is none; one of which half is, is asked about.
    private static JsonArray Spans(IFormCollection form)
    {
        var all = new JsonArray();
        for (var i = 0; i < MostSpans && form.ContainsKey($"intake.{i}.from"); i++)
        {
            string Time(string end) =>
                form[$"intake.{i}.{end}"].ToString().Trim() is var typed && WhenText.ReadTime(typed) is { } time ? time.ToString("HH:mm", null) : typed;
            var (from, to) = (Time("from"), Time("to"));
            if (from.Length + to.Length > 0)
            {
                all.Add(
                    (JsonNode)
                        new JsonObject
                        {
                            ["days"] = new JsonArray([.. form[$"intake.{i}.days"].OfType<string>().Select(d => (JsonNode)d)]),
                            ["from"] = from,
                            ["to"] = to,
                        }
                );
            }
        }

        return all;
    }

    // One a line.
    private static JsonArray Exceptions(string typed) =>
        new([
            .. typed
                .Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                .Select(IntakeLine.Read)
                .Select(day =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["date"] = day.Date,
                            ["from"] = day.From,
                            ["to"] = day.To,
                            ["name"] = day.Name,
                        }
                ),
        ]);
}
