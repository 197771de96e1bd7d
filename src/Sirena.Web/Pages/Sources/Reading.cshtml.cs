using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Sources;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Sources;

/// <summary>A reading put together by clicking the values of a real body; the draft is read over the last bodies at every change.</summary>
[Authorize(Policies.Change)]
public sealed partial class ReadingModel(SourceShelf shelf, SourceDesk desk, SourceFigures figures, ReadingTrial trial) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => $"source:{Id}";

    /// <summary>The source.</summary>
    [BindProperty(SupportsGet = true)]
    public string Id { get; set; } = "";

    /// <summary>The body that is looked at.</summary>
    [BindProperty(SupportsGet = true)]
    public long? Body { get; set; }

    /// <summary>The field that is open.</summary>
    [BindProperty]
    public string? Open { get; set; }

    /// <summary>The place that was clicked while no field was open.</summary>
    public BodyPath? Place { get; private set; }

    /// <summary>The source as it is.</summary>
    public Source Source { get; private set; } = null!;

    /// <summary>The draft.</summary>
    public ReadingDraft Draft { get; private set; } = null!;

    /// <summary>It differs from what is in force.</summary>
    public bool Dirty { get; private set; }

    /// <summary>The mistakes of the draft.</summary>
    public IReadOnlyList<DocumentError> Errors { get; private set; } = [];

    /// <summary>The last bodies, the newest first.</summary>
    public IReadOnlyList<ArrivedBody> Last { get; private set; } = [];

    /// <summary>What each becomes.</summary>
    public IReadOnlyList<TriedBody> Tried { get; private set; } = [];

    /// <summary>The values of the last bodies that can be read at all.</summary>
    public IReadOnlyList<JsonElement> Values { get; private set; } = [];

    /// <summary>The body that is looked at, or <see langword="null"/>.</summary>
    public ArrivedBody? Shown { get; private set; }

    /// <summary>Its values; undefined where it cannot be read.</summary>
    public JsonElement Root { get; private set; }

    /// <summary>What it becomes.</summary>
    public BodyResult? Result { get; private set; }

    /// <summary>What is proposed for fields that are not filled.</summary>
    public Proposal? Proposed { get; private set; }

    /// <summary>The fields that can be filled; in a list the difference says which event it is and when.</summary>
    public IEnumerable<string> Fields =>
        Source.Kind != SourceKind.Listing
            ? ReadingDraft.Fields
            : ReadingDraft.Fields.Where(f => f.Contains('.', StringComparison.Ordinal) && !f.StartsWith("order.lines.", StringComparison.Ordinal));

    /// <summary>The page's own address.</summary>
    public string Self => $"/sources/{Uri.EscapeDataString(Id)}/reading?handler=Change";

    /// <summary>Shows the reading in force.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await LoadAsync(null, cancel) ? Page() : NotFound();

    /// <summary>Changes the draft.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostChangeAsync(string? draft, string? act, string? pick, CancellationToken cancel)
    {
        if (!await LoadAsync(draft, cancel))
        {
            return NotFound();
        }

        await ActAsync(act ?? (pick is { Length: > 0 } ? "open:" + pick : ""), cancel);
        Read(await trial.TryAsync(Parsed() ?? new Reading(), Last, cancel));
        return Page();
    }

    /// <summary>Saves the draft: it is in force for the next body.</summary>
    public async Task<IActionResult> OnPostSaveAsync(string? draft, CancellationToken cancel)
    {
        if (!await LoadAsync(draft, cancel))
        {
            return NotFound();
        }

        var (node, _) = DocumentText.Read(new JsonObject { ["reading"] = Draft.Document.DeepClone() }.ToJsonString(), yaml: false);
        var saved = await desk.SaveAsync(Id, node!, User.Name(), cancel);
        if (saved.Source is null)
        {
            Errors = saved.Errors;
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }

        Said = $"Reading {saved.Source.ReadingVersion} is in force for the next body.";
        return Redirect("/sources?id=" + Uri.EscapeDataString(Id));
    }

    /// <summary>What a field becomes of the body that is looked at, or <see langword="null"/>.</summary>
    public string? Outcome(string field)
    {
        if (Result is not { Events.Count: > 0 } result)
        {
            return null;
        }

        var made = result.Events[0];
        if (field is "event" or "time" or "id")
        {
            return field switch
            {
                "event" => EventTypes.Name(made.Type),
                "id" => made.Id,
                _ => made.Time is { } at ? Clock.Full(at) : null,
            };
        }

        var inLines = field.StartsWith("order.lines.", StringComparison.Ordinal);
        JsonNode? node = made.Data;
        foreach (var name in (inLines ? "order.lines" : field).Split('.'))
        {
            node = (node as JsonObject)?[name];
        }

        node = inLines ? (node as JsonArray)?.FirstOrDefault()?[field["order.lines.".Length..]] : node;
        return node switch
        {
            null => null,
            JsonArray list => string.Join(", ", list.Select(n => n?.ToString())),
            _ when ReadingDraft.HowOf(field) == ReadAs.Time && Core.Orders.Fields.Facts.Time(node.ToString()) is { } time => Clock.Full(time),
            _ when field == "order.status" => Around.Statuses.FirstOrDefault(s => s.Id == Around.Words.IdOf(node.ToString()))?.Name
                ?? node + " (no status has this word)",
            _ => node.ToString(),
        };
    }

    /// <summary>The words that stood at a field's place in the last bodies, the most frequent first.</summary>
    public IReadOnlyList<(string Word, int Count)> Words(string field)
    {
        if (Draft.PathOf(field) is not { } path)
        {
            return [];
        }

        var whole = Draft.Each is { } each && field != "event" ? path.Steps.Aggregate(each, (p, s) => p.Then(s)) : path;
        if (field.StartsWith("order.lines.", StringComparison.Ordinal) && Draft.Lines is { } lines)
        {
            whole = path.Steps.Aggregate(Draft.Each is { } e ? lines.Steps.Aggregate(e, (p, s) => p.Then(s)) : lines, (p, s) => p.Then(s));
        }

        var seen = Values
            .SelectMany(v => whole.In(v))
            .Select(f => f.Value)
            .Where(v => v.ValueKind is JsonValueKind.String or JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False)
            .Select(v => v.ToString().Trim())
            .Where(w => w.Length is > 0 and <= 60)
            .GroupBy(w => w)
            .OrderByDescending(g => g.Count())
            .ThenBy(g => g.Key, StringComparer.Ordinal)
            .Take(24)
            .Select(g => (g.Key, g.Count()))
            .ToList();
        var known = (Draft.Get(field)?["words"] as JsonObject)?.Select(w => w.Key).Where(k => seen.All(s => s.Key != k)) ?? [];
        return [.. seen, .. known.Select(k => (k, 0))];
    }

    private Reading? Parsed()
    {
        var (reading, errors) = ReadingReader.Read(Draft.Document.ToJsonString(), yaml: false, Source.Kind);
        Errors = errors;
        return reading;
    }

    private async Task<bool> LoadAsync(string? draft, CancellationToken cancel)
    {
        if (await shelf.FindAsync(Id, cancel) is not { Source: { Kind: SourceKind.Calls or SourceKind.Listing } source })
        {
            return false;
        }

        (Source, Draft) = (source, ReadingDraft.Parse(draft ?? source.Reading, source.Kind == SourceKind.Listing));
        Dirty = draft is not null && !JsonNode.DeepEquals(Draft.Document, source.Reading is { } there ? JsonNode.Parse(there) : new JsonObject());
        Last = await trial.LastAsync(Id, ReadingTrial.Most, cancel);
        Values = ReadingTrial.Values(Last);
        await ShowAsync(cancel);
        var reading = Parsed();
        Read(await trial.TryAsync(reading ?? new Reading(), Last, cancel));
        var broken = Tried.Where(t => t.Result.Problems.Count > 0).ToArray();
        if (
            Body is null
            && reading is not null
            && (broken.FirstOrDefault(t => t.Result.Problems[0].Path != "$") ?? broken.FirstOrDefault()) is { Id: { } first }
        )
        {
            Body = first;
            await ShowAsync(cancel);
            Read(Tried);
        }

        return true;
    }

    private async Task ShowAsync(CancellationToken cancel)
    {
        Shown =
            Body is { } number ? Last.FirstOrDefault(b => b.Id == number) ?? await figures.BodyAsync(Id, number, cancel)
            : Last.Count > 0 ? Last[0]
            : null;
        Root = Shown is null ? default : BodyText.Read(Shown.Content!, Shown.MediaType).Root;
    }

    private void Read(IReadOnlyList<TriedBody> tried)
    {
        Tried = tried;
        Result = Shown is null || Errors.Count > 0 ? null : tried.FirstOrDefault(t => t.Id == Shown.Id)?.Result;
    }
}
