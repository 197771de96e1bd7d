using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Web;

/// <summary>The first start on an empty database: a one-time link by which the first supervisor makes themselves known.</summary>
public static class FirstStart
{
    /// <summary>Prints the link when nobody can sign in yet.</summary>
    public static async Task PrintLinkAsync(IServiceProvider services, string url)
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync();
        if (await db.Users.AnyAsync())
        {
            return;
        }

        var secret = Secrets.New("set-up-");
        var now = services.GetRequiredService<IClock>().GetCurrentInstant();
        db.OneTimeLinks.Add(new OneTimeLink { Hash = Secrets.Hash(secret), ExpiresAt = now + Duration.FromHours(24) });
        await db.SaveChangesAsync();
        Console.WriteLine($"Nobody can sign in yet. Open this link within 24 hours to set Sirena up: {url.Split(';')[0].TrimEnd('/')}/set-up/{secret}");
    }
}
