namespace Sirena.Engine.Sources;

/// <summary>The folders of this machine that sources may watch: whoever may change a source must not thereby read the machine's other files.</summary>
/// <param name="roots">The folders, with what lies in them.</param>
public sealed class SourceFolders(IReadOnlyList<string> roots)
{
    private readonly string[] roots = [.. roots.Select(r => Path.GetFullPath(r).TrimEnd(Path.DirectorySeparatorChar))];

    /// <summary>Why a folder cannot be watched; <see langword="null"/> where it can, or none is named.</summary>
    public string? Problem(string? folder)
    {
        if (folder is null)
        {
            return null;
        }

        if (
            !Path.IsPathFullyQualified(folder)
            || !roots.Any(r =>
                Path.GetFullPath(folder) is var full && (full == r || full.StartsWith(r + Path.DirectorySeparatorChar, StringComparison.Ordinal))
            )
        )
        {
            return roots.Length == 0
                ? "No folder may be watched on this machine. Start Sirena with SIRENA_FOLDERS naming those that may."
                : $"This folder may not be watched. Those that may lie in {string.Join(", ", roots)} (SIRENA_FOLDERS).";
        }

        return Directory.Exists(folder) ? null : $"There is no folder {folder} on this machine.";
    }
}
