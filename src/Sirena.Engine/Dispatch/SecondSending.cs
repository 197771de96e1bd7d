using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Dispatch;

/// <summary>Sends a delivery again because somebody asked for it.</summary>
public sealed partial class SecondSending(IDbContextFactory<SirenaDb> factory, Signals signals, IClock clock)
{
    /// <summary>
    /// One that did not arrive is put back into the queue with a new deadline; one that went over gets a second delivery beside it, so that what is known of
    /// the first stays.
    /// </summary>
    /// <returns>Whether it is on its way, and a sentence on what was done; <see langword="null"/> when there is no such delivery.</returns>
    public async Task<(bool Sent, string Said)?> SendAsync(Guid id, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var found = await db.Deliveries.AsNoTracking().FirstOrDefaultAsync(d => d.Id == id, cancel);
        if (found is null)
        {
            return null;
        }

        var now = clock.GetCurrentInstant();
        var deadline = now + Urgency.Prompt.Deadline();
        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = by,
                What = $"Sent the delivery {id} to {found.To} again; it was {found.State}.",
            }
        );
        if (found.State is DeliveryState.Failed or DeliveryState.Expired or DeliveryState.Waiting)
        {
            await db
                .Deliveries.Where(d =>
                    d.Id == id && (d.State == DeliveryState.Failed || d.State == DeliveryState.Expired || (d.State == DeliveryState.Waiting && d.Lease == null))
                )
                .ExecuteUpdateAsync(
                    set =>
                        set.SetProperty(d => d.State, DeliveryState.Waiting)
                            .SetProperty(d => d.DueAt, now)
                            .SetProperty(d => d.Deadline, deadline)
                            .SetProperty(d => d.Reason, $"sent again by {by}"),
                    cancel
                );
        }
        else if (await db.Messages.AsNoTracking().FirstOrDefaultAsync(m => m.DeliveryId == id && m.Size == null, cancel) is { } message)
        {
            await AddAsync(db, found, message, found.Person, found.Audience, found.To, now, deadline, by, cancel);
        }
        else
        {
            return (false, "There is no message to send: this reader was told by another rule's message.");
        }

        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Deliveries);
        signals.Raise(Topic.Pages);
        return (true, $"It is on its way to {found.To} again.");
    }

    /// <summary>Sends a delivery's message to another person, by the same channel, with a link of their own to answer by.</summary>
    /// <returns>A sentence on what was done, or on why it was not.</returns>
    public async Task<string> SendToAsync(Guid id, string person, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var found = await db.Deliveries.AsNoTracking().FirstOrDefaultAsync(d => d.Id == id, cancel);
        var message = await db.Messages.AsNoTracking().FirstOrDefaultAsync(m => m.DeliveryId == id && m.Size == null, cancel);
        if (found is null || message is null)
        {
            return "There is no message to send: this reader was told by another rule's message, or its text is no longer kept.";
        }

        var who = (await db.People.AsNoTracking().FirstOrDefaultAsync(p => p.Id == person && p.ArchivedAt == null, cancel))?.InOrder();
        if (
            who?.Contacts.Where(c => c.Channel == found.Channel && c.BrokenAt is null && !c.Pending).OrderByDescending(c => c.Verified).FirstOrDefault()
            is not { } contact
        )
        {
            return $"{who?.Name ?? person} has no address that works by {found.Channel.Traits().Word}.";
        }

        var now = clock.GetCurrentInstant();
        var (key, code) = (
            System.Buffers.Text.Base64Url.EncodeToString(System.Security.Cryptography.RandomNumberGenerator.GetBytes(16)),
            System.Security.Cryptography.RandomNumberGenerator.GetInt32(1000, 10_000).ToString(System.Globalization.CultureInfo.InvariantCulture)
        );
        string Own(string text) => Code().Replace(Link().Replace(text, "/a/" + key), "OK " + code);
        await AddAsync(
            db,
            found,
            new Message
            {
                DeliveryId = id,
                Subject = message.Subject,
                Text = Own(message.Text),
                Html = message.Html is { } html ? Own(html) : null,
                Attach = message.Attach,
                Files = message.Files,
            },
            person,
            Core.People.Audience.Staff,
            contact.Address,
            now,
            now + Urgency.Prompt.Deadline(),
            by,
            cancel
        );
        if (Link().IsMatch(message.Text))
        {
            db.AnswerLinks.Add(
                new AnswerLink
                {
                    Hash = Secrets.Hash(key),
                    AlertId = found.AlertId,
                    DeliveryId = db.ChangeTracker.Entries<Delivery>().Single().Entity.Id,
                    Person = person,
                    Contact = contact.Address,
                    Code = code,
                    ExpiresAt = now + AnswerLink.Lifetime,
                }
            );
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = by,
                What = $"Sent the message of delivery {id} to {who.Name} at {contact.Address} too.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Deliveries);
        signals.Raise(Topic.Pages);
        return $"It is on its way to {who.Name} at {contact.Address}.";
    }

    /// <summary>Sends all deliveries of a filter again, as many as the asker was shown.</summary>
    /// <param name="ids">The deliveries.</param>
    /// <param name="by">Who asks.</param>
    /// <returns>How many are on their way.</returns>
    public async Task<int> SendAllAsync(IReadOnlyList<Guid> ids, string by, CancellationToken cancel)
    {
        var sent = 0;
        foreach (var id in ids)
        {
            sent += await SendAsync(id, by, cancel) is { Sent: true } ? 1 : 0;
        }

        return sent;
    }

    private static async Task AddAsync(
        SirenaDb db,
        Delivery found,
        Message message,
        string? person,
        Core.People.Audience audience,
        string to,
        Instant now,
        Instant deadline,
        string by,
        CancellationToken cancel
    )
    {
        var second = Guid.CreateVersion7(now.ToDateTimeOffset());
        db.Deliveries.Add(
            new Delivery
            {
                Id = second,
                AlertId = found.AlertId,
                OrderNumber = found.OrderNumber,
                RuleId = found.RuleId,
                Step = found.Step,
                Person = person,
                Audience = audience,
                Channel = found.Channel,
                Urgent = found.Urgent,
                To = to,
                State = DeliveryState.Waiting,
                Reason = $"sent again by {by}",
                CreatedAt = now,
                DueAt = now,
                Deadline = deadline,
            }
        );

        // What went with it goes again as it was kept, or is still to be made.
        var files =
            message.Files > 0
                ? await db.MessageFiles.AsNoTracking().Where(f => f.DeliveryId == message.DeliveryId && f.Content.Length > 0).ToListAsync(cancel)
                : [];
        db.MessageFiles.AddRange(
            files.Select(f => new MessageFile
            {
                DeliveryId = second,
                Number = f.Number,
                Name = f.Name,
                Type = f.Type,
                Content = f.Content,
                Size = f.Size,
                Inline = f.Inline,
            })
        );
        db.Messages.Add(
            new Message
            {
                DeliveryId = second,
                Subject = message.Subject,
                Text = message.Text,
                Html = message.Html,
                Attach = message.Attach,
                Files = files.Count,
            }
        );
    }

    [GeneratedRegex("/a/[A-Za-z0-9_-]{22}")]
    private static partial Regex Link();

    [GeneratedRegex(@"\bOK \d{4}\b")]
    private static partial Regex Code();
}
