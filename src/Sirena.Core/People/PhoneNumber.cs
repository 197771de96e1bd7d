using PhoneNumbers;

namespace Sirena.Core.People;

/// <summary>A telephone number in E.164. Parsed once at the edge, valid ever after.</summary>
public readonly record struct PhoneNumber
{
    private PhoneNumber(string value, bool doubtful) => (Value, Doubtful) = (value, doubtful);

    /// <summary>The number: a plus sign and 7 to 15 digits.</summary>
    public string Value { get; }

    /// <summary>The number can exist by its length, but its range is not in use as far as is known.</summary>
    public bool Doubtful { get; }

    /// <summary>Reads one number, written with its country code; spaces, dots, hyphens and brackets do no harm.</summary>
    /// <param name="text">The text that was given.</param>
    /// <param name="number">The number, when the answer is true.</param>
    /// <param name="problem">Else a phrase that says what is wrong: <c>has no country code</c>.</param>
    public static bool TryParse(string? text, out PhoneNumber number, out string? problem)
    {
        number = default;
        var value = text?.Trim() ?? "";
        value = value.StartsWith("00", StringComparison.Ordinal) ? "+" + value[2..] : value;
        problem =
            value.Length == 0 ? "is empty"
            : value[0] != '+' ? "has no country code: write it with a plus sign, such as +44 7700 900123"
            : null;
        if (problem is not null)
        {
            return false;
        }

        var library = PhoneNumberUtil.GetInstance();
        try
        {
            var parsed = library.Parse(value, null);
            if (!library.IsPossibleNumber(parsed))
            {
                problem = "is too short or too long for its country";
                return false;
            }

            number = new PhoneNumber(library.Format(parsed, PhoneNumberFormat.E164), !library.IsValidNumber(parsed));
            return true;
        }
        catch (NumberParseException)
        {
            problem = "is no telephone number";
            return false;
        }
    }

    /// <inheritdoc/>
    public override string ToString() => Value;
}
