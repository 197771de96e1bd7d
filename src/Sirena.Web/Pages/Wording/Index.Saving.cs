using Microsoft.EntityFrameworkCore;
using Sirena.Channels;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Wordings;
using Sirena.Engine.Wordings;
using Sirena.Formats.Rules;
using Sirena.Formats.Wordings;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.Wording;

public sealed partial class IndexModel
{
    private async Task<bool> SaveAsync(CancellationToken cancel)
    {
        var isNew = Id == Ids.New;
        if (isNew && !NameText.Fits(Name, 80))
        {
            Problem = "Give the wording a name of at most 80 characters.";
        }

        var id = isNew ? RuleReader.IdOfNew(Name) : Id;
        if (isNew && Around.Wording(id) is not null)
        {
            Problem = $"There is a wording '{id}' already.";
        }

        if (!Parts.Given.Any())
        {
            Problem ??= "Write at least one text.";
        }

        if (Problem is not null || Mistakes.Count > 0)
        {
            return false;
        }

        var others = (Wording?.Texts ?? []).Where(t => (t.Audience, t.Language) != (For, Language));
        var saved = new Core.Wordings.Wording(
            id,
            isNew ? Name.Trim() : Wording?.Name ?? Name,
            [.. others.Append(new WordingText(For, Language, Parts)).OrderBy(t => t.Audience).ThenBy(t => t.Language, StringComparer.Ordinal)]
        );
        await desk.SaveAsync([saved], User.Name(), cancel);
        Id = id;
        return true;
    }

    private async Task<string> SendAsync(CancellationToken cancel)
    {
        var me = User.FindFirst("person")?.Value is { } id ? Around.Staff.Person(id) : null;
        var contact =
            Channel == Channel.Screen
                ? null
                : me?.Contacts.FirstOrDefault(c => c.Channel == Channel)?.Address ?? (Channel == Channel.Mail ? User.Identity?.Name : null);
        if (contact is null || Shown?.Messages.GetValueOrDefault(Channel) is not { } text)
        {
            return Channel == Channel.Screen ? "The screen shows it here." : $"You have no address by {Channel.Traits().Word}. Add one on your page.";
        }

        if (await gateways.PickAsync(Channel, cancel) is not { } line)
        {
            return $"No {Channel.Traits().Word} gateway works right now.";
        }

        var result = await line.Gateway.HandOverAsync(
            new OutgoingMessage(Guid.CreateVersion7(), contact, null, $"Preview: {text.Subject}", text.Text, text.Html),
            cancel
        );
        return result.Outcome == AttemptOutcome.Accepted ? $"Sent to {contact}." : $"It did not go to {contact}: {result.Reply}";
    }

    private async Task ReadAsync(CancellationToken cancel)
    {
        var form = await Request.ReadFormAsync(cancel);
        Name = form["name"].ToString() is { Length: > 0 } name ? name : Name;
        Parts = WordingParts.Names.Aggregate(new WordingParts(), (parts, n) => parts.With(n, form["p." + n].ToString().ReplaceLineEndings("\n"))) with
        {
            Facts = [.. FactsIn(form)],
        };
        Mistakes = WordingReader.Mistakes(Parts, For, await desk.SeenAsync(cancel));
    }

    // Rows in the order in which they stand; one that is empty is none.
    private static IEnumerable<Fact> FactsIn(IFormCollection form)
    {
        var (labels, values, labelled) = (form["f.label"], form["f.value"], form["f.short"]);
        for (var i = 0; i < Math.Min(labels.Count, values.Count); i++)
        {
            if ($"{labels[i]}{values[i]}".Trim().Length > 0)
            {
                yield return new Fact((labels[i] ?? "").Trim(), (values[i] ?? "").Trim(), i < labelled.Count && labelled[i] == "label");
            }
        }
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        Wording = Id == Ids.New ? null : Around.Wording(Id);
        Name = Wording?.Name ?? "";
        Users = await desk.UsersAsync(cancel);
        Saved = await db.Wordings.AsNoTracking().FirstOrDefaultAsync(w => w.Id == Id, cancel);
        if (string.IsNullOrEmpty(Order))
        {
            Order = await OrderOfAsync(cancel);
        }
    }

    // The order that shows best what it is for: the last of which its event told, or whose alert used it; else the last of all.
    private async Task<string?> OrderOfAsync(CancellationToken cancel)
    {
        string[] rules = [.. Users[Id].Select(r => r.Id)];
        var own = ShippedWordings.EventOf(Id);
        var told = db.Events.AsNoTracking().Where(e => e.OrderNumber != null).OrderByDescending(e => e.Id);
        return own is not null && await told.Where(e => e.Type == own).Select(e => e.OrderNumber).FirstOrDefaultAsync(cancel) is { } happened
            ? happened
            : await db
                .Alerts.AsNoTracking()
                .Where(a => rules.Contains(a.RuleId) && a.OrderNumber != null)
                .OrderByDescending(a => a.RaisedAt)
                .Select(a => a.OrderNumber)
                .FirstOrDefaultAsync(cancel)
                ?? await told.Select(e => e.OrderNumber).FirstOrDefaultAsync(cancel);
    }

    private async Task ShowAsync(CancellationToken cancel)
    {
        var type = string.IsNullOrEmpty(Event) ? ShippedWordings.EventOf(Id) ?? Users[Id].FirstOrDefault()?.When.FirstOrDefault() : Event;
        var facts = (Order is null ? null : await desk.FactsAsync(Order, type, cancel) ?? await desk.FactsAsync(Order, null, cancel))
            ?? await desk.FactsOfAsync("{}", type, null, cancel);
        (ShownEvent, Happened) = (facts.Event.Type, facts.Event.Id > 0 ? facts.Event.Time : null);
        var reader = Person is { Length: > 0 } id ? Around.Staff.Person(id) : null;
        var used = Parts.Given.Any() ? Parts : Around.TextsFor(Id, facts.Event.Type, For, Language);
        var question = new PreviewQuestion(used, For, Language, facts, Users[Id].FirstOrDefault()?.Name ?? Name, reader);
        Values = await desk.ValuesAsync(question, cancel);
        Shown = Mistakes.Count == 0 ? await desk.PreviewAsync(question, cancel) : null;
        var here = Channel.Traits().Parts.Select(p => used.Used(p.Name)).OfType<string>().Distinct().SelectMany(p => WordingCheck.Used(used[p]!)).ToHashSet();
        here.UnionWith(here.Contains(Fact.Field) ? used.Facts.Select(f => f.Value) : []);
        Missing =
        [
            .. (Shown?.Fields ?? []).Where(f => f.Value is null && here.Contains(f.Field)).Select(f => WordingFields.Find(f.Field)?.Name).OfType<string>(),
        ];
    }
}
