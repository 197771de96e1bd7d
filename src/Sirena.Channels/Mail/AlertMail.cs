using MimeKit;
using MimeKit.Cryptography;
using MimeKit.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Channels.Mail;

/// <summary>Makes the RFC 5322 message of an alert.</summary>
public static class AlertMail
{
    /// <summary>The message; the same delivery always has the same Message-ID, so that a repeat can be told.</summary>
    public static MimeMessage Make(OutgoingMessage message, MailSettings settings, DateTimeOffset now)
    {
        var sender = settings.SenderFor(message.Audience);
        var domain = sender.Domain;
        var mail = new MimeMessage
        {
            MessageId = $"{message.Id:N}@{domain}",
            Date = now,
            Subject = message.Subject.ReplaceLineEndings(" "),
            Body = Body(message, settings),
        };
        mail.From.Add(new MailboxAddress(sender.Name, sender.Address));
        if (sender.ReplyTo is { } replies)
        {
            mail.ReplyTo.Add(MailboxAddress.Parse(replies));
        }

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

        if (message.Audience == Audience.Customer && settings.Unsubscribe is { } end)
        {
            mail.Headers.Add(HeaderId.ListUnsubscribe, $"<{end(message.To)}>");
            mail.Headers.Add(HeaderId.ListUnsubscribePost, "List-Unsubscribe=One-Click"); // RFC 8058
        }

        if (settings.Dkim is { } dkim)
        {
            Sign(mail, dkim, domain);
        }

        return mail;
    }

    // Text and HTML are alternatives (RFC 2046, 5.1.4); pictures in the text are related to the HTML (RFC 2387), files stand beside both.
    private static MimeEntity Body(OutgoingMessage message, MailSettings settings)
    {
        var plain = new TextPart(TextFormat.Plain) { Text = message.Text };
        if (message.Html is not { } html)
        {
            return message.Files.Count == 0 ? plain : Beside(plain, message.Files);
        }

        MimeEntity page = new TextPart(TextFormat.Html) { Text = html };
        var inline = message.Files.Where(f => f.Inline).ToList();
        if (settings.Logo is { } logo && html.Contains("cid:logo", StringComparison.Ordinal))
        {
            inline.Add(
                new MessageFile
                {
                    Name = "logo",
                    Type = "image/png",
                    Content = logo,
                    Inline = true,
                }
            );
        }

        if (inline.Count > 0)
        {
            var related = new MultipartRelated { page };
            foreach (var picture in inline)
            {
                var part = Part(picture);
                (part.ContentId, part.ContentDisposition) = (picture.Name, new ContentDisposition(ContentDisposition.Inline) { FileName = picture.Name });
                related.Add(part);
            }

            page = related;
        }

        var both = new MultipartAlternative(plain, page);
        return message.Files.Any(f => !f.Inline) ? Beside(both, message.Files.Where(f => !f.Inline)) : both;
    }

    private static Multipart Beside(MimeEntity text, IEnumerable<MessageFile> files)
    {
        var mixed = new Multipart("mixed") { text };
        foreach (var file in files)
        {
            var part = Part(file);
            part.ContentDisposition = new ContentDisposition(ContentDisposition.Attachment) { FileName = file.Name };
            mixed.Add(part);
        }

        return mixed;
    }

    private static MimePart Part(MessageFile file) =>
        new(ContentType.Parse(file.Type))
        {
            Content = new MimeContent(new MemoryStream(file.Content)),
            ContentTransferEncoding = ContentEncoding.Base64,
            FileName = file.Name,
        };

    // RFC 6376, 5.4.1: what must not be changed under way.
    private static void Sign(MimeMessage mail, DkimSettings dkim, string domain)
    {
        using var key = new MemoryStream(System.Text.Encoding.ASCII.GetBytes(dkim.Key));
        var signer = new DkimSigner(key, domain, dkim.Selector)
        {
            HeaderCanonicalizationAlgorithm = DkimCanonicalizationAlgorithm.Relaxed,
            BodyCanonicalizationAlgorithm = DkimCanonicalizationAlgorithm.Relaxed,
        };
        mail.Prepare(EncodingConstraint.SevenBit);
        HeaderId[] signed =
        [
            HeaderId.From,
            HeaderId.To,
            HeaderId.Subject,
            HeaderId.Date,
            HeaderId.MessageId,
            HeaderId.ReplyTo,
            HeaderId.InReplyTo,
            HeaderId.References,
            HeaderId.ListUnsubscribe,
            HeaderId.ListUnsubscribePost,
            HeaderId.MimeVersion,
            HeaderId.ContentType,
        ];

        // One-click is believed only where both its headers are signed (RFC 8058, 4).
        signer.Sign(mail, [.. signed.Where(mail.Headers.Contains)]);
    }
}
