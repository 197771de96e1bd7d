using System.Collections.Frozen;
using System.Text;

namespace Sirena.Core;

/// <summary>The outside name of an enum's member: its words in kebab case, <c>HandedOver</c> is <c>handed-over</c>.</summary>
public static class Names
{
    /// <summary>The kebab-case name.</summary>
    public static string Name<T>(this T value)
        where T : struct, Enum => Table<T>.ToName[value];

    /// <summary>The member of that name, or <see langword="null"/> when there is none.</summary>
    public static T? Parse<T>(string? name)
        where T : struct, Enum => name is not null && Table<T>.ToValue.TryGetValue(name, out var value) ? value : null;

    /// <summary>Whether a name is given and is none of the enum; nothing, or an empty text, is no name.</summary>
    public static bool IsNone<T>(string? name)
        where T : struct, Enum => name is { Length: > 0 } && Parse<T>(name) is null;

    /// <summary>All names of the enum, in its order.</summary>
    public static IReadOnlyList<string> All<T>()
        where T : struct, Enum => Table<T>.InOrder;

    private static string Kebab(string name)
    {
        var text = new StringBuilder();
        foreach (var c in name)
        {
            if (char.IsUpper(c) && text.Length > 0)
            {
                text.Append('-');
            }

            text.Append(char.ToLowerInvariant(c));
        }

        return text.ToString();
    }

    private static class Table<T>
        where T : struct, Enum
    {
        public static readonly string[] InOrder = [.. Enum.GetValues<T>().Select(v => Kebab(v.ToString()))];
        public static readonly FrozenDictionary<T, string> ToName = Enum.GetValues<T>().ToFrozenDictionary(v => v, v => Kebab(v.ToString()));
        public static readonly FrozenDictionary<string, T> ToValue = Enum.GetValues<T>().ToFrozenDictionary(v => Kebab(v.ToString()));
    }
}
