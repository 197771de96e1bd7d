using Sirena.Core.Instructions;

namespace Sirena.Core.Tests.Instructions;

/// <summary>Days on which a source takes orders otherwise, as people type them.</summary>
public sealed class IntakeLineTests
{
    [Theory]
    [InlineData("2026-12-25", "2026-12-25", null, null, null)]
    [InlineData("2026-12-25 Christmas Day", "2026-12-25", null, null, "Christmas Day")]
    [InlineData("2026-12-24 08:00-12:00 Christmas Eve", "2026-12-24", "08:00", "12:00", "Christmas Eve")]
    [InlineData("2026-12-24 08:00-12:00", "2026-12-24", "08:00", "12:00", null)]
    [InlineData("  2026-12-24   8-12  ", "2026-12-24", "08:00", "12:00", null)]
    [InlineData("2026-12-24 08:00 - 12:00 Christmas Eve", "2026-12-24", "08:00", "12:00", "Christmas Eve")]
    [InlineData("2026-12-24 08:00–12:00 Christmas Eve", "2026-12-24", "08:00", "12:00", "Christmas Eve")]
    [InlineData("2026-12-24 8.30 to 12.15", "2026-12-24", "08:30", "12:15", null)]
    [InlineData("2026-12-24 8h-12h30 half a day", "2026-12-24", "08:00", "12:30", "half a day")]
    [InlineData("2026-12-31 3 ships come", "2026-12-31", null, null, "3 ships come")]
    [InlineData("2026-12-31 2-3 ships", "2026-12-31", "02:00", "03:00", "ships")]
    [InlineData("24 Dec 08:00-12:00", "24", null, null, "Dec 08:00-12:00")]
    public void A_day_its_times_and_why_are_told_apart(string line, string date, string? from, string? to, string? name) =>
        Assert.Equal(new IntakeLine(date, from, to, name), IntakeLine.Read(line));

    // A half of a span closes no day: the reader asks for the other.
    [Theory]
    [InlineData("2026-12-24 08:00", "08:00", null, null)]
    [InlineData("2026-12-24 08:00 Christmas Eve", "08:00", null, "Christmas Eve")]
    [InlineData("2026-12-24 08:00-", "08:00", null, "-")]
    [InlineData("2026-12-24 25:00-26:00", "25:00", "26:00", null)]
    public void What_is_no_span_is_kept_as_it_was_typed(string line, string? from, string? to, string? name) =>
        Assert.Equal((from, to, name), (IntakeLine.Read(line).From, IntakeLine.Read(line).To, IntakeLine.Read(line).Name));
}
