using System.Collections.Immutable;
using System.Text.RegularExpressions;
using Sirena.Core.People;

namespace Sirena.Core.Deliveries;

/// <summary>A text that a wording may have for a channel.</summary>
/// <param name="Name">Its name in documents: <c>mail.subject</c>.</param>
/// <param name="Label">What stands over its field.</param>
/// <param name="Rows">The lines that the field shows.</param>
public sealed record ChannelPart(string Name, string Label, int Rows);

/// <summary>What is so for one channel and not for another, in one place: whoever adds a channel begins here.</summary>
public sealed partial record ChannelTraits
{
    /// <summary>The channel.</summary>
    public required Channel Channel { get; init; }

    /// <summary>Its word in a sentence: <c>team chat</c>.</summary>
    public required string Word { get; init; }

    /// <summary>Its name over a list: <c>Team chat</c>.</summary>
    public required string Title { get; init; }

    /// <summary>The id of its glyph.</summary>
    public required string Glyph { get; init; }

    /// <summary>What somebody lacks whom it does not reach: <c>no phone number</c>.</summary>
    public required string Lacking { get; init; }

    /// <summary>The texts that a wording may have for it.</summary>
    public required ImmutableArray<ChannelPart> Parts { get; init; }

    /// <summary>The name of the one without which there is no message: the first one with lines.</summary>
    public string Body => (Parts.FirstOrDefault(p => p.Rows > 1) ?? Parts[0]).Name;

    /// <summary>One person reads it, not whoever stands beside it.</summary>
    public bool ToPerson { get; init; } = true;

    /// <summary>Customers and those outside are told by it as well.</summary>
    public bool ToAnybody { get; init; }

    /// <summary>Several messages of one rule to one reader may go as one.</summary>
    public bool Gathers { get; init; }

    /// <summary>Its message carries a way to answer.</summary>
    public bool CanAnswer { get; init; }

    /// <summary>It goes by a gateway that a supervisor connects; the others go by themselves.</summary>
    public bool ByGateway { get; init; }

    /// <summary>A person's address for it is typed; the others come about by themselves.</summary>
    public bool ByAddress { get; init; }

    /// <summary>Nothing is sent: what is told lies on the reader's own list at once.</summary>
    public bool OnSight { get; init; }

    /// <summary>Where one address of a field ends and the next begins.</summary>
    private Regex Between { get; init; } = Words();

    /// <summary>What is wrong with an address, or <see langword="null"/>, and the address as the channel writes it.</summary>
    private Func<string, (string? Problem, string Address)> Reading { get; init; } =
        text => (text.Length > 200 || text.Any(char.IsControl) ? "is longer than 200 characters or holds control characters" : null, text);

    /// <summary>All of them, in the order of <see cref="Deliveries.Channel"/>.</summary>
    public static ImmutableArray<ChannelTraits> All { get; } =
    [
        new()
        {
            Channel = Channel.Mail,
            Word = "mail",
            Title = "Mail",
            Glyph = "c-email",
            Lacking = "no mail address",
            Parts = [new("mail.subject", "Subject", 1), new("mail.text", "Text", 12), new("mail.html", "HTML", 8)],
            ToAnybody = true,
            Gathers = true,
            CanAnswer = true,
            ByGateway = true,
            ByAddress = true,
            Reading = text => (MailAddress.TryParse(text, out _, out var bad) ? null : bad, text),
        },
        new()
        {
            Channel = Channel.Sms,
            Word = "SMS",
            Title = "SMS",
            Glyph = "c-sms",
            Lacking = "no phone number",
            Parts = [new("sms", "SMS text", 6)],
            ToAnybody = true,
            Gathers = true,
            CanAnswer = true,
            ByGateway = true,
            ByAddress = true,
            Between = Numbers(),
            Reading = text => PhoneNumber.TryParse(text, out var number, out var wrong) ? (wrong, number.Value) : (wrong, text),
        },
        new()
        {
            Channel = Channel.Chat,
            Word = "team chat",
            Title = "Team chat",
            Glyph = "c-chat",
            Lacking = "no chat handle",
            Parts = [new("chat", "Chat line", 5)],
            Gathers = true,
            CanAnswer = true,
            ByGateway = true,
            ByAddress = true,
        },
        new()
        {
            Channel = Channel.Push,
            Word = "push",
            Title = "Push",
            Glyph = "c-push",
            Lacking = "no browser",
            Parts = [new("push", "Push message", 4)],
            Gathers = true,
            CanAnswer = true,
        },
        new()
        {
            Channel = Channel.Screen,
            Word = "screen",
            Title = "Screen",
            Glyph = "c-screen",
            Lacking = "no screen",
            Parts = [new("screen", "On a person's own list", 5)],
            OnSight = true,
        },
        new()
        {
            Channel = Channel.Ticket,
            Word = "ticket printer",
            Title = "Ticket",
            Glyph = "c-ticket",
            Lacking = "no printer",
            Parts = [new("ticket", "Printed ticket, 42 columns", 12)],
            ToPerson = false,
            ByAddress = true,
            Reading = text => (PrinterAddress.TryParse(text, out _, out var fault) ? null : fault, text),
        },
    ];

    /// <summary>Those that go by a gateway that a supervisor connects.</summary>
    public static IEnumerable<Channel> WithGateways => All.Where(t => t.ByGateway).Select(t => t.Channel);

    /// <summary>The addresses of a field, as they were typed.</summary>
    public IEnumerable<string> Split(string field) => Between.Split(field).Select(p => p.Trim()).Where(p => p.Length > 0);

    /// <summary>Reads one address.</summary>
    /// <returns>What is wrong with it as the end of a sentence, or <see langword="null"/>; and the address as the channel writes it.</returns>
    public (string? Problem, string Address) Read(string text) => Reading(text);

    [GeneratedRegex(@"[,;\s]+")]
    private static partial Regex Words();

    // A number may hold spaces; a new one begins at its plus sign.
    [GeneratedRegex(@"[,;\r\n]+|\s+(?=\+|00)")]
    private static partial Regex Numbers();
}

/// <summary>The traits of a channel, where it stands.</summary>
public static class ChannelTraitsOf
{
    /// <summary>What is so for it.</summary>
    public static ChannelTraits Traits(this Channel channel) => ChannelTraits.All[(int)channel];
}
