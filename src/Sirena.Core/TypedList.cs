namespace Sirena.Core;

/// <summary>Several values in one text, as a person types them: words of a status, codes. A space is part of a value.</summary>
public static class TypedList
{
    private const string Between = ",;\r\n\t";

    /// <summary>The values, with commas, semicolons, tabs or line breaks between; none is empty.</summary>
    public static string[] Read(string? text) =>
        (text ?? "").Split(Between.ToCharArray(), StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);

    /// <summary>Whether a text cannot be one value: it would be read as several, or as another.</summary>
    public static bool IsSeveral(string text) => text.AsSpan().ContainsAny(Between);
}
