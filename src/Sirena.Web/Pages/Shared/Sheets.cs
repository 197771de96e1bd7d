namespace Sirena.Web.Pages.Shared;

/// <summary>The style sheets, in the order in which they count: what is common first, then each group of pages.</summary>
public static class Sheets
{
    /// <summary>Their addresses.</summary>
    public static IReadOnlyList<string> All { get; } =
    [
        .. new[]
        {
            "base",
            "controls",
            "orders-people",
            "statuses-phone",
            "channels-rules",
            "watch",
            "wording-sources",
            "lists-instructions",
            "phone",
            "print",
        }.Select(name => $"/css/{name}.css"),
    ];
}
