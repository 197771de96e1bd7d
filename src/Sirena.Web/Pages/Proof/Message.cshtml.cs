using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Deliveries;
using Sirena.Engine.Trail;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Proof;

/// <summary>One message as it was sent, with its tries.</summary>
[Authorize(Policies.SeeAll)]
public sealed class MessageModel(SirenaDb db, TrailReader trails) : SirenaPage
{
    /// <summary>The delivery.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid Id { get; set; }

    /// <summary>What is known of it; <see langword="null"/> when it does not exist.</summary>
    public DeliveryView? View { get; private set; }

    /// <summary>Its text.</summary>
    public Message? Message { get; private set; }

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        if (await db.Deliveries.AsNoTracking().FirstOrDefaultAsync(d => d.Id == Id, cancel) is not { } delivery)
        {
            Response.StatusCode = 404;
            return;
        }

        View = new DeliveryView((await trails.DeliveriesAsync([delivery], cancel))[0], Around, Clock, User.MayChange(), SeesMessage: false);
        Files =
        [
            .. (
                await db
                    .MessageFiles.AsNoTracking()
                    .Where(f => f.DeliveryId == Id)
                    .OrderBy(f => f.Number)
                    .Select(f => new
                    {
                        f.Number,
                        f.Name,
                        f.Size,
                    })
                    .ToListAsync(cancel)
            ).Select(f => (f.Number, f.Name, f.Size)),
        ];
        Message = await db.Messages.AsNoTracking().FirstOrDefaultAsync(m => m.DeliveryId == Id || m.DeliveryId == delivery.CarriedBy, cancel);
    }

    /// <summary>The mail as an RFC 5322 file.</summary>
    public async Task<IActionResult> OnGetEmlAsync([FromServices] Engine.Dispatch.Gateways gateways, CancellationToken cancel)
    {
        var delivery = await db.Deliveries.AsNoTracking().FirstOrDefaultAsync(d => d.Id == Id && d.Channel == Channel.Mail, cancel);
        var message = await db.Messages.AsNoTracking().FirstOrDefaultAsync(m => m.DeliveryId == Id && m.Size == null, cancel);
        if (delivery is null || message is null)
        {
            return NotFound();
        }

        var by = await db
            .Attempts.AsNoTracking()
            .Where(a => a.DeliveryId == Id)
            .OrderByDescending(a => a.Number)
            .Select(a => a.Gateway)
            .FirstOrDefaultAsync(cancel);
        using var letter = await gateways.LetterAsync(
            by,
            new Channels.OutgoingMessage(delivery.Id, delivery.To, delivery.OrderNumber, message.Subject, message.Text, message.Html, delivery.Audience)
            {
                Files = await db.MessageFiles.AsNoTracking().Where(f => f.DeliveryId == Id).OrderBy(f => f.Number).ToListAsync(cancel),
            },
            delivery.HandedOverAt ?? delivery.CreatedAt,
            cancel
        );
        var file = new MemoryStream();
        await letter.WriteToAsync(file, cancel);
        file.Position = 0;
        return File(file, "message/rfc822", $"{delivery.OrderNumber ?? "message"}-{delivery.Id.ToString()[..8]}.eml");
    }

    /// <summary>The files that went with it.</summary>
    public IReadOnlyList<(int Number, string Name, int Size)> Files { get; private set; } = [];

    /// <summary>One of them.</summary>
    public async Task<IActionResult> OnGetFileAsync(int number, CancellationToken cancel) =>
        await db.MessageFiles.AsNoTracking().FirstOrDefaultAsync(f => f.DeliveryId == Id && f.Number == number && f.Content.Length > 0, cancel) is { } file
            ? File(file.Content, file.Type, file.Name)
            : NotFound();

    /// <summary>The HTML part alone, in a sandbox: it runs nothing and fetches nothing.</summary>
    public async Task<IActionResult> OnGetHtmlAsync(CancellationToken cancel)
    {
        Response.Headers.ContentSecurityPolicy = "sandbox; default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'self'";
        var html = await db.Messages.AsNoTracking().Where(m => m.DeliveryId == Id).Select(m => m.Html).FirstOrDefaultAsync(cancel);
        return Content(html ?? "<p>There is no HTML part.</p>", "text/html; charset=utf-8");
    }
}
