using System.Globalization;
using System.Text.RegularExpressions;

namespace Sirena.Core.Deliveries;

/// <summary>Whose fault it is that a message was not taken; decides what becomes of the message, of its address and of the gateway.</summary>
public enum Blame
{
    /// <summary>Nobody's: it was taken, or a line that was kept had been closed meanwhile.</summary>
    None,

    /// <summary>The address does not exist: refused for good, the contact point is marked.</summary>
    Address,

    /// <summary>The mailbox cannot take it now: tried again.</summary>
    Mailbox,

    /// <summary>The message is larger than the far end takes: once more without its documents.</summary>
    Size,

    /// <summary>The message itself is not liked: refused for good, this message alone.</summary>
    Content,

    /// <summary>This gateway may not send to this reader: the next gateway is asked.</summary>
    Policy,

    /// <summary>The gateway: the next one takes over.</summary>
    Gateway,
}

/// <summary>What was being said when a mail server answered.</summary>
public enum MailStage
{
    /// <summary>The connection, its greeting and encryption, EHLO, and signing in.</summary>
    Opening,

    /// <summary>MAIL FROM.</summary>
    Sender,

    /// <summary>RCPT TO.</summary>
    Recipient,

    /// <summary>DATA, and the message's end.</summary>
    Message,
}

/// <summary>A mail server's refusal.</summary>
/// <param name="Stage">What was being said.</param>
/// <param name="Code">The code of RFC 5321, 4.2.3.</param>
/// <param name="Words">Its words; an enhanced code (RFC 3463) stands at their begin.</param>
public sealed partial record MailRefusal(MailStage Stage, int Code, string Words)
{
    /// <summary>The enhanced code, or <see langword="null"/>.</summary>
    public string? Enhanced => EnhancedCode().Match(Words) is { Success: true } match ? match.Groups[1].Value : null;

    /// <summary>Whose fault it is (RFC 3463 first, the plain code where there is none).</summary>
    /// <param name="othersPass">The gateway has taken messages to others since its settings last changed.</param>
    public Blame Whose(bool othersPass)
    {
        if (Code == 421 || Stage == MailStage.Opening || Code is 504 or 530 or 534 or 535 or 538)
        {
            return Blame.Gateway;
        }

        var (kind, subject, detail) = Parts();
        if (kind is 4 || (kind is 0 && Code is >= 400 and < 500) || (subject, detail) is (2, 2))
        {
            return Blame.Mailbox;
        }

        return (subject, detail) switch
        {
            (1, <= 3 or 6 or 10) when Stage == MailStage.Recipient || Stage == MailStage.Message => Blame.Address,
            (2, 1) => Blame.Address,
            (2, 3) or (3, 4) => Blame.Size,
            (6, _) => Blame.Content,
            (7, _) when Stage == MailStage.Recipient => othersPass ? Blame.Policy : Blame.Gateway,
            (7, 0 or 1) when Stage == MailStage.Sender => Blame.Gateway,
            (7, _) when Stage == MailStage.Message => othersPass ? Blame.Content : Blame.Policy,
            (5, _) when Stage != MailStage.Message => Blame.Gateway,
            _ when Code == 552 => Stage == MailStage.Recipient && !OfSize().IsMatch(Words) ? Blame.Mailbox : Blame.Size,
            _ when Stage == MailStage.Sender => Blame.Gateway,
            _ when Stage == MailStage.Message => Blame.Content,
            _ when Code is 550 or 551 or 553 || subject is 1 or 2 => Blame.Address,
            _ => othersPass ? Blame.Policy : Blame.Gateway,
        };
    }

    private (int Class, int Subject, int Detail) Parts()
    {
        if (Enhanced is not { } code)
        {
            return (0, -1, -1);
        }

        var parts = code.Split('.').Select(p => int.Parse(p, CultureInfo.InvariantCulture)).ToArray();

        // A server that says 550 4.7.1 refuses for good: the plain code is what a client goes by (RFC 2034, 4).
        return (Code >= 500 && parts[0] == 4 ? 5 : parts[0], parts[1], parts[2]);
    }

    [GeneratedRegex(@"^\s*(?:[0-9]{3}[ -])?([245]\.[0-9]{1,3}\.[0-9]{1,3})\b")]
    private static partial Regex EnhancedCode();

    [GeneratedRegex("size|too (big|large)|exceed", RegexOptions.IgnoreCase)]
    private static partial Regex OfSize();
}
