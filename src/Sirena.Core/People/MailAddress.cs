using System.Globalization;
using System.Text;

namespace Sirena.Core.People;

/// <summary>
/// A mail address as RFC 5321 writes it (dot-atom local part, a domain with an ending), with the letters of any language in it (RFC 6531). Parsed once at the
/// edge, valid ever after.
/// </summary>
public readonly record struct MailAddress
{
    private static readonly IdnMapping Names = new();

    private MailAddress(string value) => Value = value;

    /// <summary>The address as it was given, without surrounding space.</summary>
    public string Value { get; }

    /// <summary>Reads one address.</summary>
    /// <param name="text">The text that was given.</param>
    /// <param name="address">The address, when the answer is true.</param>
    /// <param name="problem">Else a phrase that says what is wrong: <c>has no domain ending</c>.</param>
    public static bool TryParse(string? text, out MailAddress address, out string? problem)
    {
        address = default;
        var value = text?.Trim() ?? "";
        problem = Problem(value);
        if (problem is null)
        {
            address = new MailAddress(value);
        }

        return problem is null;
    }

    /// <summary>The part of an address after the @; all of it where there is none.</summary>
    public static string DomainOf(string address) => address[(address.IndexOf('@', StringComparison.Ordinal) + 1)..];

    /// <inheritdoc/>
    public override string ToString() => Value;

    private static string? Problem(string value)
    {
        if (value.Length is 0 or > 254)
        {
            return value.Length == 0 ? "is empty" : "is longer than 254 characters";
        }

        var at = value.IndexOf('@', StringComparison.Ordinal);
        if (at < 0 || at != value.LastIndexOf('@'))
        {
            return at < 0 ? "has no @" : "has more than one @";
        }

        var (local, domain) = (value[..at], value[(at + 1)..]);
        if (
            local.Length == 0
            || Encoding.UTF8.GetByteCount(local) > 64
            || local[0] == '.'
            || local[^1] == '.'
            || local.Contains("..", StringComparison.Ordinal)
            || !local.EnumerateRunes().All(IsLocal)
        )
        {
            return "has a part before the @ that no mail address can have";
        }

        if (!domain.Contains('.', StringComparison.Ordinal))
        {
            return "has no domain ending";
        }

        return domain.Split('.').All(IsLabel) ? null : "has a domain that cannot exist";
    }

    private static bool IsLocal(Rune r) => IsLetter(r) || (r.IsAscii && "!#$%&'*+-/=?^_`{|}~.".Contains((char)r.Value, StringComparison.Ordinal));

    // What stands in a domain's part may be long in letters and short in what is asked of a name server, or the other way.
    private static bool IsLabel(string label) =>
        label.Length > 0
        && label[0] != '-'
        && label[^1] != '-'
        && label.EnumerateRunes().All(r => IsLetter(r) || r.Value == '-')
        && Asked(label) is { Length: <= 63 };

    // Letters of some scripts stand with marks of their own: vowels, tones.
    private static bool IsLetter(Rune r) =>
        Rune.IsLetterOrDigit(r) || Rune.GetUnicodeCategory(r) is UnicodeCategory.NonSpacingMark or UnicodeCategory.SpacingCombiningMark;

    // As RFC 5891 asks for it; nothing for what it forbids.
    private static string? Asked(string label)
    {
        try
        {
            return Ascii.IsValid(label) ? label : Names.GetAscii(label);
        }
        catch (ArgumentException)
        {
            return null;
        }
    }
}
