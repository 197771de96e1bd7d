namespace Sirena.Core.Tests;

/// <summary>
/// Long texts that were read and found good. They lie in files beside their tests, and what is made now must say the same, letter by letter: whoever changes
/// them on purpose runs the test with <c>SIRENA_KEEP=folder</c>, reads the difference, and puts the file that was written there in place of the old one.
/// </summary>
internal static class Kept
{
    /// <summary>Compares lines with a file.</summary>
    /// <param name="name">The file's name, without its ending.</param>
    /// <param name="lines">What is made now.</param>
    public static void Same(string name, IEnumerable<string> lines) => Same(name, string.Join('\n', lines) + "\n");

    /// <summary>Compares with a file.</summary>
    /// <param name="name">The file's name, without its ending.</param>
    /// <param name="made">What is made now.</param>
    public static void Same(string name, string made)
    {
        if (Environment.GetEnvironmentVariable("SIRENA_KEEP") is { Length: > 0 } folder)
        {
            File.WriteAllText(Path.Combine(folder, name + ".kept.txt"), made.ReplaceLineEndings("\n"));
        }

        var (kept, now) = (Lines(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Kept", name + ".kept.txt"))), Lines(made));
        for (var line = 0; line < Math.Max(kept.Length, now.Length); line++)
        {
            Assert.True(
                kept.ElementAtOrDefault(line) == now.ElementAtOrDefault(line),
                $"{name}, line {line + 1}:\n  kept: {kept.ElementAtOrDefault(line) ?? "(nothing)"}\n  now:  {now.ElementAtOrDefault(line) ?? "(nothing)"}"
            );
        }
    }

    private static string[] Lines(string text) => text.ReplaceLineEndings("\n").TrimEnd('\n').Split('\n');
}
