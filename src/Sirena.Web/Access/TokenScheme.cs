using System.Security.Claims;
using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using NodaTime;
using Sirena.Core;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Web.Access;

/// <summary>Signs a program in by a person's token in the <c>Authorization</c> header (RFC 6750).</summary>
public sealed class TokenScheme(IOptionsMonitor<AuthenticationSchemeOptions> options, ILoggerFactory logs, UrlEncoder encoder, SirenaDb db, IClock clock)
    : AuthenticationHandler<AuthenticationSchemeOptions>(options, logs, encoder)
{
    // Made once: every call with a token asks it.
    private static readonly Func<SirenaDb, byte[], Instant, Task<User?>> UserOf = EF.CompileAsyncQuery(
        (SirenaDb db, byte[] hash, Instant now) =>
            (
                from t in db.ApiTokens
                where t.Hash == hash && t.Feed == null && (t.RevokedAt == null || t.RevokedAt > now)
                join u in db.Users on t.UserId equals u.Id
                where u.RemovedAt == null
                select u
            )
                .AsNoTracking()
                .FirstOrDefault()
    );

    /// <summary>The scheme's name.</summary>
    public const string SchemeName = "token";

    /// <summary>What every person's token begins with; any other bearer is not ours to judge.</summary>
    public const string Start = "pt-";

    /// <summary>The token of a request, or <see langword="null"/>.</summary>
    public static string? Bearer(HttpRequest request) =>
        request.Headers.Authorization.ToString() is { Length: > 7 } header && header.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase)
            ? header[7..].Trim()
            : null;

    /// <summary>The claims of a user.</summary>
    public static IEnumerable<Claim> Claims(User user) =>
        [
            new(ClaimTypes.NameIdentifier, user.Id.ToString()),
            new(ClaimTypes.Name, user.Name),
            new(ClaimTypes.Role, user.Role.Name()),
            .. user.Person is { } person ? [new Claim("person", person)] : Array.Empty<Claim>(),
        ];

    /// <inheritdoc/>
    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        if (Bearer(Request) is not { } token || !token.StartsWith(Start, StringComparison.Ordinal))
        {
            return AuthenticateResult.NoResult();
        }

        var hash = Secrets.Hash(token);
        var now = clock.GetCurrentInstant();
        var user = await UserOf(db, hash, now);
        return user is null
            ? AuthenticateResult.Fail("The token is not known, or was revoked.")
            : AuthenticateResult.Success(new AuthenticationTicket(new ClaimsPrincipal(new ClaimsIdentity(Claims(user), SchemeName)), SchemeName));
    }
}

/// <summary>Gives the signed-in session the same claims as a token.</summary>
public sealed class SessionClaims(UserManager<User> users, IOptions<IdentityOptions> options) : UserClaimsPrincipalFactory<User>(users, options)
{
    /// <inheritdoc/>
    protected override async Task<ClaimsIdentity> GenerateClaimsAsync(User user)
    {
        var identity = await base.GenerateClaimsAsync(user);
        foreach (var claim in identity.FindAll(c => c.Type is ClaimTypes.Name or ClaimTypes.NameIdentifier).ToArray())
        {
            identity.RemoveClaim(claim);
        }

        identity.AddClaims(TokenScheme.Claims(user));
        return identity;
    }
}
