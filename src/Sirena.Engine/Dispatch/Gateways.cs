using Sirena.Channels;
using Sirena.Channels.Mail;

namespace Sirena.Engine.Dispatch;

/// <summary>The gateways as they are set, made anew when the settings change.</summary>
public sealed class Gateways(SurroundingsCache surroundings, TimeProvider time) : IAsyncDisposable
{
    private (MailSettings Settings, MailGateway Gateway)? mail;

    /// <summary>The mail gateway.</summary>
    public async Task<IGateway> MailAsync(CancellationToken cancel)
    {
        var business = (await surroundings.GetAsync(cancel)).Business;
        var (host, port) = MailSettings.Server(business.MailServer) ?? ("127.0.0.1", 25);
        var settings = new MailSettings(host, port, business.MailFrom, business.Name);
        if (mail is { } kept && kept.Settings == settings)
        {
            return kept.Gateway;
        }

        var made = new MailGateway(settings, time);
        mail = (settings, made);
        return made;
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (mail is { } kept)
        {
            await kept.Gateway.DisposeAsync();
        }
    }
}
