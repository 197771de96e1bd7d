using System.Net;
using DnsClient;
using DnsClient.Protocol;

namespace Sirena.Channels.Mail;

/// <summary>How a published record of a sender's domain stands.</summary>
public enum RecordStanding
{
    /// <summary>It is there and helps.</summary>
    Good,

    /// <summary>It is there and could help more, or is missing and would help.</summary>
    Weak,

    /// <summary>It is missing or wrong, and mail may be refused or end as junk for it.</summary>
    Bad,

    /// <summary>Nobody could be asked.</summary>
    Unknown,
}

/// <summary>One published record, explained.</summary>
/// <param name="Kind">SPF, DKIM or DMARC.</param>
/// <param name="Name">Where it was looked for.</param>
/// <param name="Text">The record word for word, or <see langword="null"/>.</param>
/// <param name="Standing">How it stands.</param>
/// <param name="Words">What it means for mail from this sender, and what to do.</param>
public sealed record SenderRecord(string Kind, string Name, string? Text, RecordStanding Standing, string Words);

/// <summary>Looks up what a sender's domain publishes about its mail: SPF (RFC 7208), DKIM keys (RFC 6376) and DMARC (RFC 7489).</summary>
/// <param name="server">A name server, or <see langword="null"/> for those of the machine.</param>
public sealed class SenderRecords(IPEndPoint? server)
{
    private readonly NameQuestions names = new(server);

    /// <summary>Looks the three up.</summary>
    /// <param name="domain">The part of the sender's address after the @.</param>
    /// <param name="mailServer">The host by which its mail goes out.</param>
    /// <param name="selector">The selector of our own signatures, or <see langword="null"/> when mail is not signed here.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IReadOnlyList<SenderRecord>> LookUpAsync(string domain, string mailServer, string? selector, CancellationToken cancel)
    {
        var spf = await TextsAsync(domain, cancel);
        var dmarc = await TextsAsync($"_dmarc.{domain}", cancel);
        var dkim = selector is null ? null : await TextsAsync($"{selector}._domainkey.{domain}", cancel);
        return [Spf(domain, mailServer, spf), Dkim(domain, selector, dkim), Dmarc(domain, dmarc)];
    }

    /// <summary>Explains the SPF records of a domain.</summary>
    /// <param name="domain">The domain.</param>
    /// <param name="mailServer">The host by which its mail goes out.</param>
    /// <param name="texts">Its text records; <see langword="null"/> when nobody answered.</param>
    public static SenderRecord Spf(string domain, string mailServer, IReadOnlyList<string>? texts)
    {
        string[]? found = texts?.Where(t => t.StartsWith("v=spf1", StringComparison.OrdinalIgnoreCase)).ToArray();
        SenderRecord Say(string? text, RecordStanding standing, string words) => new("SPF", domain, text, standing, words);
        if (found is null)
        {
            return Say(null, RecordStanding.Unknown, "The name server did not answer; look again later.");
        }

        if (found.Length == 0)
        {
            return Say(
                null,
                RecordStanding.Weak,
                $"{domain} does not say which servers may send its mail. Ask whoever runs the domain to publish a record that names {mailServer}."
            );
        }

        if (found.Length > 1)
        {
            return Say(string.Join(" | ", found), RecordStanding.Bad, "There are two records, so receivers heed neither. One of them must go.");
        }

        var last = found[0].Split(' ', StringSplitOptions.RemoveEmptyEntries)[^1].ToLowerInvariant();
        return last switch
        {
            "+all" or "all" => Say(
                found[0],
                RecordStanding.Bad,
                "It allows every server in the world, which is as good as none: spam from anywhere passes as yours."
            ),
            "?all" => Say(found[0], RecordStanding.Weak, "It says nothing about servers that it does not name."),
            _ => Say(
                found[0],
                RecordStanding.Good,
                $"It names the servers that may send; make sure that {mailServer} is among them. Others are "
                    + $"{(last == "-all" ? "refused" : "treated with suspicion")}."
            ),
        };
    }

    /// <summary>Explains the key that our signatures need.</summary>
    public static SenderRecord Dkim(string domain, string? selector, IReadOnlyList<string>? texts)
    {
        if (selector is null)
        {
            return new SenderRecord(
                "DKIM",
                $"…._domainkey.{domain}",
                null,
                RecordStanding.Weak,
                "Mail is not signed here. Your mail server may sign it; if it does not, give the gateway a selector and a key."
            );
        }

        SenderRecord Say(string? text, RecordStanding standing, string words) => new("DKIM", $"{selector}._domainkey.{domain}", text, standing, words);
        if (texts is null)
        {
            return Say(null, RecordStanding.Unknown, "The name server did not answer; look again later.");
        }

        return texts.FirstOrDefault(t => t.Contains("p=", StringComparison.Ordinal)) is not { } key
                ? Say(
                    null,
                    RecordStanding.Bad,
                    "Mail is signed and the key to check it is not published: receivers take the signature as broken. Have the public key published "
                        + "under this name."
                )
            : key.Replace(" ", "", StringComparison.Ordinal).EndsWith("p=", StringComparison.Ordinal) || key.Contains("p=;", StringComparison.Ordinal)
                ? Say(key, RecordStanding.Bad, "The published key is empty, which means that it was taken back. Publish the new one, or change the selector.")
            : Say(key, RecordStanding.Good, "The key that checks our signatures is published.");
    }

    /// <summary>Explains the DMARC record of a domain.</summary>
    public static SenderRecord Dmarc(string domain, IReadOnlyList<string>? texts)
    {
        SenderRecord Say(string? text, RecordStanding standing, string words) => new("DMARC", $"_dmarc.{domain}", text, standing, words);
        if (texts is null)
        {
            return Say(null, RecordStanding.Unknown, "The name server did not answer; look again later.");
        }

        if (texts.FirstOrDefault(t => t.StartsWith("v=DMARC1", StringComparison.OrdinalIgnoreCase)) is not { } found)
        {
            return Say(null, RecordStanding.Weak, "There is no policy. Large mail providers want one from those who send much; begin with 'v=DMARC1; p=none'.");
        }

        var policy = found
            .Split(';', StringSplitOptions.TrimEntries)
            .FirstOrDefault(p => p.StartsWith("p=", StringComparison.OrdinalIgnoreCase))
            ?[2..].Trim()
            .ToLowerInvariant();
        return policy switch
        {
            "reject" or "quarantine" => Say(
                found,
                RecordStanding.Good,
                $"Mail that passes neither SPF nor DKIM is {(policy == "reject" ? "refused" : "put aside as junk")}: both should be right before this "
                    + "sender is used."
            ),
            "none" => Say(found, RecordStanding.Good, "It only watches; mail is not refused for it."),
            _ => Say(found, RecordStanding.Bad, "It has no policy (p=none, quarantine or reject), so receivers skip it."),
        };
    }

    private async Task<IReadOnlyList<string>?> TextsAsync(string name, CancellationToken cancel) =>
        await names.AskAsync(name, QueryType.TXT, cancel) is not { } answer
        || (answer.HasError && answer.Header.ResponseCode != DnsHeaderResponseCode.NotExistentDomain)
            ? null
            : [.. answer.Answers.OfType<TxtRecord>().Select(t => string.Concat(t.Text))];
}
