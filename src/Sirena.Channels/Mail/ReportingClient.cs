using MailKit;
using MailKit.Net.Smtp;
using MimeKit;

namespace Sirena.Channels.Mail;

/// <summary>Asks for delivery status notifications where the server offers them (RFC 3461).</summary>
internal sealed class ReportingClient : SmtpClient
{
    public ReportingClient() => DeliveryStatusNotificationType = DeliveryStatusNotificationType.HeadersOnly;

    public ReportingClient(IProtocolLogger log)
        : base(log) => DeliveryStatusNotificationType = DeliveryStatusNotificationType.HeadersOnly;

    protected override DeliveryStatusNotification? GetDeliveryStatusNotifications(MimeMessage message, MailboxAddress mailbox) =>
        DeliveryStatusNotification.Success | DeliveryStatusNotification.Failure | DeliveryStatusNotification.Delay;

    protected override string GetEnvelopeId(MimeMessage message) => message.MessageId ?? "";
}
