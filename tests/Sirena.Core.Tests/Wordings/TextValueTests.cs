using System.Text.Json;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

/// <summary>How a value of an event stands in a text.</summary>
public class TextValueTests
{
    private static FieldValue Value(string json, FieldType type, TextLanguage? language = null, bool lines = false) =>
        new(Element(json), type, language ?? TextLanguage.En, Lisbon, Noon, "EUR", lines);

    [Theory]
    [InlineData("1250.5", FieldType.Money, "1,250.50 EUR")]
    [InlineData("1250.5", FieldType.Number, "1,250.5")]
    [InlineData("1250.5", FieldType.Any, "1,250.5")]
    [InlineData("1250.5", FieldType.Text, "1,250.5")]
    [InlineData("\"1250.5\"", FieldType.Number, "1250.5")]
    [InlineData("\"2026-11-24T18:00:00Z\"", FieldType.Time, "Tue 24 Nov, 18:00")]
    [InlineData("\"2026-07-24T18:00:00Z\"", FieldType.Time, "Fri 24 Jul, 19:00")]
    [InlineData("\"2026-11-24T18:00:00Z\"", FieldType.Any, "Tue 24 Nov, 18:00")]
    [InlineData("\"2026-11-24T18:00:00Z\"", FieldType.Text, "2026-11-24T18:00:00Z")]
    [InlineData("\"soon\"", FieldType.Time, "soon")]
    [InlineData("\"PT2H30M\"", FieldType.Duration, "2 h 30 min")]
    [InlineData("\"a while\"", FieldType.Duration, "a while")]
    [InlineData("true", FieldType.YesNo, "yes")]
    [InlineData("false", FieldType.YesNo, "no")]
    [InlineData("true", FieldType.Any, "yes")]
    [InlineData("\"N3\"", FieldType.Any, "N3")]
    [InlineData("null", FieldType.Text, "")]
    public void A_value_is_said_by_its_type(string json, FieldType type, string said) => Assert.Equal(said, Value(json, type).Show());

    [Theory]
    [InlineData("false", FieldType.YesNo, false)]
    [InlineData("true", FieldType.YesNo, true)]
    [InlineData("null", FieldType.Text, false)]
    [InlineData("\"\"", FieldType.Text, false)]
    [InlineData("0", FieldType.Number, true)]
    public void A_section_runs_over_what_is_there(string json, FieldType type, bool holds) => Assert.Equal(holds, Value(json, type).Holds);

    [Fact]
    public void A_time_has_its_day_its_time_and_how_long_it_is_until_then()
    {
        var due = Value("\"2026-11-24T14:30:00Z\"", FieldType.Time);
        Assert.Equal(("14:30", "2026-11-24T14:30:00Z"), (due.Part("time")!.Show(), due.Part("plain")!.Show()));
        Assert.Contains("24 Nov", due.Part("date")!.Show(), StringComparison.Ordinal);
        Assert.Contains("2 h 30", due.Part("until")!.Show(), StringComparison.Ordinal);
        Assert.Null(due.Part("berth"));
        Assert.Null(Value("\"2026-11-24\"", FieldType.Time).Part("time"));
        Assert.Null(Value("7", FieldType.Number).Part("until"));
    }

    [Theory]
    [InlineData("one\ntwo", false, "one two")]
    [InlineData("one\ntwo", true, "one\ntwo")]
    [InlineData("bell\u0007", true, "bell ")]
    [InlineData("boat \ud83d\udea2", true, "boat \ud83d\udea2")]
    public void No_name_poses_as_a_line_and_no_control_comes_through(string text, bool lines, string said)
    {
        Assert.Equal(said, lines ? FieldValue.Clean(text) : FieldValue.CleanLine(text));
        Assert.Equal(said, Value(JsonSerializer.Serialize(text), FieldType.Text, lines: lines).Show());
    }

    [Fact]
    public void Half_a_character_is_the_replacement_character()
    {
        Assert.Equal("half \ufffd.", FieldValue.Clean("half \ud83d."));
        Assert.Equal("half \ufffd", FieldValue.Clean("half \ud83d"));
        Assert.Equal("\ufffd half", FieldValue.Clean("\udea2 half"));
        Assert.Equal("\ufffd\ufffd", FieldValue.Clean("\udea2\ud83d"));
    }

    [Fact]
    public void What_stands_for_Sirena_s_own_HTML_never_comes_from_a_value() => Assert.Equal("a b c d\ne", FieldValue.Clean("a\uE000b\uE001c\uE002d\ne"));

    [Fact]
    public void A_list_is_joined_counted_and_drawn_as_a_table()
    {
        var list = new TextList([new PlainValue("rope"), new PlainValue(""), new PlainValue("tar")], () => "<table>");
        Assert.Equal(("rope, tar", "3", "<table>"), (list.Show(), list.Part("count")!.Show(), list.Part("table")!.Show()));
        Assert.True(list.Holds);
        Assert.Null(list.Part("first"));
        Assert.Null(new TextList([]).Part("table"));
        Assert.False(new TextList([]).Holds);
        Assert.Equal((false, true, "0"), (new CountValue(0).Holds, new CountValue(1).Holds, new CountValue(0).Show()));
    }

    [Fact]
    public void Parts_that_are_kept_are_found_once()
    {
        var asked = 0;
        TextMap Map(bool kept) => new(name => name == "a" ? new PlainValue($"{++asked}") : null, kept: kept);
        var (once, each) = (Map(true), Map(false));
        Assert.Equal(("1", "1"), (once.Part("a")!.Show(), once.Part("a")!.Show()));
        Assert.Equal(("2", "3"), (each.Part("a")!.Show(), each.Part("a")!.Show()));
        Assert.Null(once.Part("b"));
        Assert.Equal((true, ""), (once.Holds, once.Show()));
    }
}
