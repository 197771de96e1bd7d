using MimeKit;
using MimeKit.Text;

namespace Sirena.Channels.Mail;

/// <summary>Makes the RFC 5322 message of an alert.</summary>
public static class AlertMail
{
    /// <summary>The message; the same delivery always has the same Message-ID, so that a repeat can be told.</summary>
    public static MimeMessage Make(OutgoingMessage message, MailSettings settings, DateTimeOffset now)
    {
        var domain = settings.From[(settings.From.IndexOf('@', StringComparison.Ordinal) + 1)..];
        var mail = new MimeMessage
        {
            MessageId = $"{message.Id:N}@{domain}",
            Date = now,
            Subject = message.Subject.ReplaceLineEndings(" "),
            Body = message.Html is null
                ? new TextPart(TextFormat.Plain) { Text = message.Text }
                : new MultipartAlternative(new TextPart(TextFormat.Plain) { Text = message.Text }, new TextPart(TextFormat.Html) { Text = message.Html }),
        };
        mail.From.Add(new MailboxAddress(settings.FromName, settings.From));
        mail.To.Add(MailboxAddress.Parse(message.To));
        mail.Headers.Add("Auto-Submitted", "auto-generated"); // RFC 3834
        mail.Headers.Add(HeaderId.ListId, $"Alerts of {settings.FromName} <alerts.{domain}>"); // RFC 2919
        if (message.OrderNumber is { } number)
        {
            // All mail of one order names the same root, which mail programs thread by (RFC 5322, 3.6.4).
            var root = $"order.{string.Concat(number.Select(c => char.IsAsciiLetterOrDigit(c) || c == '-' ? c : '_'))}@{domain}";
            mail.InReplyTo = root;
            mail.References.Add(root);
        }

        return mail;
    }
}
