using System.Text.Json;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Wordings;
using Sirena.Formats.Documents;
using Sirena.Formats.Wordings;
using Sirena.Storage;
using Sirena.Storage.Orders;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Wording;

/// <summary>The words of messages: written with fields as words, seen as their reader would get them while they are typed.</summary>
[Authorize(Policies.SeeAll)]
public sealed partial class IndexModel(SirenaDb db, WordingDesk desk, Gateways gateways) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => $"wording:{Id}";

    /// <summary>The channels' tabs for the chosen reader: who is not of the staff has those that tell anybody only, unless a text is there already.</summary>
    public IEnumerable<ChannelTraits> Shelves =>
        ChannelTraits.All.Where(t => For == Core.People.Audience.Staff || t.ToAnybody || t.Parts.Any(p => Parts[p.Name] is not null));

    /// <summary>The wording that is edited.</summary>
    [BindProperty(SupportsGet = true)]
    public string Id { get; set; } = "order-held";

    /// <summary>For whom.</summary>
    [BindProperty(SupportsGet = true)]
    public string Audience { get; set; } = "staff";

    /// <summary>In which language.</summary>
    [BindProperty(SupportsGet = true)]
    public string Language { get; set; } = "en";

    /// <summary>The channel whose tab is open.</summary>
    [BindProperty(SupportsGet = true)]
    public string Tab { get; set; } = "mail";

    /// <summary>The order whose values are shown.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Order { get; set; }

    /// <summary>The event that is told of; the wording's own where none is chosen.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Event { get; set; }

    /// <summary>Who would read it.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Person { get; set; }

    /// <summary>Shipped and changed stand beside each other.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Compare { get; set; }

    /// <summary>The wording, or <see langword="null"/> for a new one.</summary>
    public Core.Wordings.Wording? Wording { get; private set; }

    /// <summary>Its name.</summary>
    public string Name { get; private set; } = "";

    /// <summary>The texts in the form.</summary>
    public WordingParts Parts { get; private set; } = new();

    /// <summary>The mistakes.</summary>
    public IReadOnlyList<PartMistake> Mistakes { get; private set; } = [];

    /// <summary>A mistake of no part.</summary>
    public string? Problem { get; private set; }

    /// <summary>The preview; <see langword="null"/> while the texts have mistakes.</summary>
    public Preview? Shown { get; private set; }

    /// <summary>The names of the fields in the shown text that the order lacks; those of a list that is empty are not named one by one.</summary>
    public IReadOnlyList<string> Missing { get; private set; } = [];

    /// <summary>The event that is shown.</summary>
    public string ShownEvent { get; private set; } = "";

    /// <summary>When the shown event happened to the order; <see langword="null"/> where it never did and is imagined.</summary>
    public Instant? Happened { get; private set; }

    /// <summary>The events that a preview can stand on.</summary>
    public IEnumerable<string> Events => Around.EventTypesKnown.Where(t => t != EventTypes.NoticeSent).Append(ShownEvent).Where(t => t.Length > 0).Distinct();

    /// <summary>Other readers and languages in which it says something else than what ships.</summary>
    public IEnumerable<WordingText> ChangedElsewhere =>
        ShippedWordings.Find(Id) is not { } shipped
            ? []
            : (Wording?.Texts ?? []).Where(t =>
                (t.Audience, t.Language) != (For, Language)
                && shipped.Texts.FirstOrDefault(s => (s.Audience, s.Language) == (t.Audience, t.Language))?.Parts != t.Parts
            );

    /// <summary>The fields with their values in the chosen order.</summary>
    public IReadOnlyList<(TextFieldInfo Field, string? Value)> Values { get; private set; } = [];

    /// <summary>The rules that use each wording.</summary>
    public ILookup<string, Rule> Users { get; private set; } = null!;

    /// <summary>It ships, and was changed.</summary>
    public bool Changed => Around.Wordings.ContainsKey(Id) && ShippedWordings.Find(Id) is not null;

    /// <summary>When and by whom it was saved last.</summary>
    public StoredWording? Saved { get; private set; }

    /// <summary>The audience.</summary>
    public Audience For => Names.Parse<Audience>(Audience) ?? Core.People.Audience.Staff;

    /// <summary>The channel of the open tab.</summary>
    public Channel Channel => Names.Parse<Channel>(Tab) is { } own && Shelves.Any(t => t.Channel == own) ? own : Channel.Mail;

    /// <summary>Every wording.</summary>
    public IEnumerable<Core.Wordings.Wording> All => Around.AllWordings;

    /// <summary>The names of fields for the editor, JSON by path.</summary>
    public string FieldNames =>
        JsonSerializer.Serialize(WordingFields.All.Concat(WordingFields.OfLine).DistinctBy(f => f.Path).ToDictionary(f => f.Path, f => f.Name));

    /// <summary>What an SMS costs by its first gateway, each segment; <see langword="null"/> where no price is known.</summary>
    public decimal? SegmentCost => Around.Gateways.FirstOrDefault(g => g is { Channel: Channel.Sms, On: true })?.SegmentCost;

    /// <summary>Shows one.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        await LoadAsync(cancel);
        Parts = Wording?.For(For, Language) is { } text && text.Language == Language ? text.Parts : new WordingParts();
        await ShowAsync(cancel);
    }

    /// <summary>Draws the preview and the fields of what is being typed.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostPreviewAsync(CancellationToken cancel)
    {
        await LoadAsync(cancel);
        await ReadAsync(cancel);
        await ShowAsync(cancel);
        return Partial("_Preview", this);
    }

    /// <summary>The mail's HTML as it is being typed, alone in a sandbox.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostPageAsync(bool dark, CancellationToken cancel)
    {
        await LoadAsync(cancel);
        await ReadAsync(cancel);
        await ShowAsync(cancel);
        var html = Shown?.Messages.GetValueOrDefault(Channel.Mail)?.Html ?? "<!doctype html><p>The text has a mistake.</p>";
        return Sandboxed(dark ? html.Replace("<body style=\"", "<body style=\"background:#1d2327;color:#e8e6e1;", StringComparison.Ordinal) : html);
    }

    /// <summary>Orders by anything on them.</summary>
    public async Task<IActionResult> OnGetOrdersAsync(string? find, CancellationToken cancel)
    {
        var found = await db.Orders.AsNoTracking().Finding(find).OrderByDescending(o => o.DueAt).Take(8).ToListAsync(cancel);
        return new JsonResult(found.Select(o => new { number = o.Number, label = $"{o.Number} {o.Customer} {Around.OwnValuesOf(o)}".Trim() }));
    }

    /// <summary>Every wording as a YAML file.</summary>
    public IActionResult OnGetExport() =>
        File(
            System.Text.Encoding.UTF8.GetBytes(
                YamlText.Write(new System.Text.Json.Nodes.JsonArray([.. All.Select(w => (System.Text.Json.Nodes.JsonNode)WordingReader.Write(w))]))
            ),
            "application/yaml",
            "wordings.yaml"
        );

    /// <summary>Takes wordings in from a YAML or JSON file, all or none.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        using var reader = new StreamReader(file?.OpenReadStream() ?? Stream.Null);
        var (read, errors) = file is { Length: > 0 and <= 1 << 20 }
            ? WordingReader.Read(
                await reader.ReadToEndAsync(cancel),
                !file.FileName.EndsWith(".json", StringComparison.OrdinalIgnoreCase),
                null,
                await desk.SeenAsync(cancel)
            )
            : ([], [new DocumentError("", null, null, "Choose a file of at most 1 MB.")]);
        if (errors.Count == 0)
        {
            // What says the same as what ships stays as it ships.
            var changed = read.Where(w =>
                    WordingReader.Write(w).ToJsonString() != (Around.Wording(w.Id) is { } now ? WordingReader.Write(now).ToJsonString() : null)
                )
                .ToArray();
            await desk.SaveAsync(changed, User.Name(), cancel);
            Said = $"{changed.Length} of {read.Count} wordings were different and are taken in.";
            return Redirect(Address());
        }

        var first = errors.Take(4).Select(e => e.Line is { } line ? $"Line {line}, column {e.Column}: {e.Problem}" : e.Problem);
        Problem = $"Nothing was taken in. {string.Join(" ", first)}";
        Response.StatusCode = 422;
        await OnGetAsync(cancel);
        return Page();
    }

    /// <summary>Saves it, sets it back, sends it to oneself, or makes a new one.</summary>
    public async Task<IActionResult> OnPostAsync(string? act, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        await LoadAsync(cancel);
        await ReadAsync(cancel);
        switch (act)
        {
            case "back":
                Problem = await desk.RemoveAsync(Id, User.Name(), cancel);
                if (Problem is null)
                {
                    Said = ShippedWordings.Find(Id) is null ? "It is removed." : "It is as it was shipped again, from the next message on.";
                    return Redirect(ShippedWordings.Find(Id) is null ? "/wording" : Address());
                }

                break;
            case "me" when Mistakes.Count == 0:
                await ShowAsync(cancel);
                SaidHere = await SendAsync(cancel);
                break;
            case "save" when await SaveAsync(cancel):
                Said = "Saved. In force from the next message on.";
                return Redirect(Address());
            default:
                Problem ??= Mistakes.Count > 0 ? "Not saved: the mistakes below come first." : null;
                Response.StatusCode = 422;
                break;
        }

        await ShowAsync(cancel);
        return Page();
    }

    /// <summary>This page's address with other choices.</summary>
    public string Address(string? id = null, string? audience = null, string? language = null, bool compare = false) =>
        "/wording"
        + QueryString.Create(
            new Dictionary<string, string?>
            {
                ["id"] = id ?? Id,
                ["audience"] = audience ?? Audience,
                ["language"] = language ?? Language,
                ["tab"] = Tab,
                ["order"] = Order,
                ["event"] = id is null ? Event : null,
                ["person"] = Person,
                ["compare"] = compare ? "true" : null,
            }.Where(p => !string.IsNullOrEmpty(p.Value))
        );

    /// <summary>The mistakes of a part.</summary>
    public IEnumerable<PartMistake> At(string part) => Mistakes.Where(m => m.Part == part);
}
