using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;

namespace Sirena.Web.Access;

/// <summary>
/// Links by which somebody without a user connects an order system: they open that station of the first day alone, for a week. Sealed with the key of this
/// installation; nothing of them is stored.
/// </summary>
public sealed class DeveloperLinks(IDataProtectionProvider keys)
{
    /// <summary>How long one holds.</summary>
    public static TimeSpan Holds { get; } = TimeSpan.FromDays(7);

    private readonly ITimeLimitedDataProtector seal = keys.CreateProtector("Sirena.DeveloperLink").ToTimeLimitedDataProtector();

    /// <summary>Makes one.</summary>
    /// <param name="by">Who gives it.</param>
    /// <returns>Its key.</returns>
    public string Make(string by) => seal.Protect(by, Holds);

    /// <summary>Who gave a link; <see langword="null"/> when it is none of ours, or too old.</summary>
    public string? GivenBy(string? key)
    {
        try
        {
            return string.IsNullOrEmpty(key) ? null : seal.Unprotect(key);
        }
        catch (CryptographicException)
        {
            return null;
        }
    }
}
