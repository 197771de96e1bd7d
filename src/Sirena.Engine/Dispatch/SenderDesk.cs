using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Channels;
using Sirena.Channels.Mail;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// The names and addresses that mail comes from: set, verified by a code that a mail to and from the address itself brings, and looked up in the domain's
/// published records.
/// </summary>
public sealed class SenderDesk(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    Gateways gateways,
    SenderRecords records,
    Signals signals,
    IClock clock
)
{
    private static readonly Duration CodeLasts = Duration.FromHours(1);

    /// <summary>Sets a sender; a changed address is to be verified again.</summary>
    /// <returns>The mistakes by member; none when it is saved.</returns>
    public async Task<(int? Id, IReadOnlyDictionary<string, string> Errors)> SaveAsync(
        int? id,
        string name,
        string address,
        string? replyTo,
        IReadOnlyList<Audience> purposes,
        IReadOnlyList<string> usable,
        string by,
        CancellationToken cancel
    )
    {
        var errors = new Dictionary<string, string>();
        if (!MailAddress.TryParse(address, out var good, out var problem))
        {
            errors["address"] = $"This address {problem}.";
        }

        string? replies = null;
        if (!string.IsNullOrWhiteSpace(replyTo))
        {
            if (MailAddress.TryParse(replyTo, out var read, out problem))
            {
                replies = read.ToString();
            }
            else
            {
                errors["replyTo"] = $"This address {problem}.";
            }
        }

        if (!NameText.Fits(name, 80))
        {
            errors["name"] = "A name of at most 80 characters stands beside the address.";
        }

        if (purposes.Count == 0)
        {
            errors["purposes"] = "Say whose mail comes from it: staff's, customers', outside addresses'.";
        }

        if (errors.Count > 0)
        {
            return (null, errors);
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        var sender = id is { } known ? await db.Senders.FirstOrDefaultAsync(s => s.Id == known, cancel) : null;
        if (sender is null)
        {
            sender = new Sender { Name = name, Address = good.ToString()! };
            db.Senders.Add(sender);
        }

        if (!string.Equals(sender.Address, good.ToString(), StringComparison.OrdinalIgnoreCase))
        {
            (sender.VerifiedAt, sender.CodeHash) = (null, null);
        }

        (sender.Name, sender.Address, sender.ReplyTo, sender.Purposes, sender.Gateways) = (
            name.Trim(),
            good.ToString()!,
            replies,
            [.. purposes.Distinct()],
            [.. usable.Distinct()]
        );
        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = "senders",
                What = $"Set the sender '{sender.Name}' <{sender.Address}>.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        return (sender.Id, errors);
    }

    /// <summary>Takes a sender away.</summary>
    public async Task RemoveAsync(int id, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.Senders.FirstOrDefaultAsync(s => s.Id == id, cancel) is { } sender)
        {
            db.Senders.Remove(sender);
            db.Audit.Add(
                new AuditEntry
                {
                    At = clock.GetCurrentInstant(),
                    By = by,
                    Thing = "senders",
                    What = $"Removed the sender '{sender.Name}' <{sender.Address}>.",
                }
            );
            await db.SaveChangesAsync(cancel);
            signals.Raise(Topic.Setup);
        }
    }

    /// <summary>
    /// Sends a code from the address to itself, by a gateway that it may use: whoever reads it owns the mailbox, and the server accepted the sender.
    /// </summary>
    /// <returns>A sentence on how it went, and whether it went.</returns>
    public async Task<(bool Sent, string Words)> SendCodeAsync(int id, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.Senders.FirstOrDefaultAsync(s => s.Id == id, cancel) is not { } sender)
        {
            return (false, "There is no such sender.");
        }

        var code = RandomNumberGenerator.GetInt32(100_000, 1_000_000).ToString(System.Globalization.CultureInfo.InvariantCulture);
        var around = await surroundings.GetAsync(cancel);
        var message = new OutgoingMessage(
            Guid.CreateVersion7(),
            sender.Address,
            null,
            $"Code for {sender.Address}",
            $"The code is {code}. It makes {sender.Address} a sender of {around.Business.Name} and counts for an hour.\r\n\r\nIf you asked for none, "
                + "do nothing.\r\n",
            null
        );
        var result = await gateways.SendAsAsync(sender, message, around, cancel);
        if (result.Outcome != AttemptOutcome.Accepted)
        {
            return (false, $"The mail server did not take a mail from {sender.Address}: {result.Reply}");
        }

        (sender.CodeHash, sender.CodeUntil) = (Secrets.Hash(code), clock.GetCurrentInstant() + CodeLasts);
        await db.SaveChangesAsync(cancel);
        return (true, $"A code is on its way to {sender.Address}; it counts for an hour.");
    }

    /// <summary>Takes the code back.</summary>
    /// <returns>Whether it was the right one, in time.</returns>
    public async Task<bool> VerifyAsync(int id, string code, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var now = clock.GetCurrentInstant();
        if (
            await db.Senders.FirstOrDefaultAsync(s => s.Id == id, cancel) is not { CodeHash: { } hash, CodeUntil: { } until } sender
            || until < now
            || !CryptographicOperations.FixedTimeEquals(hash, Secrets.Hash(code.Trim()))
        )
        {
            return false;
        }

        (sender.VerifiedAt, sender.CodeHash, sender.CodeUntil) = (now, null, null);
        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = by,
                Thing = "senders",
                What = $"Verified the sender <{sender.Address}> by its code.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        return true;
    }

    /// <summary>What the sender's domain publishes, explained.</summary>
    public Task<IReadOnlyList<SenderRecord>> RecordsAsync(Sender sender, CancellationToken cancel) =>
        RecordsAsync(MailAddress.DomainOf(sender.Address), sender.Gateways, cancel);

    /// <summary>What a domain publishes about its mail, explained for the gateway by which it goes out first.</summary>
    /// <param name="domain">The part of an address after the @.</param>
    /// <param name="usable">The gateways that accept it; none for all.</param>
    /// <param name="cancel">Stops asking.</param>
    public async Task<IReadOnlyList<SenderRecord>> RecordsAsync(string domain, IReadOnlyCollection<string> usable, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var gateway = around.Gateways.FirstOrDefault(g => g.Channel == Channel.Mail && g.On && (usable.Count == 0 || usable.Contains(g.Id)));
        var host = MailSettings.Server(gateway?.Address ?? around.Business.MailServer)?.Host ?? "your mail server";
        return await records.LookUpAsync(domain, host, gateway?.DkimSelector, cancel);
    }
}
