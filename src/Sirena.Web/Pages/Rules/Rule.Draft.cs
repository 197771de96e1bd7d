using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Primitives;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.Rules;

/// <content>What is shown to begin with, read from the form, shared and saved.</content>
public sealed partial class RuleModel
{
    private async Task StartAsync(CancellationToken cancel)
    {
        var rule = InForce;
        if (
            IsNew
            && From is not null
            && await db.RuleVersions.AsNoTracking().Where(v => v.RuleId == From).OrderByDescending(v => v.Version).FirstOrDefaultAsync(cancel) is { } source
        )
        {
            (rule, Dirty) = (RuleShelf.Parse(source), true);
            rule = rule with { Id = "", Name = $"{rule.Name}, copy" };
        }

        if (
            IsNew
            && rule is null
            && Beginning() is { } document
            && RuleReader.Read(document.ToJsonString(), yaml: false, await desk.NamesAsync(cancel), null).Rule is { } begun
        )
        {
            (rule, Dirty) = (begun with { Id = "" }, true);
        }

        Draft = rule is null ? RuleDraft.Fresh() : RuleDraft.From(rule);
        await ReadTextAsync((rule is null || IsNew ? Draft.Document(null) : RuleWriter.Write(rule)).ToJsonString(Pretty), cancel);
        Draft = As == "document" ? null : Draft;
        Errors = [];
    }

    // What a new rule begins as where another page led to it: one that is ready, or one for a status.
    private JsonObject? Beginning() =>
        Core.Insight.ReadyRule.Find(Ready) is { } ready && User.FindFirst("person")?.Value is { } person ? ready.Document(person)
        : Around.Status(Entered ?? "") is { } status ? OnEntering(status)
        : null;

    // A rule for an order that enters a status, as the page of statuses begins one.
    private JsonObject OnEntering(Status status) =>
        new()
        {
            ["name"] = Customer ? $"{status.Name}: tell the customer" : status.Name,
            ["when"] = new JsonArray(EventTypes.StatusChanged),
            ["onlyIf"] = new JsonObject
            {
                ["field"] = "change.after",
                ["is"] = "equal",
                ["value"] = status.Id,
            },
            ["tell"] = new JsonArray(
                Customer
                    ? new JsonObject { ["role"] = "customer" }
                    : new JsonObject { ["person"] = User.FindFirst("person")?.Value ?? Around.Staff.People.FirstOrDefault(p => p.ArchivedAt is null)?.Id }
            ),
            ["by"] = new JsonObject { ["allAtOnce"] = new JsonArray("mail") },
        };

    private async Task ReadFormAsync(IFormCollection given, CancellationToken cancel)
    {
        Draft = given.ContainsKey("text") ? null : RuleDraft.Read(given);
        Draft?.Do(given["act"].ToString(), StepsIn);
        await ReadTextAsync(Draft is null ? given["text"].ToString() : Draft.Document(IsNew ? null : Id).ToJsonString(Pretty), cancel);

        // The same draft, seen the other way.
        if (As == "document" && Draft is not null)
        {
            Draft = null;
        }
        else if (As != "document" && Draft is null && Shown is not null)
        {
            Draft = RuleDraft.From(Shown);
        }
    }

    private async Task ReadTextAsync(string text, CancellationToken cancel)
    {
        Text = text;
        (Shown, Errors) = RuleReader.Read(text, LooksLikeYaml(text), await desk.NamesAsync(cancel), IsNew ? null : Id);
    }

    // The steps of a case become a ladder that other rules can use, and the case uses it from here on.
    private async Task<string?> ShareAsync(string where, CancellationToken cancel)
    {
        if (RuleDraft.Read(form!).StepsAt(where) is not { Count: > 0 } steps)
        {
            return "There are no steps to share.";
        }

        var name = form![where + ".shareAs"].ToString();
        var known = Ladders.FirstOrDefault(l => l.Name.Equals(name.Trim(), StringComparison.OrdinalIgnoreCase));
        if (known is not null && !(Version is { } inForce && RuleShelf.Parse(inForce).Cases.Any(c => c.SharedLadder == known.Id)))
        {
            return $"There is a shared ladder '{known.Name}' already, which this rule does not use. Choose it from the list, or give these steps another name.";
        }

        var (saved, rules, errors) = await ladders.SaveAsync(known?.Id, name, steps.ToJsonString(), yaml: false, User.Name(), cancel);
        if (saved is null)
        {
            return string.Join(" ", errors.Take(3).Select(e => e.Problem));
        }

        SaidHere = $"The steps are the shared ladder '{saved.Name}' now{SharedLadders.Followed(rules)}. This rule uses it once it is saved.";
        Ladders = await ladders.AllAsync(cancel);
        form = new FormCollection(
            form!
                .Where(f => !f.Key.StartsWith(where + ".s", StringComparison.Ordinal))
                .Append(new(where + ".shared", saved.Id))
                .ToDictionary(f => f.Key, f => f.Value)
        );
        return null;
    }

    private async Task<IActionResult> SaveAsync(CancellationToken cancel)
    {
        await ReadFormAsync(form!, cancel);
        var saved = await desk.SaveAsync(Text, LooksLikeYaml(Text), IsNew ? null : Id, User.Name(), cancel, form!["note"], Base);
        if (saved.Saved is { } version)
        {
            await DropAsync(cancel);
            Said = $"Saved as version {version.Version}, in force for the next event that comes in.";
            return Redirect("/rules/" + version.RuleId);
        }

        if (saved.Stale)
        {
            // Somebody was quicker. What was typed stays; both versions are shown.
            await LoadAsync(cancel);
            await KeepAsync(cancel);
            Response.StatusCode = 412;
            return Page();
        }

        Errors = saved.Conflict is { } conflict ? [new DocumentError("id", null, null, conflict)] : saved.Errors;
        await KeepAsync(cancel);
        Response.StatusCode = 422;
        return Page();
    }

    // What somebody else saved since the page was drawn is not archived unseen.
    private async Task<IActionResult> ArchiveAsync(RuleVersion drawn, CancellationToken cancel)
    {
        if (await desk.ArchiveAsync(Id, User.Name(), cancel, Base) is null)
        {
            Said = $"'{drawn.Name}' was changed meanwhile, by {drawn.SavedBy}, and is not archived. This is how it is now; archive it if that still holds.";
            return Redirect("/rules/" + Id);
        }

        await DropAsync(cancel);
        Said = $"'{drawn.Name}' is archived. Its open alerts burn on.";
        return Redirect("/rules");
    }

    private async Task<IActionResult> TurnOffAsync(CancellationToken cancel)
    {
        Instant? until = null;
        if (form!["until"].ToString() is { Length: > 0 } typed)
        {
            until = Clock.Read(typed);
            if (until is null || until <= Clock.Now)
            {
                Said = $"'{typed}' is no time ahead, so the rule stays as it was. Choose a later one, or leave it empty to turn the rule off for good.";
                return Redirect("/rules/" + Id);
            }
        }

        await desk.TurnAsync(Id, on: false, User.Name(), cancel, form["note"], until);
        Said = $"'{Version!.Name}' is off from the next event on{(until is { } at ? $", until {Clock.Short(at)}" : "")}. Its open alerts stay as they are.";
        return Redirect("/rules/" + Id);
    }
}
