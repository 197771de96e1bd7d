namespace Sirena.Core;

/// <summary>Pieces of sentences.</summary>
public static class Sentences
{
    /// <summary>The text with a capital at its begin.</summary>
    public static string Capital(string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>The text with a small letter at its begin, as it stands inside a sentence.</summary>
    public static string Small(string text) => text.Length == 0 ? text : char.ToLowerInvariant(text[0]) + text[1..];

    /// <summary>
    /// A reason that is written to whoever is told, as it is said of them to somebody else: <c>you are in Kitchen</c> becomes <c>is in Kitchen</c>.
    /// </summary>
    public static string OfAnother(string because) =>
        because.Split(' ', 3) is ["you", var verb, .. var rest]
            ? string.Join(
                ' ',
                [
                    verb switch
                    {
                        "are" => "is",
                        "have" => "has",
                        _ => verb + "s",
                    },
                    .. rest,
                ]
            )
            : because;
}
