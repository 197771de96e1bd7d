using Sirena.Channels;
using Sirena.Core.Deliveries;
using Sirena.Engine;
using Sirena.Engine.Dispatch;

namespace Sirena.Web.Pages.Settings;

/// <summary>Sends the mails about sign-in: invitations and new passwords. They are not deliveries; whoever asked sees at once whether they went.</summary>
public sealed class SettingsMail(Gateways gateways, SurroundingsCache surroundings)
{
    /// <summary>Sends a link.</summary>
    /// <returns><see langword="null"/> when the mail server took it, else its words.</returns>
    public async Task<string?> SendAsync(string to, string subject, string text, CancellationToken cancel)
    {
        var business = (await surroundings.GetAsync(cancel)).Business;
        var gateway = await gateways.MailAsync(cancel);
        var result = await gateway.HandOverAsync(new OutgoingMessage(Guid.CreateVersion7(), to, null, subject, $"{text}\r\n\r\n{business.Name}, by Sirena\r\n", null), cancel);
        return result.Outcome == AttemptOutcome.Accepted ? null : result.Reply;
    }
}
