namespace Sirena.Web.Pages.Shared;

/// <summary>Where a reader is in a list that comes in pages.</summary>
/// <param name="At">The page, from 1.</param>
/// <param name="Of">How many pages there are; 1 for none.</param>
/// <param name="To">The address of another page.</param>
/// <param name="More">What is said after it, or empty.</param>
public sealed record Paging(int At, int Of, Func<int, string> To, string More = "")
{
    /// <summary>How many pages a list takes: at least one.</summary>
    /// <param name="count">How many rows it has.</param>
    /// <param name="size">How many of them a page shows.</param>
    public static int Pages(int count, int size) => Math.Max(1, (count + size - 1) / size);
}
