namespace Sirena.Storage;

/// <summary>What stands for itself in a pattern of SQL's <c>like</c>.</summary>
public static class LikePattern
{
    /// <summary>The text with a backslash before each of its own <c>%</c>, <c>_</c> and backslashes.</summary>
    public static string Literal(string text) =>
        text.Replace(@"\", @"\\", StringComparison.Ordinal).Replace("%", @"\%", StringComparison.Ordinal).Replace("_", @"\_", StringComparison.Ordinal);
}
