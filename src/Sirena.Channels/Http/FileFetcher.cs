using System.Net;
using System.Text;

namespace Sirena.Channels.Http;

/// <summary>A file that was fetched.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Type">Its media type, by what it begins with.</param>
/// <param name="Content">Its bytes.</param>
public sealed record FetchedFile(string Name, string Type, byte[] Content);

/// <summary>
/// Fetches files that the order system names by an address. The address is checked where the connection is made, each redirect anew; time, size and type are
/// limited, and the type is told by the content, not by what the server says.
/// </summary>
public sealed class FileFetcher(OutsideHosts hosts) : IDisposable
{
    /// <summary>The most bytes: 10 MB.</summary>
    public const int MostBytes = 10 << 20;

    private const int MostRedirects = 3;
    private static readonly TimeSpan MostTime = TimeSpan.FromSeconds(10);
    private readonly HttpClient http = new(hosts.Handler()) { Timeout = Timeout.InfiniteTimeSpan };

    /// <summary>Fetches one.</summary>
    /// <returns>The file, or why there is none, to be read after 'could not be fetched:'.</returns>
    public async Task<(FetchedFile? File, string? Problem)> FetchAsync(string address, CancellationToken cancel)
    {
        if (!Uri.TryCreate(address, UriKind.Absolute, out var at) || at.Scheme is not ("http" or "https"))
        {
            return (null, "its address is none of http or https");
        }

        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(MostTime);
        try
        {
            for (var hops = 0; ; hops++)
            {
                using var answer = await http.GetAsync(at, HttpCompletionOption.ResponseHeadersRead, limit.Token);
                if ((int)answer.StatusCode is >= 300 and < 400 && answer.Headers.Location is { } next)
                {
                    at = new Uri(at, next);
                    if (hops == MostRedirects || at.Scheme is not ("http" or "https"))
                    {
                        return (
                            null,
                            hops == MostRedirects ? "it was passed on more than three times" : "it was passed on to an address that is none of http or https"
                        );
                    }

                    continue;
                }

                return answer.StatusCode == HttpStatusCode.OK
                    ? await ReadAsync(answer, at, limit.Token)
                    : (null, $"the server answered {(int)answer.StatusCode}");
            }
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return (null, "it took longer than 10 seconds");
        }
        catch (Exception e) when (e is HttpRequestException or IOException)
        {
            return (null, e.InnerException?.Message ?? e.Message);
        }
    }

    private static async Task<(FetchedFile? File, string? Problem)> ReadAsync(HttpResponseMessage answer, Uri at, CancellationToken cancel)
    {
        await using var stream = await answer.Content.ReadAsStreamAsync(cancel);
        using var kept = new MemoryStream();
        var buffer = new byte[64 * 1024];
        for (int read; (read = await stream.ReadAsync(buffer, cancel)) > 0;)
        {
            kept.Write(buffer, 0, read);
            if (kept.Length > MostBytes)
            {
                return (null, "it is larger than 10 MB");
            }
        }

        var content = kept.ToArray();
        return Sniff(content) is var (type, ending) && type is not null
            ? (new FetchedFile(Name(at, ending!), type, content), null)
            : (null, "it is neither a PDF, a picture nor a text");
    }

    /// <summary>The media type by what a file begins with, and the ending that goes with it; nothing for what is not passed on.</summary>
    public static (string? Type, string? Ending) Sniff(ReadOnlySpan<byte> content)
    {
        if (content.StartsWith("%PDF-"u8))
        {
            return ("application/pdf", "pdf");
        }

        if (content.StartsWith(new byte[] { 0x89, 0x50, 0x4E, 0x47 }))
        {
            return ("image/png", "png");
        }

        if (content.StartsWith(new byte[] { 0xFF, 0xD8, 0xFF }))
        {
            return ("image/jpeg", "jpg");
        }

        if (content.StartsWith("GIF8"u8))
        {
            return ("image/gif", "gif");
        }

        if (content.Length > 12 && content.StartsWith("RIFF"u8) && content[8..].StartsWith("WEBP"u8))
        {
            return ("image/webp", "webp");
        }

        return content.Length > 0 && !content.Contains((byte)0) && IsText(content) ? ("text/plain; charset=utf-8", "txt") : (null, null);
    }

    private static bool IsText(ReadOnlySpan<byte> content)
    {
        try
        {
            new UTF8Encoding(false, throwOnInvalidBytes: true).GetCharCount(content);
            return true;
        }
        catch (DecoderFallbackException)
        {
            return false;
        }
    }

    private static string Name(Uri at, string ending)
    {
        var last = Uri.UnescapeDataString(at.Segments.LastOrDefault() ?? "").Trim('/');
        var stem = string.Concat(Path.GetFileNameWithoutExtension(last).Where(c => char.IsLetterOrDigit(c) || c is '-' or '_' or ' ' or '.')).Trim();
        return $"{(stem.Length is 0 or > 80 ? "file" : stem)}.{ending}";
    }

    /// <inheritdoc/>
    public void Dispose() => http.Dispose();
}
