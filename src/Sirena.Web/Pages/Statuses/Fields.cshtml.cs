using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Storage.Orders;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Statuses;

/// <summary>An event as the list shows it.</summary>
public sealed record EventRow(string Type, string Name, string Phrase, bool Own, int Came, IReadOnlyList<Rule> Rules);

/// <summary>A field as the list shows it.</summary>
public sealed record FieldRow(Field Field, FieldType Type, SeenField? Seen, int Rules);

/// <summary>The events that rules can listen to and the fields that they carry; both grow by what comes in.</summary>
[Authorize(Policies.SeeAll)]
public sealed class FieldsModel(StatusDesk desk, FieldWatch fields, RuleShelf shelf, PastEvents past) : SirenaPage
{
    /// <summary>Words to find in a field.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    /// <summary>The events.</summary>
    public IReadOnlyList<EventRow> Events { get; private set; } = [];

    /// <summary>Events that came and that nobody has named.</summary>
    public IReadOnlyList<(string Type, int Came)> Strange { get; private set; } = [];

    /// <summary>The fields.</summary>
    public IReadOnlyList<FieldRow> Fields { get; private set; } = [];

    /// <summary>What was typed for an event that could not be saved.</summary>
    public (string? Type, string? Name, string? Phrase) Typed { get; private set; }

    /// <summary>A mistake.</summary>
    public string? Problem { get; private set; }

    /// <summary>Shows them.</summary>
    /// <param name="type">An event to be named.</param>
    public async Task OnGetAsync(string? type, CancellationToken cancel)
    {
        Typed = (type, null, null);
        await LoadAsync(cancel);
    }

    /// <summary>Names an event.</summary>
    public async Task<IActionResult> OnPostEventAsync(string? type, string? name, string? phrase, CancellationToken cancel) =>
        await ActAsync(
            () => desk.SaveEventAsync(type, name, phrase, User.Name(), cancel),
            $"'{name?.Trim()}' can be chosen in rules.",
            (type, name, phrase),
            cancel
        );

    /// <summary>Takes an event's name out of the list.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(string type, CancellationToken cancel) =>
        await ActAsync(() => desk.RemoveEventAsync(type, User.Name(), cancel), $"'{type}' is removed from the list.", default, cancel);

    private async Task<IActionResult> ActAsync(Func<Task<string?>> act, string said, (string?, string?, string?) typed, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Problem = await act();
        if (Problem is null)
        {
            Said = said;
            return Redirect("/orders/fields");
        }

        Typed = typed;
        Response.StatusCode = 422;
        await LoadAsync(cancel);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var rules = (await shelf.CurrentAsync(cancel)).Rules.Select(r => r.Rule).ToArray();

        // Plan: the block range index on received, one pass over the types of 30 days.
        var came = await past.CountAsync(Clock.Now - Duration.FromDays(30), cancel);
        var known = Around.EventTypesKnown.ToArray();
        Events =
        [
            .. known.Select(t => new EventRow(
                t,
                Around.EventName(t),
                Around.EventPhrase(t),
                !EventTypes.All.Contains(t),
                came.GetValueOrDefault(t),
                [.. rules.Where(r => r.When.Contains(t))]
            )),
        ];
        Strange = [.. came.Where(c => !known.Contains(c.Key)).OrderByDescending(c => c.Value).Select(c => (c.Key, c.Value))];
        var used = rules.SelectMany(r => r.Leaves.Select(l => l.Field).Distinct()).CountBy(f => f).ToDictionary();
        var seen = await fields.SeenAsync(cancel);
        var discovered = seen.Values.Where(s => FieldCatalogue.All.All(f => f.Path != s.Path)).Select(s => FieldCatalogue.Find(s.Path)).OfType<Field>();
        Fields =
        [
            .. FieldCatalogue
                .All.Concat(discovered)
                .Concat(FieldCatalogue.OfLines.Where(f => used.ContainsKey(f.Path)))
                .DistinctBy(f => f.Path)
                .Where(f =>
                    f.Type != FieldType.Thing
                    && (
                        string.IsNullOrWhiteSpace(Q)
                        || TextFolding
                            .Fold($"{f.Path} {f.Name} {string.Join(' ', seen.GetValueOrDefault(f.Path)?.Values ?? [])}")
                            .Contains(TextFolding.Fold(Q.Trim()), StringComparison.Ordinal)
                    )
                )
                .Select(f => new FieldRow(
                    f,
                    f.Type == FieldType.Any ? seen.GetValueOrDefault(f.Path)?.Type ?? f.Type : f.Type,
                    seen.GetValueOrDefault(f.Path),
                    used.GetValueOrDefault(f.Path)
                ))
                .OrderBy(f =>
                    f.Field.Path.Contains(".extra.", StringComparison.Ordinal) ? 0
                    : f.Field.Path.StartsWith("order.", StringComparison.Ordinal) ? 1
                    : 2
                )
                .ThenBy(f => f.Field.Path, StringComparer.Ordinal),
        ];
    }
}
