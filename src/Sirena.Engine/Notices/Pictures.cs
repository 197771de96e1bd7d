using Sirena.Core.Notices;
using SkiaSharp;

namespace Sirena.Engine.Notices;

/// <summary>Pictures that people give: decoded and written anew, so that nothing but their pixels is left.</summary>
public static class Pictures
{
    private const int MostSide = 1600;
    private const long MostPixels = 60_000_000;

    /// <summary>A note's picture as a JPEG of at most 1600 pixels a side.</summary>
    /// <returns>The picture, or what is wrong with it.</returns>
    public static ((byte[] Jpeg, int Width, int Height)? Made, string? Problem) Note(byte[] given)
    {
        if (given.Length > NotePicture.MostBytes)
        {
            return (null, "The picture is larger than 8 MB. Make it smaller first.");
        }

        var (bitmap, problem) = Decode(given);
        if (bitmap is null)
        {
            return (null, problem);
        }

        using (bitmap)
        {
            var (data, width, height) = Draw(
                bitmap,
                Math.Min(1, MostSide / (double)Math.Max(bitmap.Width, bitmap.Height)),
                SKColors.White,
                SKEncodedImageFormat.Jpeg
            );
            return ((data, width, height), null);
        }
    }

    /// <summary>A logo as a PNG of at most 400 by 120 pixels.</summary>
    /// <returns>The picture, or what is wrong with it.</returns>
    public static (byte[]? Png, string? Problem) Logo(byte[] given)
    {
        var (bitmap, problem) = Decode(given);
        if (bitmap is null)
        {
            return (null, problem);
        }

        using (bitmap)
        {
            return (
                Draw(bitmap, Math.Min(1, Math.Min(400.0 / bitmap.Width, 120.0 / bitmap.Height)), SKColors.Transparent, SKEncodedImageFormat.Png).Data,
                null
            );
        }
    }

    private static (SKBitmap? Bitmap, string? Problem) Decode(byte[] given)
    {
        using var stream = new MemoryStream(given);
        using var codec = SKCodec.Create(stream);
        if (codec is null || (long)codec.Info.Width * codec.Info.Height > MostPixels)
        {
            return (
                null,
                codec is null
                    ? "This is no picture that can be read. PNG, JPEG, GIF and WebP can."
                    : "The picture has more than 60 million pixels. Make it smaller first."
            );
        }

        return SKBitmap.Decode(codec) is { } bitmap ? (bitmap, null) : (null, "The picture is broken: it ends too soon or its data cannot be read.");
    }

    private static (byte[] Data, int Width, int Height) Draw(SKBitmap bitmap, double scale, SKColor ground, SKEncodedImageFormat format)
    {
        var info = new SKImageInfo(
            Math.Max(1, (int)(bitmap.Width * scale)),
            Math.Max(1, (int)(bitmap.Height * scale)),
            SKColorType.Rgba8888,
            SKAlphaType.Premul
        );
        using var surface = SKSurface.Create(info);
        surface.Canvas.Clear(ground);
        using var image = SKImage.FromBitmap(bitmap);
        surface.Canvas.DrawImage(image, new SKRect(0, 0, info.Width, info.Height), new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
        using var snapshot = surface.Snapshot();
        using var encoded = snapshot.Encode(format, 84);
        return (encoded.ToArray(), info.Width, info.Height);
    }
}
