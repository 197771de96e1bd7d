using System.Collections.Immutable;
using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

/// <summary>The texts of a wording for one audience in one language, Mustache each; <see langword="null"/> where there is none of its own.</summary>
public sealed record WordingParts
{
    /// <summary>The mail's subject.</summary>
    public string? Subject { get; init; }

    /// <summary>The mail's plain text.</summary>
    public string? Text { get; init; }

    /// <summary>The mail's HTML, what stands between header and footer.</summary>
    public string? Html { get; init; }

    /// <summary>The SMS.</summary>
    public string? Sms { get; init; }

    /// <summary>The line in a team chat.</summary>
    public string? Chat { get; init; }

    /// <summary>What a push message shows.</summary>
    public string? Push { get; init; }

    /// <summary>What a person's own list shows.</summary>
    public string? Screen { get; init; }

    /// <summary>The printed ticket.</summary>
    public string? Ticket { get; init; }

    /// <summary>Labels with their values, put where a text says <c>{{facts}}</c>.</summary>
    public ImmutableArray<Fact> Facts { get; init; } = [];

    /// <summary>Every field that the texts name, each once, with those of the facts where a text says where they stand.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IReadOnlyList<string> Fields
    {
        get
        {
            string[] named = [.. Given.SelectMany(p => WordingCheck.Used(p.Text)).Distinct()];
            return !named.Contains(Fact.Field) ? named : [.. named.Where(f => f != Fact.Field).Concat(Facts.Select(f => f.Value)).Distinct()];
        }
    }

    /// <summary>The names of the parts as documents write them, mail's first.</summary>
    public static IReadOnlyList<string> Names { get; } = [.. ChannelTraits.All.SelectMany(t => t.Parts).Select(p => p.Name)];

    /// <summary>The part of that name.</summary>
    /// <exception cref="ArgumentException">There is no such part.</exception>
    public string? this[string name] =>
        name switch
        {
            "mail.subject" => Subject,
            "mail.text" => Text,
            "mail.html" => Html,
            "sms" => Sms,
            "chat" => Chat,
            "push" => Push,
            "screen" => Screen,
            "ticket" => Ticket,
            _ => throw new ArgumentException($"There is no part '{name}'.", nameof(name)),
        };

    /// <summary>The same with another text for one part; an empty text takes it away.</summary>
    /// <exception cref="ArgumentException">There is no such part.</exception>
    public WordingParts With(string name, string? text)
    {
        text = string.IsNullOrWhiteSpace(text) ? null : text;
        return name switch
        {
            "mail.subject" => this with { Subject = text },
            "mail.text" => this with { Text = text },
            "mail.html" => this with { Html = text },
            "sms" => this with { Sms = text },
            "chat" => this with { Chat = text },
            "push" => this with { Push = text },
            "screen" => this with { Screen = text },
            "ticket" => this with { Ticket = text },
            _ => throw new ArgumentException($"There is no part '{name}'.", nameof(name)),
        };
    }

    /// <summary>The same words and the same facts.</summary>
    public bool Equals(WordingParts? other) => other is not null && Names.All(n => this[n] == other[n]) && Facts.SequenceEqual(other.Facts);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Subject, Text, Sms, Chat, Facts.Length);

    /// <summary>The parts that have a text, in the order of <see cref="Names"/>.</summary>
    public IEnumerable<(string Name, string Text)> Given => Names.Where(n => this[n] is not null).Select(n => (n, this[n]!));

    // Where a part is missing, the nearest stands in: what is as short, then what is shorter, then what is longer.
    private static readonly Dictionary<string, string[]> Nearest = new()
    {
        ["mail.subject"] = ["screen", "push", "chat", "sms"],
        ["mail.text"] = ["mail.html", "chat", "screen", "sms", "push", "ticket", "mail.subject"],
        ["sms"] = ["push", "screen", "mail.subject", "chat"],
        ["chat"] = ["screen", "push", "sms", "mail.subject"],
        ["push"] = ["screen", "chat", "sms", "mail.subject"],
        ["screen"] = ["push", "chat", "sms", "mail.subject"],
        ["ticket"] = ["mail.text", "chat", "screen", "push", "sms", "mail.subject"],
    };

    /// <summary>
    /// The part that is used for one: itself, or the nearest that has a text. <see langword="null"/> when none has, and for a mail's HTML without a text of its
    /// own: it is made from the plain text.
    /// </summary>
    public string? Used(string name) => this[name] is not null ? name : Nearest.GetValueOrDefault(name)?.FirstOrDefault(n => this[n] is not null);
}

