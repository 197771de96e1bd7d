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

    /// <summary>How many rows of usual hours the form has: to the last that is filled in, and one more where there is one.</summary>
    public int RowsOf(Source source)
    {
        var there = Typed is { } typed
            ? Enumerable.Range(0, RowsOf(typed)).LastOrDefault(i => (Time(typed, i, "from") + Time(typed, i, "to")).Length > 0, -1) + 1
            : source.IntakeHours?.Open.Count ?? 0;
        return there == 0 ? 1 : there + 1;
    }

    private static int RowsOf(IFormCollection form) => Enumerable.Range(0, form.Count).TakeWhile(i => form.ContainsKey($"intake.{i}.from")).Count();

    // The usual hours, a row for each. A row of which nothing is filled in is none; one of which half is, is asked about.
    private static JsonArray Spans(IFormCollection form) =>
        new([
            .. Enumerable
                .Range(0, RowsOf(form))
                .Select(i => (From: Time(form, i, "from"), To: Time(form, i, "to"), Days: form[$"intake.{i}.days"]))
                .Where(row => row.From.Length + row.To.Length > 0)
                .Select(row =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["days"] = new JsonArray([.. row.Days.OfType<string>().Select(d => (JsonNode)d)]),
                            ["from"] = row.From,
                            ["to"] = row.To,
                        }
                ),
        ]);

    private static string Time(IFormCollection form, int row, string end) => WhenText.Clocked(form[$"intake.{row}.{end}"].ToString().Trim());

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
