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
using Sirena.Web.Pages.Rules;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Sources;

/// <summary>How orders come in: each source with its day, what arrived, what was not understood, what was refused.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(
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
                : RuleReader.IdFrom(form["name"].ToString())
            : Id;
        var isNew = Id is null or "new";
        if (isNew && await shelf.FindAsync(id, cancel) is not null)
        {
            return await AgainAsync(form, [new DocumentError("id", null, null, $"There is a source '{id}' already. Give this one another id.")], cancel);
        }

        var (node, _) = DocumentText.Read(Document(form, isNew).ToJsonString(), yaml: false);
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

    /// <summary>Makes a key beside the ones there are, or in their place.</summary>
    public async Task<IActionResult> OnPostKeyAsync(bool instead, CancellationToken cancel) =>
        await MadeAsync(() => desk.MakeKeyAsync(Id ?? "", instead, User.Name(), cancel), cancel);

    /// <summary>Makes a new secret.</summary>
    public async Task<IActionResult> OnPostSecretAsync(CancellationToken cancel) =>
        await MadeAsync(() => desk.NewSecretAsync(Id ?? "", User.Name(), cancel), cancel);

    /// <summary>Revokes a key.</summary>
    public async Task<IActionResult> OnPostRevokeAsync(Guid key, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.RevokeKeyAsync(key, User.Name(), cancel) ? "The key works no longer." : "That key worked no longer already.";
        return Redirect("/sources?id=" + Uri.EscapeDataString(Id ?? ""));
    }

    /// <summary>Takes a source away.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.RemoveAsync(Id ?? "", User.Name(), cancel) ? "The source is gone. What came from it stays." : "There is no such source any more.";
        return Redirect("/sources");
    }

    /// <summary>Reads anew what was not understood.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostTakeAgainAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var (understood, not) = await reader.AgainAsync(Id ?? "", null, ArrivalState.NotUnderstood, cancel);
        Said =
            understood + not == 0
                ? "There was nothing to take again."
                : $"{understood} {(understood == 1 ? "body is" : "bodies are")} understood now; {(not == 0 ? "none is left" : $"{not} still {(not == 1 ? "is" : "are")} not")}. What was told because of it is marked late.";
        return Redirect("/sources?id=" + Uri.EscapeDataString(Id ?? ""));
    }

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
                    $"{NodaTime.Text.LocalDatePattern.Iso.Format(x.Date)}{(x.From is { } from ? $" {from.ToString("HH:mm", null)}-{x.To?.ToString("HH:mm", null)}" : "")}{(x.Name is { } name ? " " + name : "")}"
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