/// <summary>A wording's texts for an audience in a language.</summary>
/// <param name="Audience">Who reads it.</param>
/// <param name="Language">The language's code: <c>en</c>, <c>pt</c>.</param>
/// <param name="Parts">The texts.</param>
public sealed record WordingText(Audience Audience, string Language, WordingParts Parts);

/// <summary>What a message says, per audience, language and channel.</summary>
/// <param name="Id">Its id: <c>risky-order</c>.</param>
/// <param name="Name">Its name.</param>
/// <param name="Texts">The texts, one for an audience and language.</param>
public sealed record Wording(string Id, string Name, ImmutableArray<WordingText> Texts)
{
    /// <summary>
    /// The text for an audience: in its language, else in English, else in the first there is. <see langword="null"/> when the audience has none; no audience
    /// ever reads another's.
    /// </summary>
    public WordingText? For(Audience audience, string? language)
    {
        var code = TextLanguage.Of(language).Code;
        var own = Texts.Where(t => t.Audience == audience).ToArray();
        return own.FirstOrDefault(t => t.Language == code) ?? own.FirstOrDefault(t => t.Language == "en") ?? own.FirstOrDefault();
    }
}

/// <summary>A wording of the supervisor's own, or a shipped one that was changed, as it is stored.</summary>
public sealed class StoredWording
{
    /// <summary>Its id.</summary>
    public required string Id { get; init; }

    /// <summary>Its name.</summary>
    public required string Name { get; set; }

    /// <summary>Its texts.</summary>
    public List<WordingText> Texts { get; set; } = [];

    /// <summary>When it was last saved.</summary>
    public NodaTime.Instant SavedAt { get; set; }

    /// <summary>Who saved it.</summary>
    public required string SavedBy { get; set; }
}

/// <summary>A finished message.</summary>
/// <param name="Subject">The subject, or what stands for one.</param>
/// <param name="Text">The plain text.</param>
/// <param name="Html">The HTML, for mail.</param>
public sealed record FinishedText(string Subject, string Text, string? Html);

/// <summary>How the reader of a message answers the alert.</summary>
/// <param name="Link">The page with the button.</param>
/// <param name="Code">Four digits for a reply.</param>
public sealed record AnswerWays(string Link, string Code);

/// <summary>What every message looks like: header and footer as they are read, with the business's name filled in.</summary>
/// <param name="Colour">The colour of header and button, <c>#12343B</c>.</param>
/// <param name="Header">A line beside the logo, or empty.</param>
/// <param name="Footer">The last lines, or empty.</param>
/// <param name="Logo">The address of the logo within the message, or <see langword="null"/> for none.</param>
public sealed partial record Branding(string Colour, string Header, string Footer, string? Logo)
{
    /// <summary>A header or footer as it was typed, with the business's name where it says <c>{{business.name}}</c>.</summary>
    public static string Filled(string typed, string business) => NameField().Replace(typed, _ => business);

    /// <summary>What is wrong with a header or footer; <see langword="null"/> for nothing.</summary>
    public static string? Mistake(string typed) =>
        NameField().Replace(typed, "").Contains("{{", StringComparison.Ordinal)
            ? "The header and the footer stand on every message, so they can name {{business.name}} and no other field."
            : null;

    [System.Text.RegularExpressions.GeneratedRegex(@"\{\{\s*business\.name\s*\}\}")]
    private static partial System.Text.RegularExpressions.Regex NameField();

    /// <summary>The colour of links.</summary>
    public string Accent { get; init; } = "#4B4799";

    /// <summary>What can be read on <see cref="Colour"/>: white, or ink where that has the better contrast (WCAG 2.2, relative luminance).</summary>
    public string OnColour => Luminance(Colour) > 0.225 ? "#1B2B34" : "#ffffff";

    private static double Luminance(string colour)
    {
        if (
            colour.Length != 7
            || !int.TryParse(colour.AsSpan(1), System.Globalization.NumberStyles.HexNumber, System.Globalization.CultureInfo.InvariantCulture, out var rgb)
        )
        {
            return 0;
        }

        static double Linear(int channel) => channel / 255.0 is var c && c <= 0.04045 ? c / 12.92 : Math.Pow((c + 0.055) / 1.055, 2.4);
        return (0.2126 * Linear(rgb >> 16)) + (0.7152 * Linear((rgb >> 8) & 255)) + (0.0722 * Linear(rgb & 255));
    }
}
