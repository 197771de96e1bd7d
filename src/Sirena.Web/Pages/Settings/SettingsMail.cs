using Sirena.Channels;
using Sirena.Core.Deliveries;
using Sirena.Engine;
using Sirena.Engine.Dispatch;

namespace Sirena.Web.Pages.Settings;

/// <summary>
/// Sends what is about signing in and about addresses: invitations, new passwords, codes. They are not deliveries; whoever asked sees at once whether they
/// went.
/// </summary>
public sealed class SettingsMail(Gateways gateways, SurroundingsCache surroundings, ILogger<SettingsMail> log)
{
    /// <summary>Sends a link.</summary>
    /// <returns><see langword="null"/> when the mail server took it, else its words.</returns>
    public Task<string?> SendAsync(string to, string subject, string text, CancellationToken cancel) => SendAsync(Channel.Mail, to, subject, text, cancel);

    /// <summary>Begins to send a link and waits for nothing: how long an answer takes tells nobody whether an address is known.</summary>
    public void Begin(string to, string subject, string text) =>
        Task.Run(async () =>
        {
            string? problem;
            try
            {
                problem = await SendAsync(to, subject, text, CancellationToken.None);
            }
            catch (Exception e)
            {
                problem = e.Message;
            }

            if (problem is not null)
            {
                log.LogWarning("The mail '{Subject}' was not sent: {Problem}", subject, problem);
            }
        });

    /// <summary>Sends a short text by any channel that has a gateway.</summary>
    /// <returns><see langword="null"/> when the gateway took it, else what is in the way.</returns>
    public async Task<string?> SendAsync(Channel channel, string to, string subject, string text, CancellationToken cancel)
    {
        var business = (await surroundings.GetAsync(cancel)).Business;
        var gateway = channel == Channel.Mail ? await gateways.MailAsync(cancel) : (await gateways.PickAsync(channel, cancel))?.Gateway;
        if (gateway is null)
        {
            return $"no {channel.Traits().Word} gateway is set up, or none works now";
        }

        var whole = channel == Channel.Mail ? $"{text}\r\n\r\n{business.Name}, by Sirena\r\n" : text;
        var result = await gateway.HandOverAsync(new OutgoingMessage(Guid.CreateVersion7(), to, null, subject, whole, null), cancel);
        return result.Outcome == AttemptOutcome.Accepted ? null : result.Reply;
    }
}
