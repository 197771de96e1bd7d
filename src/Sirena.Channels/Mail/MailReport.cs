using MimeKit;

namespace Sirena.Channels.Mail;

/// <summary>What a report says of a message.</summary>
public enum ReportAction
{
    /// <summary>It is in the mailbox.</summary>
    Delivered,

    /// <summary>It will not be.</summary>
    Failed,

    /// <summary>Not yet; nothing is decided.</summary>
    Delayed,
}

/// <summary>A delivery status notification (RFC 3464), or a plain bounce.</summary>
/// <param name="Action">What became of the message.</param>
/// <param name="Words">The far end's words.</param>
public sealed record MailReport(ReportAction Action, string Words)
{
    /// <summary>Reads a message that came back; <see langword="null"/> when it reports nothing, such as an out-of-office reply.</summary>
    public static MailReport? Read(MimeMessage message)
    {
        if (message.BodyParts.OfType<MessageDeliveryStatus>().FirstOrDefault() is { } status)
        {
            foreach (var group in status.StatusGroups.Skip(1))
            {
                var words = Said(
                    group["Status"]?.Trim() ?? "",
                    group["Diagnostic-Code"]?.Replace("smtp;", "", StringComparison.OrdinalIgnoreCase).Trim() ?? ""
                );
                switch (group["Action"]?.Trim().ToLowerInvariant())
                {
                    case "delivered":
                        return new MailReport(ReportAction.Delivered, words.Length > 0 ? words : "delivered");
                    case "failed":
                        return new MailReport(ReportAction.Failed, words.Length > 0 ? words : "failed");
                    case "delayed":
                        return new MailReport(ReportAction.Delayed, words.Length > 0 ? words : "delayed");
                    case "relayed" or "expanded":
                        return new MailReport(ReportAction.Delayed, $"went on to a system that gives no report {words}".Trim());
                }
            }

            return null;
        }

        // Old servers send a plain letter: from the mailer daemon, with the reason in its text.
        var from = message.From.Mailboxes.FirstOrDefault()?.Address ?? "";
        if (!from.StartsWith("mailer-daemon@", StringComparison.OrdinalIgnoreCase) && !from.StartsWith("postmaster@", StringComparison.OrdinalIgnoreCase))
        {
            return null;
        }

        var text = string.Join(
            " ",
            (message.TextBody ?? message.Subject ?? "returned").Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Take(3)
        );
        return new MailReport(ReportAction.Failed, text.Length > 300 ? text[..300] : text);
    }

    // A server's own words mostly hold the status already: '5.1.1' and 'smtp; 550 5.1.1 Nobody here' say it once.
    private static string Said(string status, string diagnostic) =>
        diagnostic.Contains(status, StringComparison.Ordinal) ? diagnostic : $"{status} {diagnostic}".Trim();
}
