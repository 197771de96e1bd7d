using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Engine.Rules;
using Sirena.Formats.Rules;
using Sirena.Storage.Rules;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.Rules;

public sealed partial class RuleModel
{
    private async Task TryAsync(string act, string where, CancellationToken cancel)
    {
        if (Shown is null)
        {
            return;
        }

        switch (act)
        {
            case "rehearse":
                Rehearsal = await ViewAsync(rehearsals.Begin(Shown, Clock.Now - Duration.FromDays(Days), Clock.Now), Patience, cancel);
                break;
            case "trace":
                Trial = await trial.OfOrderAsync(Shown, where, Clock.Now - Duration.FromDays(Days), cancel);
                Pasted = Trial.Text ?? Pasted;
                break;
            case "try":
                Trial = await trial.OfTextAsync(Shown, Pasted, Clock.Now, cancel);
                break;
        }
    }

    private async Task<RehearsalView> ViewAsync(RunningRehearsal run, TimeSpan wait, CancellationToken cancel)
    {
        try
        {
            var found = await run.Result.WaitAsync(wait, cancel);
            return new RehearsalView(run, found, await rehearsals.UnansweredAsync(run.From, run.To, cancel));
        }
        catch (TimeoutException)
        {
            return new RehearsalView(run, null, new Dictionary<string, (int, int)>());
        }
    }

    // The draft as it stands is kept, so that closing the browser loses nothing.
    private async Task KeepAsync(CancellationToken cancel)
    {
        // A note or a time that was typed beside the rule makes no draft of it.
        if (Draft is not null && InForce is not null && Shown is not null && RuleWriter.Write(Shown).ToJsonString() == RuleWriter.Write(InForce).ToJsonString())
        {
            await DropAsync(cancel);
            (Dirty, KeptAt) = (false, null);
            return;
        }

        // The form as it was sent with the button that was pressed: read again, they give the same draft.
        var fields = form!
            .Where(f => f.Key is not ("note" or "until" or "pasted" or "days") && !f.Key.StartsWith("__", StringComparison.Ordinal))
            .ToDictionary(f => f.Key, f => f.Value.ToArray());
        var json = JsonSerializer.Serialize(fields);
        var (now, version) = (Clock.Now, Version?.Version ?? 0);
        await db.KeepAsync(
            new KeptDraft
            {
                RuleId = Id,
                By = User.Name(),
                Form = json,
                BaseVersion = version,
                At = now,
            },
            cancel
        );
        KeptAt = now;
    }

    private Task DropAsync(CancellationToken cancel) => db.KeptDrafts.Where(d => d.RuleId == Id && d.By == User.Name()).ExecuteDeleteAsync(cancel);

    private async Task LoadAsync(CancellationToken cancel)
    {
        Ladders = await ladders.AllAsync(cancel);
        Choices = new FieldChoices(Around, await fields.SeenAsync(cancel));
        Versions = await db.RuleVersions.AsNoTracking().Where(v => v.RuleId == Id).OrderByDescending(v => v.Version).ToListAsync(cancel);
        Version = Versions.FirstOrDefault(v => v.BookTo is null);
        if (Version is { } current)
        {
            InForce = RuleShelf.Parse(current);
            FirstUnder = await db.FirstUnderAsync(current, cancel);
        }
    }

    private static bool LooksLikeYaml(string text) => !text.TrimStart().StartsWith('{');
}
