namespace Sirena.Web.Pages.Shared;

/// <summary>Files that come with a form.</summary>
public static class FormFiles
{
    /// <summary>All of a file's bytes.</summary>
    public static async Task<byte[]> BytesAsync(this IFormFile file, CancellationToken cancel)
    {
        using var all = new MemoryStream();
        await file.CopyToAsync(all, cancel);
        return all.ToArray();
    }
}
