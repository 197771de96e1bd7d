using Sirena.Core.Orders.Fields;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

/// <summary>Values of every kind as each type of field shows them, in each language, with their parts, kept as they were found good.</summary>
public sealed class ValuesSweepTests
{
    private static readonly string[] Values =
    [
        "0",
        "-3",
        "1250.5",
        "1000000",
        "0.001",
        "1e30",
        "\"1250.5\"",
        "\"\"",
        "\" \"",
        "\"two\\nlines\"",
        "\"bell\\u0007\"",
        "true",
        "false",
        "null",
        "[]",
        "[1,\"b\",true,null]",
        "{\"a\":1}",
        "\"high\"",
        "\"tuesday\"",
        "\"2026-11-24\"",
        "\"2026-11-24T12:00:00Z\"",
        "\"2026-11-24T12:01:00Z\"",
        "\"2026-11-24T11:00:00Z\"",
        "\"2026-11-24T23:59:59Z\"",
        "\"2026-11-25T00:00:00Z\"",
        "\"2026-11-30T18:00:00+02:00\"",
        "\"2027-07-24T18:00:00Z\"",
        "\"PT0S\"",
        "\"PT59S\"",
        "\"PT1M\"",
        "\"PT59M59S\"",
        "\"PT1H\"",
        "\"PT2H30M\"",
        "\"P1D\"",
        "\"P1DT23H\"",
        "\"P2D\"",
        "\"P40D\"",
        "\"-PT2H\"",
        "\"PT1.5S\"",
    ];

    [Theory]
    [InlineData("en")]
    [InlineData("pt")]
    public void Every_value_is_shown_as_it_was(string language)
    {
        var words = TextLanguage.Of(language);
        string[] parts = ["plain", "date", "time", "until"];
        var told =
            from type in Enum.GetValues<FieldType>()
            from value in Values
            let shown = new FieldValue(Element(value), type, words, Lisbon, Noon, "EUR")
            let lines = new FieldValue(Element(value), type, words, Lisbon, Noon, "EUR", lines: true).Show()
            select $"{type} {value}: '{shown.Show()}'{(shown.Holds ? "" : ", holds nothing")}{(lines == shown.Show() ? "" : ", in lines")}"
                + string.Concat(parts.Where(p => shown.Part(p) is { } part && part.Show() != shown.Show()).Select(p => $", {p} '{shown.Part(p)!.Show()}'"));
        Kept.Same("values-" + language, told);
    }
}
