namespace Sirena.Web.Pages.Shared;

/// <summary>Files that come with a form.</summary>
public static class FormFiles
{
    /// <summary>The most bytes of a file of people or of a calendar: 4 MB.</summary>
    public const int Most = 4 << 20;

    /// <summary>All of a file's bytes.</summary>
    public static async Task<byte[]> BytesAsync(this IFormFile file, CancellationToken cancel)
    {
        using var all = new MemoryStream();
        await file.CopyToAsync(all, cancel);
        return all.ToArray();
    }

    /// <summary>A file that a page kept in a field while it asked something; <see langword="null"/> where it holds none.</summary>
    public static byte[]? Kept(string? base64)
    {
        var bytes = new byte[base64?.Length ?? 0];
        return Convert.TryFromBase64String(base64 ?? "", bytes, out var length) && length > 0 ? bytes[..length] : null;
    }
}
