using System.Buffers.Text;
using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Channels;
using Sirena.Channels.Push;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Storage;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>The browsers that show push messages, the keys with which they are reached, and what they say back.</summary>
public sealed class PushBook(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    IServiceProvider services,
    LaterNews news,
    Signals signals,
    IClock clock
)
{
    private const string Seen = "push ";

    private Gateways Keys => services.GetRequiredService<Gateways>();

    /// <summary>What a browser needs for a message; <see langword="null"/> when it is not known.</summary>
    public async Task<PushTarget?> FindAsync(string endpoint, Guid message, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var business = (await surroundings.GetAsync(cancel)).Business;
        return
            await db.PushSubscriptions.AsNoTracking().FirstOrDefaultAsync(s => s.Endpoint == endpoint, cancel) is { } found
            && Keys.LinkKey(business) is { } key
            && business.PushPublicKey is { } open
            && Keys.Open(business.PushPrivateKey) is { } secret
            ? new PushTarget(
                found.P256dh,
                Keys.Open(found.Auth)!,
                open,
                secret,
                $"mailto:{business.MailFrom}",
                $"{business.BaseAddress}/push/seen/{LinkMac.For(Seen + message, key)}"
            )
            : null;
    }

    /// <summary>A browser's service worker says that it showed a message.</summary>
    /// <returns>Whether the link is one of ours.</returns>
    public async Task<bool> SeenAsync(string link, CancellationToken cancel)
    {
        var business = (await surroundings.GetAsync(cancel)).Business;
        if (
            Keys.LinkKey(business) is not { } key
            || LinkMac.Read(link, key) is not { } text
            || !text.StartsWith(Seen, StringComparison.Ordinal)
            || !Guid.TryParse(text[Seen.Length..], out var id)
        )
        {
            return false;
        }

        await news.LandedAsync(id, "delivered", "the browser showed it", answered: false, clock.GetCurrentInstant(), cancel);
        signals.Raise(Topic.Pages);
        return true;
    }

    /// <summary>Takes a browser for a person; it becomes a contact point, verified, since it stood up for itself.</summary>
    /// <returns>A sentence on what is wrong, or <see langword="null"/>.</returns>
    public async Task<string?> SubscribeAsync(string person, string endpoint, string p256dh, string auth, string name, CancellationToken cancel)
    {
        if (!Uri.TryCreate(endpoint, UriKind.Absolute, out var address) || address.Scheme is not ("https" or "http") || endpoint.Length > 1000)
        {
            return "The endpoint is no web address.";
        }

        if (!Base64Url.IsValid(p256dh, out var length) || length != 65 || !Base64Url.IsValid(auth, out var secret) || secret != 16)
        {
            return "The browser's keys are not right: p256dh is a point on P-256 in 65 bytes, auth is 16 bytes, both in base64url.";
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.People.FirstOrDefaultAsync(p => p.Id == person, cancel) is not { } who)
        {
            return $"There is no person '{person}'.";
        }

        await db.PushSubscriptions.Where(s => s.Endpoint == endpoint).ExecuteDeleteAsync(cancel);
        db.PushSubscriptions.Add(
            new PushSubscription
            {
                Endpoint = endpoint,
                Person = person,
                P256dh = p256dh,
                Auth = Keys.Close(auth)!,
                Name = name is { Length: > 0 and <= 80 } ? name : "a browser",
                Since = clock.GetCurrentInstant(),
            }
        );
        if (!who.Contacts.Exists(c => c.Channel == Channel.Push && c.Address == endpoint))
        {
            who.Contacts.Add(
                new ContactPoint
                {
                    Channel = Channel.Push,
                    Address = endpoint,
                    Verified = true,
                }
            );
            who.NumberContacts();
        }

        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        return null;
    }

    /// <summary>Gives a browser up.</summary>
    public async Task EndAsync(string person, string endpoint, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await db.PushSubscriptions.Where(s => s.Endpoint == endpoint && s.Person == person).ExecuteDeleteAsync(cancel);
        if (
            await db.People.FirstOrDefaultAsync(p => p.Id == person, cancel) is { } who
            && who.Contacts.RemoveAll(c => c.Channel == Channel.Push && c.Address == endpoint) > 0
        )
        {
            who.NumberContacts();
        }

        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
    }

    /// <summary>
    /// Makes the keys of this business where it has none: that of links and return addresses, and the pair by which push services know us. Whoever comes second
    /// finds them.
    /// </summary>
    public async Task MakeKeysAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.Businesses.AnyAsync(b => b.ReportKey == null, cancel))
        {
            var made = Keys.Close(Convert.ToBase64String(RandomNumberGenerator.GetBytes(32)));
            await db.Businesses.Where(b => b.ReportKey == null).ExecuteUpdateAsync(s => s.SetProperty(b => b.ReportKey, made), cancel);
        }

        if (await db.Businesses.AnyAsync(b => b.PushPublicKey == null, cancel))
        {
            using var pair = ECDsa.Create(ECCurve.NamedCurves.nistP256);
            var parts = pair.ExportParameters(true);
            byte[] point = [4, .. parts.Q.X!, .. parts.Q.Y!];
            var (open, secret) = (Base64Url.EncodeToString(point), Keys.Close(Base64Url.EncodeToString(parts.D!)));
            await db
                .Businesses.Where(b => b.PushPublicKey == null)
                .ExecuteUpdateAsync(s => s.SetProperty(b => b.PushPublicKey, open).SetProperty(b => b.PushPrivateKey, secret), cancel);
        }

        signals.Wake(Topic.Setup);
    }
}
