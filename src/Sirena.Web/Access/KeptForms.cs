using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.AspNetCore.DataProtection;
using Sirena.Core;

namespace Sirena.Web.Access;

/// <summary>What was filled in when the session had ended.</summary>
/// <param name="Address">Where it was sent: a path of ours with its query.</param>
/// <param name="Fields">Name and value of each field.</param>
/// <param name="Files">The names of files, whose content is not kept.</param>
public sealed record KeptForm(string Address, IReadOnlyList<KeyValuePair<string, string>> Fields, IReadOnlyList<string> Files)
{
    /// <summary>The page that the form stood on.</summary>
    public string Page => KeptForms.PageOf(Address);

    /// <summary>What a person would know again: filled fields but keys and secrets, each cut to a line.</summary>
    public IEnumerable<(string Name, string Value)> Readable =>
        Fields
            .Where(f =>
                !string.IsNullOrWhiteSpace(f.Value) && !Guid.TryParse(f.Value, out _) && !KeptForms.Secret(f.Key) && f.Key != Pages.Shared.SavedThings.Field
            )
            .Select(f => (f.Key, Quoting.Cut(f.Value.ReplaceLineEndings(" "), 120)))
            .Take(12);
}

/// <summary>Keeps a form over a sign-in: sealed with the key of this installation, in the page itself, for a day. Nothing of it is stored.</summary>
public sealed class KeptForms(IDataProtectionProvider keys)
{
    /// <summary>How many characters a form may have to be kept.</summary>
    public const int Most = 400_000;

    private readonly ITimeLimitedDataProtector seal = keys.CreateProtector("Sirena.KeptForm").ToTimeLimitedDataProtector();

    /// <summary>Seals the form of a request; <see langword="null"/> when it is too large.</summary>
    public async Task<string?> SealAsync(string address, HttpRequest request)
    {
        if (!request.HasFormContentType)
        {
            return null;
        }

        var form = await ReadAsync(address, request);
        return form.Fields.Sum(f => f.Key.Length + f.Value.Length) > Most ? null : seal.Protect(JsonSerializer.Serialize(form), TimeSpan.FromDays(1));
    }

    /// <summary>The form of a request, without its token.</summary>
    public static async Task<KeptForm> ReadAsync(string address, HttpRequest request)
    {
        var form = await request.ReadFormAsync();
        return new KeptForm(
            address,
            [.. form.Where(f => f.Key != "__RequestVerificationToken").SelectMany(f => f.Value.Select(v => KeyValuePair.Create(f.Key, v ?? "")))],
            [.. form.Files.Where(f => f.Length > 0).Select(f => f.FileName)]
        );
    }

    /// <summary>The form in a seal; <see langword="null"/> when the seal is not ours or too old.</summary>
    public KeptForm? Open(string? box)
    {
        try
        {
            return string.IsNullOrEmpty(box) ? null : JsonSerializer.Deserialize<KeptForm>(seal.Unprotect(box));
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    /// <summary>The page of an address: without the handler that the form was sent to.</summary>
    public static string PageOf(string address)
    {
        var at = address.IndexOf('?', StringComparison.Ordinal);
        if (at < 0)
        {
            return address;
        }

        var query = address[(at + 1)..]
            .Split('#')[0]
            .Split('&')
            .Where(p => p.Length > 0 && !p.StartsWith("handler=", StringComparison.OrdinalIgnoreCase))
            .ToArray();
        return query.Length == 0 ? address[..at] : $"{address[..at]}?{string.Join('&', query)}";
    }

    internal static bool Secret(string name) =>
        new[] { "password", "secret", "token", "key", "code" }.Any(s => name.Contains(s, StringComparison.OrdinalIgnoreCase));
}
