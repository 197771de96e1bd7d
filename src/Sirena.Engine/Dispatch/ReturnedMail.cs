using Microsoft.Extensions.Logging;
using MimeKit;
using NodaTime;
using Sirena.Channels.Mail;
using Sirena.Storage.Deliveries;
using Sirena.Storage.People;

namespace Sirena.Engine.Dispatch;

/// <summary>Joins the reports that come back to their deliveries. One without a right MAC is noted in the log and applied to nothing.</summary>
public sealed class ReturnedMail(
    Gateways gateways,
    SurroundingsCache surroundings,
    LaterNews news,
    MarkedMessages marked,
    Signals signals,
    IClock clock,
    ILogger<ReturnedMail> log
)
{
    /// <summary>
    /// Takes a letter that somebody wrote: an answer to one of our messages shows that it landed. One that a machine sent by itself shows nothing (RFC 3834).
    /// </summary>
    public async Task TakeReplyAsync(MimeMessage letter, CancellationToken cancel)
    {
        if (letter.Headers["Auto-Submitted"] is { } auto && !auto.Trim().Equals("no", StringComparison.OrdinalIgnoreCase))
        {
            return;
        }

        foreach (var id in letter.References.Append(letter.InReplyTo).OfType<string>())
        {
            if (Guid.TryParseExact(id.Split('@')[0], "N", out var delivery))
            {
                await news.LandedAsync(
                    delivery,
                    "replied",
                    $"a reply from {letter.From.Mailboxes.FirstOrDefault()?.Address}",
                    answered: false,
                    clock.GetCurrentInstant(),
                    cancel
                );
                signals.Raise(Topic.Pages);
            }
        }
    }

    /// <summary>Takes a letter.</summary>
    /// <param name="to">The address that it came to.</param>
    /// <param name="letter">The letter.</param>
    public async Task TakeAsync(string to, MimeMessage letter, CancellationToken cancel)
    {
        if (gateways.LinkKey((await surroundings.GetAsync(cancel)).Business) is not { } key || ReturnAddress.Read(to, key) is not { } delivery)
        {
            log.LogWarning("A letter to {Address} is no report about a delivery of ours.", to);
            return;
        }

        if (MailReport.Read(letter) is not { } report)
        {
            return;
        }

        var now = clock.GetCurrentInstant();
        if (report.Action != ReportAction.Delivered && report.Action != ReportAction.Failed)
        {
            return;
        }

        if (await marked.HeardAsync(delivery.ToString(), null, report.Action == ReportAction.Delivered, report.Words, cancel))
        {
            return;
        }

        if (report.Action == ReportAction.Delivered)
        {
            await news.LandedAsync(delivery, "delivered", report.Words, answered: false, now, cancel);
        }
        else
        {
            await news.FailedAsync(delivery, "bounced", report.Words, now, cancel);
            signals.Raise(Topic.Setup);
            signals.Raise(Topic.Deliveries);
        }

        signals.Raise(Topic.Pages);
    }
}
