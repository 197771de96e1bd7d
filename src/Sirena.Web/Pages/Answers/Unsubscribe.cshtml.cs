using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using Sirena.Channels;
using Sirena.Engine;
using Sirena.Engine.Dispatch;
using Sirena.Storage;
using Sirena.Storage.Deliveries;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Answers;

/// <summary>
/// Where a customer ends mail about orders: by the page's button, or by the one that mail programs draw from List-Unsubscribe-Post (RFC 8058), which carries no
/// form token.
/// </summary>
[AllowAnonymous]
[IgnoreAntiforgeryToken]
[EnableRateLimiting("answers")]
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class UnsubscribeModel(SirenaDb db, Gateways gateways, Signals signals) : SirenaPage
{
    /// <summary>The link's key.</summary>
    [BindProperty(SupportsGet = true)]
    public string Key { get; set; } = "";

    /// <summary>The address; <see langword="null"/> when the link is none of ours.</summary>
    public string? Address =>
        gateways.LinkKey(Around.Business) is { } key
            ? LinkMac.Read(Key, key) is { } text && text.Contains('@', StringComparison.Ordinal)
                ? text
                : null
            : null;

    /// <summary>It is ended.</summary>
    public bool Ended { get; private set; }

    /// <inheritdoc/>
    protected override Core.Wordings.TextLanguage PageLanguage => BrowserLanguage;

    /// <summary>Opening it changes nothing.</summary>
    public IActionResult OnGet()
    {
        Response.StatusCode = Address is null ? 404 : 200;
        return Page();
    }

    /// <summary>Ends it.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        if (Address is not { } address)
        {
            Response.StatusCode = 404;
            return Page();
        }

        await db.RefuseAsync(Core.Deliveries.Channel.Mail, address, Clock.Now, cancel);
        signals.Raise(Topic.Setup);
        Ended = true;
        return Page();
    }
}
