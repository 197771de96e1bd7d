using System.Text;
using MailKit;
using MailKit.Net.Smtp;

namespace Sirena.Channels.Mail;

public static partial class MailProbe
{
    private static ProbeResult Refused(
        ProbeLog log,
        MailSettings settings,
        OutgoingMessage message,
        SmtpCommandException e,
        IReadOnlyList<(bool, string)> lines
    )
    {
        var code = (int)e.StatusCode;
        if (e.ErrorCode == SmtpErrorCode.SenderNotAccepted)
        {
            log.Fail(e.Message);
            return code < 500
                ? Later(log, e, lines)
                : log.End(
                    $"The server does not send for {settings.From}.",
                    $"It said: {e.Message}",
                    lines,
                    "Use a sender address that belongs to the account that signs in.",
                    "Or have the address allowed for this account by whoever runs the mail."
                );
        }

        log.Pass(settings.From);
        if (e.ErrorCode == SmtpErrorCode.RecipientNotAccepted)
        {
            log.Fail(e.Message);
            return code < 500
                ? Later(log, e, lines)
                : log.End(
                    $"The server does not take mail for {message.To}.",
                    $"It said: {e.Message}",
                    lines,
                    "Check the address.",
                    settings.User is null
                        ? "Outside addresses are often taken only after signing in: give a name and a password."
                        : "Ask whether this account may write to outside addresses."
                );
        }

        log.Pass(message.To);
        log.Fail(e.Message);
        return code < 500
            ? Later(log, e, lines)
            : log.End(
                "The server took the addresses and refused the message.",
                $"It said: {e.Message}",
                lines,
                "A filter may have disliked it; the server's words say which."
            );
    }

    private static ProbeResult Later(ProbeLog log, SmtpCommandException e, IReadOnlyList<(bool, string)> lines) =>
        log.End(
            "Not now: the server wants the message later.",
            $"It said: {e.Message}. Servers slow down senders that they do not know yet, or that send much.",
            lines,
            "Nothing is to be changed: alerts are tried again by themselves.",
            "If it stays so, lower the gateway's width, or ask the provider for a higher limit."
        );

    /// <summary>What was said on the line, without what signs in.</summary>
    private sealed class Transcript : IProtocolLogger
    {
        private readonly List<(bool Ours, string Text)> lines = [];

        public IReadOnlyList<(bool Ours, string Text)> Lines => lines;

        public IAuthenticationSecretDetector? AuthenticationSecretDetector { get; set; }

        public void LogConnect(Uri uri) => lines.Add((true, $"connect to {uri.Host}:{uri.Port}"));

        public void LogClient(byte[] buffer, int offset, int count)
        {
            var text = Encoding.UTF8.GetBytes(Encoding.UTF8.GetString(buffer, offset, count));
            foreach (var secret in AuthenticationSecretDetector?.DetectSecrets(buffer, offset, count) ?? [])
            {
                Array.Fill(text, (byte)'*', secret.StartIndex - offset, secret.Length);
            }

            Add(true, Encoding.UTF8.GetString(text));
        }

        public void LogServer(byte[] buffer, int offset, int count) => Add(false, Encoding.UTF8.GetString(buffer, offset, count));

        public void Dispose() { }

        private void Add(bool ours, string text)
        {
            foreach (var line in text.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Take(60 - Math.Min(60, lines.Count)))
            {
                lines.Add((ours, line.Length > 160 ? line[..160] + "…" : line));
            }
        }
    }
}
