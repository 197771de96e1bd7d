using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Orders;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Sources;

/// <summary>How orders come in: each source with its day, what arrived, what was not understood, what was refused.</summary>
[Authorize(Policies.SeeAll)]
public sealed partial class IndexModel(
    SourceFigures figures,
    SourceDesk desk,
    ArrivalReader reader,
    ReadingTrial trial,
    SourceShelf shelf,
    Engine.Instructions.InstructionDesk instructions,
    Storage.SirenaDb db
) : SirenaPage
{
    private const int Shown = 12;

    /// <inheritdoc/>
    protected override string? Thing => Id is null or "new" || (!Edit && HttpMethods.IsGet(Request.Method)) ? null : $"source:{Id}";

    /// <summary>The source that is chosen; <c>new</c> for one that is being made.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Id { get; set; }

    /// <summary>Its settings stand in the panel.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Edit { get; set; }

    /// <summary>Only what arrived in this state.</summary>
    [BindProperty(SupportsGet = true)]
    public string? State { get; set; }

    /// <summary>All of them.</summary>
    public IReadOnlyList<SourceDay> Days { get; private set; } = [];

    /// <summary>The chosen one.</summary>
    public SourceDay? Chosen => Days.FirstOrDefault(d => d.Source.Id == Id);

    /// <summary>What arrived at it last.</summary>
    public IReadOnlyList<ArrivedBody> Arrivals { get; private set; } = [];

    /// <summary>How many are in each state.</summary>
    public IReadOnlyDictionary<ArrivalState, int> Counts { get; private set; } = new Dictionary<ArrivalState, int>();

    /// <summary>The first event of each.</summary>
    public IReadOnlyDictionary<string, OrderEvent> Events { get; private set; } = new Dictionary<string, OrderEvent>();

    /// <summary>Its keys.</summary>
    public IReadOnlyList<SourceKey> Keys { get; private set; } = [];

    /// <summary>How many of those that were not understood would be now.</summary>
    public int WouldBe { get; private set; }

    /// <summary>A key or a secret that was made just now: shown once.</summary>
    public string? Made { get; private set; }

    /// <summary>What was typed and could not be saved.</summary>
    public IFormCollection? Typed { get; private set; }

    /// <summary>The mistakes.</summary>
    public IReadOnlyList<DocumentError> Errors { get; private set; } = [];

    /// <summary>The mistakes of one member.</summary>
    public IEnumerable<DocumentError> At(string member) => Errors.Where(e => e.Path == member);

    /// <summary>The class of a field that has a mistake; empty for none.</summary>
    public string Invalid(string member) => At(member).Any() ? "is-invalid" : "";

    /// <summary>What was typed, or what is there.</summary>
    public string? Value(string name, string? there) => Typed?[name] is { Count: > 0 } typed ? typed.ToString() : there;

    /// <summary>Shows them.</summary>
    public Task OnGetAsync(CancellationToken cancel) => LoadAsync(cancel);

    /// <summary>Saves a source.</summary>
    public async Task<IActionResult> OnPostSaveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var form = Request.Form;
        var id = Id is null or "new"
            ? form["newId"].ToString().Trim() is { Length: > 0 } named
                ? named
                : RuleReader.IdOfNew(form["name"].ToString())
            : Id;
        var isNew = Id is null or "new";
        if (isNew && await shelf.FindAsync(id, cancel) is not null)
        {
            return await AgainAsync(form, [new DocumentError("id", null, null, $"There is a source '{id}' already. Give this one another id.")], cancel);
        }

        var document = Document(form, isNew);
        if (document["intake"] is JsonObject intake && intake["open"] is JsonArray { Count: 0 })
        {
            const string Usual = "Days that differ need the usual hours beside them: say from when to when orders are taken, such as 00:00 to 23:59.";
            return await AgainAsync(form, [new DocumentError("intake", null, null, Usual)], cancel);
        }

        var (node, _) = DocumentText.Read(document.ToJsonString(), yaml: false);
        var saved = await desk.SaveAsync(id, node!, User.Name(), cancel);
        if (saved.Source is not { } source)
        {
            return await AgainAsync(form, saved.Errors, cancel);
        }

        (Id, Edit) = (source.Id, false);
        Made = saved.Made ?? (saved.Created && source.Proof.Kind == ProofKind.Key ? await desk.MakeKeyAsync(source.Id, false, User.Name(), cancel) : null);
        if (Made is null)
        {
            Said = saved.Created ? $"{source.Name} is connected. Send a first body; it need not be right." : $"{source.Name} is saved.";
            return Redirect("/sources?id=" + source.Id);
        }

        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>What was asked of the chosen source's intake, the newest first.</summary>
    public IReadOnlyList<Core.Instructions.Instruction> Intake { get; private set; } = [];

    /// <summary>Closes the intake for a while, or opens it.</summary>
    public async Task<IActionResult> OnPostIntakeAsync(string state, int? minutes, string? reason, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var with = new JsonObject { ["state"] = state };
        if (reason?.Trim() is { Length: > 0 } why)
        {
            with["reason"] = why;
        }

        if (state == "closed" && minutes is > 0 and <= 10_080)
        {
            with["until"] = NodaTime.Text.InstantPattern.ExtendedIso.Format(
                NodaTime.Instant.FromUnixTimeSeconds((Clock.Now + NodaTime.Duration.FromMinutes(minutes.Value)).ToUnixTimeSeconds())
            );
        }

        var ended = await instructions.AskAsync(
            new Engine.Instructions.InstructionWish("intake", InstructionForm.Node(with), [], Api.InstructionsApi.AskerOf(User)) { Source = Id },
            cancel
        );
        Said = ended.Status == 201 ? "Asked. It is so when the source says so." : ended.Words;
        return Redirect("/sources?id=" + Uri.EscapeDataString(Id ?? ""));
    }

    /// <summary>Nothing is expected of it for a while: its silence is not said.</summary>
    public async Task<IActionResult> OnPostNotBeforeAsync(string? notBefore, string? why, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var begin = Clock.Read(notBefore);
        var errors = await SilenceAsync(
            new JsonObject
            {
                ["notBefore"] = begin is { } at && at > Clock.Now ? NodaTime.Text.InstantPattern.ExtendedIso.Format(at) : "past",
                ["why"] = why ?? "",
            },
            cancel
        );
        if (errors.Count > 0)
        {
            await AgainAsync(
                Request.Form,
                begin > Clock.Now ? errors : [new DocumentError("silence.notBefore", null, null, "Choose a time that is still to come.")],
                cancel
            );
            Edit = false;
            return Page();
        }

        Said = $"Nothing is expected of it before {Clock.Short(begin!.Value)}.";
        return Redirect("/sources?id=" + Uri.EscapeDataString(Id ?? ""));
    }

    /// <summary>Something is expected of it again.</summary>
    public async Task<IActionResult> OnPostExpectAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        await SilenceAsync(new JsonObject { ["notBefore"] = "" }, cancel);
        Said = "Its silence is said again.";
        return Redirect("/sources?id=" + Uri.EscapeDataString(Id ?? ""));
    }

    private async Task<IReadOnlyList<DocumentError>> SilenceAsync(JsonObject silence, CancellationToken cancel) =>
        (
            await desk.SaveAsync(Id ?? "", DocumentText.Read(new JsonObject { ["silence"] = silence }.ToJsonString(), yaml: false).Node!, User.Name(), cancel)
        ).Errors;

    private async Task<IActionResult> MadeAsync(Func<Task<string?>> make, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Made = await make();
        await LoadAsync(cancel);
        return Page();
    }

    private async Task<IActionResult> AgainAsync(IFormCollection form, IReadOnlyList<DocumentError> errors, CancellationToken cancel)
    {
        (Typed, Errors, Edit) = (form, errors, true);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        await LoadAsync(cancel);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        Days = await figures.AllAsync(cancel);
        if (Id is null && !Edit && Days.Count > 0)
        {
            Id = Days[0].Source.Id;
        }

        if (Chosen is not { } day)
        {
            return;
        }

        (Arrivals, Counts) = await figures.ArrivalsAsync(day.Source.Id, Names.Parse<ArrivalState>(State), Shown, cancel);
        Events = await figures.EventsAsync(day.Source, Arrivals, cancel);
        Keys = await figures.KeysAsync(day.Source.Id, cancel);
        var lane = Engine.Instructions.InstructionDesk.LaneOfSource(day.Source.Id);
        Intake = await db.Instructions.AsNoTracking().Where(i => i.Lane == lane).OrderByDescending(i => i.Seq).Take(8).ToListAsync(cancel);
        if (day.NotUnderstood > 0 && (await shelf.FindAsync(day.Source.Id, cancel))?.Reading is { } reading)
        {
            WouldBe = (await trial.TryAsync(reading, await trial.KeptAsync(day.Source.Id, cancel), cancel)).Count(t => t.Result.Problems.Count == 0);
        }
    }
}
