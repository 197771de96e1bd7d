using System.Text.Encodings.Web;
using System.Text.Json;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Primitives;
using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Rules;

/// <summary>One rule: as blocks in the order of its sentence, or as its document; rehearsed, compared with its versions, tried on an event.</summary>
[Authorize(Policies.SeeAll)]
public sealed partial class RuleModel(SirenaDb db, RuleDesk desk, RehearsalDesk rehearsals, DraftTrial trial, FieldWatch fields, SharedLadders ladders)
    : SirenaPage,
        IRecipientSheet
{
    private static readonly JsonSerializerOptions Pretty = new() { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(1.5);
    private IFormCollection? form;

    /// <summary>The rule's id; <c>new</c> for one that is being made.</summary>
    [BindProperty(SupportsGet = true)]
    public string Id { get; set; } = "";

    /// <summary><c>document</c> to edit the text.</summary>
    [BindProperty(SupportsGet = true)]
    public string? As { get; set; }

    /// <summary>A rule to copy into a new one.</summary>
    [BindProperty(SupportsGet = true)]
    public string? From { get; set; }

    /// <summary>The rule that is ready to begin with, for a new one.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Ready { get; set; }

    /// <summary>The status on whose entering a new rule begins.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Entered { get; set; }

    /// <summary>That new rule tells the customer.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Customer { get; set; }

    /// <summary>A version to compare with what is shown.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Compare { get; set; }

    /// <summary>How many days a rehearsal goes back.</summary>
    public int Days { get; private set; } = 30;

    /// <summary>The version in force, or <see langword="null"/> for a new rule.</summary>
    public RuleVersion? Version { get; private set; }

    /// <summary>The rule of that version.</summary>
    public Rule? InForce { get; private set; }

    /// <summary>All versions, newest first.</summary>
    public IReadOnlyList<RuleVersion> Versions { get; private set; } = [];

    /// <summary>The first event that was taken in under the version in force, within a day of it; <see langword="null"/> while none was.</summary>
    public OrderEvent? FirstUnder { get; private set; }

    /// <summary>The blocks; <see langword="null"/> where the document is edited.</summary>
    public RuleDraft? Draft { get; private set; }

    /// <summary>The document's text where that is edited.</summary>
    public string Text { get; private set; } = "";

    /// <summary>What is shown is not in force.</summary>
    public bool Dirty { get; private set; }

    /// <summary>When the draft that is shown was kept, or <see langword="null"/>.</summary>
    public Instant? KeptAt { get; private set; }

    /// <summary>The mistakes.</summary>
    public IReadOnlyList<DocumentError> Errors { get; private set; } = [];

    /// <summary>It is a new rule.</summary>
    public bool IsNew => Id == "new";

    /// <summary>The page's own address, for its buttons.</summary>
    public string Self => "/rules/" + Uri.EscapeDataString(Id) + (As == "document" ? "?as=document" : "");

    /// <summary>The rule that is shown, as far as it can be read; <see langword="null"/> when it has mistakes.</summary>
    public Rule? Shown { get; private set; }

    /// <summary>Its sentence.</summary>
    public string? Sentence => Shown is null ? null : Around.Sentences.Of(Shown);

    /// <summary>What can be chosen in the blocks.</summary>
    public FieldChoices Choices { get; private set; } = null!;

    /// <summary>The ladders that many rules use.</summary>
    public IReadOnlyList<SharedLadder> Ladders { get; private set; } = [];

    /// <summary>The wordings that can be chosen, the business's own first.</summary>
    public IEnumerable<Core.Wordings.Wording> Wordings =>
        Around
            .AllWordings.Where(w => !w.Id.StartsWith("sirena.", StringComparison.Ordinal))
            .OrderBy(w => Core.Wordings.ShippedWordings.Find(w.Id) is not null)
            .ThenBy(w => w.Name, StringComparer.Ordinal);

    /// <summary>The wording that is used where none is chosen.</summary>
    public string UsualWording => Core.Wordings.ShippedWordings.IdFor(Draft?.When is [var first, ..] ? first : "");

    /// <inheritdoc/>
    public bool OnOrder => true;

    /// <summary>A shared ladder's steps in words.</summary>
    public IEnumerable<string> StepsOf(string ladder) => StepsIn(ladder).Select(s => Around.Sentences.Of(s, s.By));

    private IEnumerable<LadderStep> StepsIn(string ladder) => Ladders.FirstOrDefault(l => l.Id == ladder) is { } found ? SharedLadders.StepsOf(found) : [];

    /// <summary>How an alert of a case would burn, drawn; <see langword="null"/> while it has no steps or the draft has mistakes.</summary>
    public string? FuseOf(int index) => Shown is { } rule && index < rule.Cases.Length ? new Watch.Fuses(Around).Draft(rule.Cases[index], rule, Clock) : null;

    /// <summary>The rehearsal that was asked for.</summary>
    public RehearsalView? Rehearsal { get; private set; }

    /// <summary>The draft on events of one order, or on one that was pasted.</summary>
    public TrialResult? Trial { get; private set; }

    /// <summary>The pasted event.</summary>
    public string Pasted { get; private set; } = "";

    /// <summary>How the compared version differs from what is shown.</summary>
    public IReadOnlyList<RuleChange>? Changes { get; private set; }

    /// <summary>The version that what is typed was made from, or <see langword="null"/> for a new rule.</summary>
    public int? Base => int.TryParse(form?["base"].ToString(), out var number) ? number : Version?.Version;

    /// <summary>What others have saved since that version, in words; <see langword="null"/> while nobody has.</summary>
    public IReadOnlyList<RuleChange>? Meanwhile =>
        !Dirty || Version is not { } current || Base is not { } from || from == current.Version || InForce is null ? null
        : Versions.FirstOrDefault(v => v.Version == from) is { } old ? new RuleDifference(Around.Sentences).Between(RuleShelf.Parse(old), InForce)
        : [];

    /// <summary>Shows the rule, or the draft of it that was kept.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (IsNew && !User.MayChange())
        {
            return Forbid();
        }

        await LoadAsync(cancel);
        if (!IsNew && Version is null)
        {
            Response.StatusCode = 404;
            return Page();
        }

        var kept =
            From is null && Ready is null && Entered is null && User.MayChange()
                ? await db.KeptDrafts.AsNoTracking().FirstOrDefaultAsync(d => d.RuleId == Id && d.By == User.Name(), cancel)
                : null;
        if (kept is not null)
        {
            form = new FormCollection(
                JsonSerializer.Deserialize<Dictionary<string, string[]>>(kept.Form)!.ToDictionary(f => f.Key, f => new StringValues(f.Value))
            );
            (KeptAt, Dirty) = (kept.At, true);
            await ReadFormAsync(form, cancel);
            Errors = [];
        }
        else
        {
            await StartAsync(cancel);
        }

        if (Compare is { } number && Versions.FirstOrDefault(v => v.Version == number) is { } old && Shown is not null)
        {
            Changes = new RuleDifference(Around.Sentences).Between(RuleShelf.Parse(old), Shown);
        }

        return Page();
    }

    /// <summary>How far a rehearsal is, or what it found: the panel alone.</summary>
    public async Task<IActionResult> OnGetRehearsalAsync(Guid run, CancellationToken cancel)
    {
        if (rehearsals.Find(run) is not { } found)
        {
            return Content("<section class=\"card empty\" id=\"rehearsal\"><span>This rehearsal was stopped, or is long over.</span></section>", "text/html");
        }

        await LoadAsync(cancel);
        Rehearsal = await ViewAsync(found, TimeSpan.Zero, cancel);
        return Partial("_Rehearsal", this);
    }

    /// <summary>Does what a button asks, or saves.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        await LoadAsync(cancel);
        form = await Request.ReadFormAsync(cancel);
        var (act, where) = form["act"].ToString().Split(':', 2) is [var a, var w] ? (a, w) : (form["act"].ToString(), "");
        if (await SettledAsync(act, where, cancel) is { } settled)
        {
            return settled;
        }

        Dirty = true;
        if (act == "rebase" && Version is not null)
        {
            // What was typed is now a change to the version that is in force.
            form = new FormCollection(
                form.ToDictionary(
                    f => f.Key,
                    f => f.Key == "base" ? new StringValues(Version.Version.ToString(System.Globalization.CultureInfo.InvariantCulture)) : f.Value
                )
            );
        }

        Days = int.TryParse(form["days"], out var days) && days is >= 1 and <= 365 ? days : 30;
        Pasted = form["pasted"].ToString();
        if (act == "save")
        {
            return await SaveAsync(cancel);
        }

        var problem = act == "share" ? await ShareAsync(where, cancel) : null;
        await ReadFormAsync(form, cancel);
        if (problem is not null)
        {
            Errors = [new DocumentError(where == "k0" && Draft?.Branches == false ? "ladder" : $"cases[{where.TrimStart('k')}].ladder", null, null, problem)];
            return Page();
        }

        await KeepAsync(cancel);
        await TryAsync(act, where, cancel);
        Errors = act is "check" or "rehearse" or "trace" or "try" ? Errors : [];
        return Page();
    }

    /// <summary>The mistakes at a place of the form.</summary>
    public IEnumerable<string> At(string place) => Errors.Where(e => DraftPlaces.Of(e.Path) == place).Select(e => e.Problem);

    // What concerns the rule as it is in force, whatever stands in the form; null for all else.
    private async Task<IActionResult?> SettledAsync(string act, string where, CancellationToken cancel)
    {
        switch (act)
        {
            case "archive" when Version is not null:
                return await ArchiveAsync(Version, cancel);
            case "drop-draft":
                await DropAsync(cancel);
                Said = "The draft is dropped.";
                return Redirect(IsNew ? "/rules" : "/rules/" + Id);
            case "restore" when int.TryParse(where, out var number) && await desk.RestoreAsync(Id, number, User.Name(), cancel) is { } restored:
                await DropAsync(cancel);
                Said = $"Version {number} is in force again, as version {restored.Version}, from the next event on.";
                return Redirect("/rules/" + Id);
            case "off" when Version is not null:
                return await TurnOffAsync(cancel);
            case "stop" when Guid.TryParse(where, out var run):
                rehearsals.End(run);
                return Redirect(Self);
            default:
                return null;
        }
    }
}
