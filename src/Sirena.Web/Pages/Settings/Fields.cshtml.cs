using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Wordings;
using Sirena.Engine;
using Sirena.Engine.Orders;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>The fields of orders that are the business's own: what they are called, and where they are shown.</summary>
[Authorize(Policies.Change)]
public sealed class FieldsModel(SirenaDb db, FieldWatch fields, Signals signals) : SirenaPage
{
    // Fields that came and were not chosen; more of them would bury those that were.
    private const int MostOffered = 30;
    private IReadOnlyDictionary<string, SeenField> seen = new Dictionary<string, SeenField>();

    /// <inheritdoc/>
    protected override string? Thing => "own-fields";

    /// <summary>What is wrong.</summary>
    public string? Problem { get; private set; }

    /// <summary>The fields: those that are chosen, those that came in events, then an empty one to be typed.</summary>
    public IReadOnlyList<OwnField> Fields { get; private set; } = [];

    /// <summary>The languages in which a field has another name.</summary>
    public static IEnumerable<TextLanguage> Languages => TextLanguage.All.Where(l => l != TextLanguage.En);

    /// <summary>Its path was typed here, and can be typed anew: it is none that came or is chosen.</summary>
    public bool Typed(OwnField field) =>
        !(FieldCatalogue.IsOrderExtra(field.Path) && (seen.ContainsKey(field.Path) || Around.Business.OwnFields.Exists(f => f.Path == field.Path)));

    /// <summary>The last values that came for a field, joined; empty for none.</summary>
    public string Came(OwnField field) => string.Join(", ", seen.GetValueOrDefault(field.Path)?.Values.Take(4) ?? []);

    /// <summary>Shows them.</summary>
    public Task OnGetAsync(CancellationToken cancel) => LoadAsync(Around.Business.OwnFields, cancel);

    /// <summary>Saves them, all or none: a field without a place to be shown is not kept.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var given = Given(await Request.ReadFormAsync(cancel));
        OwnField[] chosen = [.. given.Where(f => f.Shown)];
        await LoadAsync(given, cancel);
        Problem = OwnField.Problem(chosen)
            ?? (given.Find(f => !f.Shown && Typed(f)) is { } idle ? $"{idle.Path} has no tick: tick where it is to be shown, or leave it out." : null);
        if (Problem is not null)
        {
            Response.StatusCode = 422;
            return Page();
        }

        (await db.Businesses.SingleAsync(cancel)).OwnFields = [.. chosen];
        var what = chosen.Length == 0 ? "Shows no field of its own any more." : $"Shows its own fields {string.Join(", ", chosen.Select(f => f.Name))}.";
        db.Audit.Add(
            new AuditEntry
            {
                At = Clock.Now,
                By = User.Name(),
                Thing = Thing!,
                What = what,
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        Said = "Saved. In force in lists at once, and from the next message.";
        return RedirectToPage();
    }

    private static List<OwnField> Given(IFormCollection form)
    {
        var given = new List<OwnField>();
        for (var i = 0; i < 100 && form.ContainsKey($"path-{i}"); i++)
        {
            if (form[$"path-{i}"].ToString().Trim() is not { Length: > 0 } path)
            {
                continue;
            }

            string Get(string name) => form[$"{name}-{i}"].ToString().Trim();
            bool Is(string name) => form[$"{name}-{i}"].Contains("true");
            given.Add(
                new OwnField(path, Get("name") is { Length: > 0 } name ? name : Usual(path))
                {
                    Names = Languages.Where(l => Get("name-" + l.Code).Length > 0).ToDictionary(l => l.Code, l => Get("name-" + l.Code)),
                    InLists = Is("lists"),
                    InMessages = Is("messages"),
                    InShort = Is("short"),
                    ForCustomers = Is("customers"),
                }
            );
        }

        return given;
    }

    private async Task LoadAsync(IReadOnlyList<OwnField> given, CancellationToken cancel)
    {
        seen = await fields.SeenAsync(cancel);
        var offered = seen
            .Keys.Where(p => FieldCatalogue.IsOrderExtra(p) && given.All(f => f.Path != p))
            .Order(StringComparer.Ordinal)
            .Take(MostOffered)
            .Select(p => new OwnField(p, Usual(p)));
        Fields = [.. given, .. offered, new OwnField("", "")];
    }

    // The order system's name for it, until the business gives it one.
    private static string Usual(string path) => Sentences.Capital(FieldCatalogue.Find(path)?.Name ?? "");
}
