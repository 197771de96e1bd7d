using System.Text.Encodings.Web;
using System.Text.Json;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Insight;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Rules;

/// <summary>One rule: as blocks in the order of its sentence, or as its document.</summary>
[Authorize(Policies.SeeAll)]
public sealed class RuleModel(SirenaDb db, RuleDesk desk, RehearsalDesk rehearsals) : SirenaPage
{
    private const int RehearsedDays = 30;
    private static readonly JsonSerializerOptions Pretty = new() { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>The rule's id; <c>new</c> for one that is being made.</summary>
    [BindProperty(SupportsGet = true)]
    public string Id { get; set; } = "";

    /// <summary><c>document</c> to edit the text.</summary>
    [BindProperty(SupportsGet = true)]
    public string? As { get; set; }

    /// <summary>The version in force, or <see langword="null"/> for a new rule.</summary>
    public RuleVersion? Version { get; private set; }

    /// <summary>All versions, newest first.</summary>
    public IReadOnlyList<RuleVersion> Versions { get; private set; } = [];

    /// <summary>The blocks; <see langword="null"/> where the document is edited.</summary>
    public RuleDraft? Draft { get; private set; }

    /// <summary>The document's text where that is edited.</summary>
    public string Text { get; private set; } = "";

    /// <summary>What is shown is not saved.</summary>
    public bool Dirty { get; private set; }

    /// <summary>The blocks cannot show all of this rule.</summary>
    public bool OnlyText { get; private set; }

    /// <summary>The mistakes.</summary>
    public IReadOnlyList<DocumentError> Errors { get; private set; } = [];

    /// <summary>It is a new rule.</summary>
    public bool IsNew => Id == "new";

    /// <summary>The sentence of what is shown, as far as it can be read; <see langword="null"/> when it has mistakes.</summary>
    public string? Sentence { get; private set; }

    /// <summary>What the draft would have done, with the period, where that was asked for.</summary>
    public (Rehearsal Found, NodaTime.Instant From, NodaTime.Instant To)? Rehearsed { get; private set; }

    /// <summary>Shows the rule.</summary>
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

        var rule = Version is null ? null : RuleShelf.Parse(Version);
        Draft = rule is null ? Fresh() : RuleDraft.From(rule);
        OnlyText = Draft is null;
        Text = (rule is null ? Draft!.Document(null) : RuleWriter.Write(rule)).ToJsonString(Pretty);
        Draft = As == "document" ? null : Draft;
        Sentence = rule is null ? null : new RuleSentence(Around.NameOf).Of(rule);
        return Page();
    }

    /// <summary>Does what a button asks, or saves.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        await LoadAsync(cancel);
        var form = await Request.ReadFormAsync(cancel);
        var act = form["act"].ToString();
        if (act == "archive" && Version is not null)
        {
            await desk.ArchiveAsync(Id, User.Name(), cancel);
            Said = $"'{Version.Name}' is archived. Its open alerts burn on.";
            return Redirect("/rules");
        }

        Dirty = true;
        var text = form["text"].ToString();
        if (!form.ContainsKey("text"))
        {
            Draft = RuleDraft.Read(form);
            if (act is not ("save" or "check" or "rehearse" or ""))
            {
                Draft.Do(act);
            }

            text = Draft.Document(IsNew ? null : Id).ToJsonString(Pretty);
        }

        Text = text;
        if (act == "save")
        {
            return await SaveAsync(text, cancel);
        }

        var (read, mistakes) = RuleReader.Read(text, LooksLikeYaml(text), await desk.NamesAsync(cancel), IsNew ? null : Id);
        Sentence = read is null ? null : new RuleSentence(Around.NameOf).Of(read);
        if (act == "rehearse" && read is not null)
        {
            // The page waits for it; a run over very many events is for the API, which goes on in the background.
            var (from, to) = (Clock.Now - NodaTime.Duration.FromDays(RehearsedDays), Clock.Now);
            var run = rehearsals.Begin(read, from, to);
            Rehearsed = (await run.Result.WaitAsync(cancel), from, to);
        }

        if (act is "check" or "rehearse")
        {
            Errors = mistakes;
        }

        return Page();
    }

    /// <summary>The mistakes at a place of the form.</summary>
    public IEnumerable<string> At(string place) => Errors.Where(e => RuleDraft.PlaceOf(e.Path) == place).Select(e => e.Problem);

    private async Task<IActionResult> SaveAsync(string text, CancellationToken cancel)
    {
        var saved = await desk.SaveAsync(text, LooksLikeYaml(text), IsNew ? null : Id, User.Name(), cancel);
        if (saved.Saved is { } version)
        {
            Said = $"Saved as version {version.Version}. In force from the next event.";
            return Redirect("/rules/" + version.RuleId);
        }

        Errors = saved.Conflict is { } conflict ? [new DocumentError("id", null, null, conflict)] : saved.Errors;
        Response.StatusCode = 422;
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        Versions = await db.RuleVersions.AsNoTracking().Where(v => v.RuleId == Id).OrderByDescending(v => v.Version).ToListAsync(cancel);
        Version = Versions.FirstOrDefault(v => v.BookTo is null);
    }

    private static bool LooksLikeYaml(string text) => !text.TrimStart().StartsWith('{');

    private static RuleDraft Fresh()
    {
        var draft = new RuleDraft();
        draft.Do("event");
        draft.Do("recipient");
        return draft;
    }
}
