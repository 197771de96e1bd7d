namespace Sirena.Core.Sources;

/// <summary>Forms that need no naming.</summary>
internal static class TimeForms
{
    /// <summary>ISO 8601 without an offset.</summary>
    public static IReadOnlyList<TimeForm> Wall { get; } =
    [.. new[] { "uuuu-MM-dd'T'HH:mm:ss", "uuuu-MM-dd HH:mm:ss", "uuuu-MM-dd'T'HH:mm", "uuuu-MM-dd HH:mm", "uuuu-MM-dd" }.Select(f => TimeForm.Parse(f).Form!)];
}
