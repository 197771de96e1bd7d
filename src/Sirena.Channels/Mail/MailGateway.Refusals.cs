using System.Globalization;
using System.Net.Sockets;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using Sirena.Core.Deliveries;

namespace Sirena.Channels.Mail;

public sealed partial class MailGateway
{
    private HandOver Refused(SmtpCommandException e)
    {
        var stage = e.ErrorCode switch
        {
            SmtpErrorCode.SenderNotAccepted => MailStage.Sender,
            SmtpErrorCode.RecipientNotAccepted => MailStage.Recipient,
            _ => MailStage.Message,
        };
        var blame = new MailRefusal(stage, (int)e.StatusCode, e.Message).Whose(othersPass);
        return new HandOver(
            blame switch
            {
                Blame.Gateway => AttemptOutcome.Gateway,
                Blame.Mailbox => AttemptOutcome.Temporary,
                _ => AttemptOutcome.Permanent,
            },
            Code(e),
            e.Message
        )
        {
            Blame = blame,
        };
    }

    private static string Code(SmtpCommandException e) => ((int)e.StatusCode).ToString(CultureInfo.InvariantCulture);

    private static bool IsTrouble(Exception e) =>
        e
            is IOException
                or SocketException
                or ProtocolException
                or CommandException
                or OperationCanceledException
                or ServiceNotConnectedException
                or ServiceNotAuthenticatedException
                or TimeoutException
                or MailKit.Security.AuthenticationException
                or System.Security.Authentication.AuthenticationException
                or SslHandshakeException
                or NotSupportedException
                or ObjectDisposedException;
}
