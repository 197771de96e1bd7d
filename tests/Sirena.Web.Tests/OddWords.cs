namespace Sirena.Web.Tests;

/// <summary>What nobody means to type or to follow: nothing, numbers and times beyond all bounds, other scripts, halves of documents, names of nothing.</summary>
internal static class OddWords
{
    private static readonly string[] All =
    [
        "",
        " ",
        "-1",
        "9223372036854775808",
        "1e999",
        "PT2147483648M",
        "P99999999D",
        "٣",
        "９:３０",
        "in 9999 days",
        "31/12/9999",
        "0001-01-01",
        "9999-12-31T23:59:59-12:00",
        "{{{",
        "{{#a}}",
        "a@☃.example",
        "../../etc/passwd",
        "<script>alert(1)</script>",
        "'; drop table orders; --",
        "\u202e\u0301",
        "a\0b",
        "a\r\nb: c",
        "[[[[",
        "- - - {",
        "{\"a\":1,\"a\":2}",
        "(a+)+$",
        "person:",
        "nothing-that-exists",
    ];

    /// <summary>One of them.</summary>
    public static string One(Random chance) => All[chance.Next(All.Length)];
}
