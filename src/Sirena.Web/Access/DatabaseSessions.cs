using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Web.Access;

/// <summary>Keeps sessions in the database: signing out, a new password, another role and removal end them for every node at once.</summary>
public sealed class DatabaseSessions(IDbContextFactory<SirenaDb> factory, IDataProtectionProvider protection, IClock clock) : ITicketStore
{
    private static readonly Duration Usual = Duration.FromHours(12);
    private readonly IDataProtector protector = protection.CreateProtector("sessions");

    /// <summary>Ends all sessions of a user.</summary>
    public static Task<int> EndAsync(SirenaDb db, Guid user, CancellationToken cancel) => db.Sessions.Where(s => s.UserId == user).ExecuteDeleteAsync(cancel);

    /// <inheritdoc/>
    public async Task<string> StoreAsync(AuthenticationTicket ticket)
    {
        var key = Secrets.New("s-");
        await using var db = await factory.CreateDbContextAsync();
        db.Sessions.Add(
            new Session
            {
                Hash = Secrets.Hash(key),
                UserId = Guid.Parse(ticket.Principal.FindFirstValue(ClaimTypes.NameIdentifier)!),
                Ticket = Closed(ticket),
                ExpiresAt = Ends(ticket),
            }
        );
        await db.SaveChangesAsync();
        return key;
    }

    /// <inheritdoc/>
    public async Task RenewAsync(string key, AuthenticationTicket ticket)
    {
        var hash = Secrets.Hash(key);
        var (closed, ends) = (Closed(ticket), Ends(ticket));
        await using var db = await factory.CreateDbContextAsync();
        await db.Sessions.Where(s => s.Hash == hash).ExecuteUpdateAsync(s => s.SetProperty(x => x.Ticket, closed).SetProperty(x => x.ExpiresAt, ends));
    }

    /// <inheritdoc/>
    public async Task<AuthenticationTicket?> RetrieveAsync(string key)
    {
        var hash = Secrets.Hash(key);
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync();
        var kept = await db.Sessions.AsNoTracking().Where(s => s.Hash == hash && s.ExpiresAt > now).Select(s => s.Ticket).FirstOrDefaultAsync();
        return kept is null ? null : TicketSerializer.Default.Deserialize(protector.Unprotect(kept));
    }

    /// <inheritdoc/>
    public async Task RemoveAsync(string key)
    {
        var hash = Secrets.Hash(key);
        await using var db = await factory.CreateDbContextAsync();
        await db.Sessions.Where(s => s.Hash == hash).ExecuteDeleteAsync();
    }

    private byte[] Closed(AuthenticationTicket ticket) => protector.Protect(TicketSerializer.Default.Serialize(ticket));

    private Instant Ends(AuthenticationTicket ticket) =>
        ticket.Properties.ExpiresUtc is { } end ? Instant.FromDateTimeOffset(end) : clock.GetCurrentInstant() + Usual;
}
