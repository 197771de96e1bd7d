using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Channels.Mail;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Engine.Dispatch;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Connections;

/// <summary>The names and addresses that mail comes from, their codes, and what their domains publish.</summary>
[Authorize(Policies.SeeAll)]
public sealed class SendersModel(SenderDesk desk, SirenaDb db) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => "senders";

    /// <summary>The chosen one; 0 for one that is being made.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Id { get; set; }

    /// <summary>All of them.</summary>
    public IReadOnlyList<Sender> Senders { get; private set; } = [];

    /// <summary>The chosen one.</summary>
    public Sender? Chosen => Senders.FirstOrDefault(s => s.Id == Id);

    /// <summary>What its domain publishes, once looked up.</summary>
    public IReadOnlyList<SenderRecord>? Records { get; private set; }

    /// <summary>The mistakes by member.</summary>
    public IReadOnlyDictionary<string, string> Errors { get; private set; } = new Dictionary<string, string>();

    /// <summary>A member of the form: what was typed, else what is set.</summary>
    public string Value(string name, string? set) => Request.HasFormContentType && Request.Form.TryGetValue(name, out var typed) ? typed.ToString() : set ?? "";

    /// <summary>
    /// From whom mail to each kind of reader comes today, by the first mail gateway in use: a sender, or the address that stands where none is.
    /// </summary>
    public IReadOnlyList<(Audience To, Sender? Sender, string Address)> Today
    {
        get
        {
            var first = Around.Gateways.Where(g => g.Channel == Channel.Mail && g.On).MinBy(g => g.Position);
            return
            [
                .. Enum.GetValues<Audience>()
                    .Select(a => (a, Sender: Sender.For(Senders, a, first?.Id)))
                    .Select(x => (x.a, x.Sender, x.Sender?.Address ?? first?.Sender ?? Around.Business.MailFrom)),
            ];
        }
    }

    /// <summary>The domains of the addresses that are used today.</summary>
    public IEnumerable<string> Domains => Today.Select(t => MailAddress.DomainOf(t.Address)).Distinct(StringComparer.OrdinalIgnoreCase);

    /// <summary>What a domain that is used today publishes: asked for by the page once it stands, since name servers take their time.</summary>
    public async Task<IActionResult> OnGetDomainAsync(string? domain, CancellationToken cancel)
    {
        await LoadAsync(cancel);
        return Domains.FirstOrDefault(d => d.Equals(domain, StringComparison.OrdinalIgnoreCase)) is { } own
            ? Partial("_Records", await desk.RecordsAsync(own, [], cancel))
            : NotFound();
    }

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(bool records, CancellationToken cancel)
    {
        await LoadAsync(cancel);
        Records = records && Chosen is { } chosen ? await desk.RecordsAsync(chosen, cancel) : null;
    }

    /// <summary>Saves one.</summary>
    public async Task<IActionResult> OnPostSaveAsync(
        string? name,
        string? address,
        string? replyTo,
        string[] purposes,
        string[] usable,
        CancellationToken cancel
    )
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var (id, errors) = await desk.SaveAsync(
            Id is 0 ? null : Id,
            name ?? "",
            address ?? "",
            replyTo,
            [.. purposes.Select(p => Names.Parse<Audience>(p)).OfType<Audience>()],
            usable,
            User.Name(),
            cancel
        );
        if (id is null)
        {
            (Errors, Response.StatusCode) = (errors, 422);
            await LoadAsync(cancel);
            return Page();
        }

        Said = "Saved. It is used once its code has come back.";
        return Redirect("/channels/senders?id=" + id);
    }

    /// <summary>Sends a code.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostCodeAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        (_, Said) = await desk.SendCodeAsync(Id ?? 0, cancel);
        return Redirect("/channels/senders?id=" + Id);
    }

    /// <summary>Takes a code back.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostVerifyAsync(string? code, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.VerifyAsync(Id ?? 0, code ?? "", User.Name(), cancel)
            ? "Verified: mail comes from it from the next message on."
            : "That is not the code, or it has run out. Send another.";
        return Redirect("/channels/senders?id=" + Id);
    }

    /// <summary>Takes one away.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        await desk.RemoveAsync(Id ?? 0, User.Name(), cancel);
        Said = "The sender is removed.";
        return Redirect("/channels/senders");
    }

    private async Task LoadAsync(CancellationToken cancel) => Senders = await db.Senders.AsNoTracking().OrderBy(s => s.Id).ToListAsync(cancel);
}
