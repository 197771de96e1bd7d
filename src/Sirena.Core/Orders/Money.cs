using System.Globalization;

namespace Sirena.Core.Orders;

/// <summary>An amount in a currency (ISO 4217). Amounts are decimal, never binary floating point.</summary>
public readonly record struct Money(decimal Amount, string Currency)
{
    /// <summary>Whether the text is the shape of an ISO 4217 code: three capital letters.</summary>
    public static bool IsCurrency(string? text) => text is { Length: 3 } && text.All(char.IsAsciiLetterUpper);

    /// <summary>The amount with thousands marks and at least two decimals: <c>1,284.50</c>.</summary>
    public string Figure => Amount.ToString("#,##0.00##", CultureInfo.InvariantCulture);

    /// <summary>The amount and its currency: <c>1,284.50 EUR</c>.</summary>
    public override string ToString() => $"{Figure} {Currency}";
}
