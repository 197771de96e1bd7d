using System.Text.Json;
using NodaTime;
using Sirena.Core.Sources;
using Sirena.Formats.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>The order system's list against what is known here.</summary>
public sealed class CheckDifferenceTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 2, 15);
    private static readonly Instant Old = Now - Duration.FromHours(2);
    private static readonly Instant Young = Now - Duration.FromMinutes(9);

    private static ListedOrder Listed(string number, string? status = "picking", Instant? placed = null, Instant? changed = null) =>
        new(number, status, placed, changed, "{}");

    private static KnownOrder Known(string number, string? status = "picking", bool open = true, Instant? changed = null) =>
        new(number, status, open, changed ?? Old);

    private static IReadOnlyList<MissedFound> Of(IReadOnlyCollection<ListedOrder> listed, params KnownOrder[] known) =>
        CheckDifference.Of(listed, known.ToDictionary(k => k.Number), Now);

    [Fact]
    public void What_stands_the_same_on_both_sides_is_no_difference() =>
        Assert.Empty(Of([Listed("A"), Listed("B", null)], Known("A"), Known("B"), Known("C", open: false)));

    [Fact]
    public void Three_kinds_of_difference_each_with_the_order_systems_own_time()
    {
        var found = Of([Listed("A", placed: Old), Listed("B", "loaded", changed: Old + Duration.FromMinutes(5))], Known("B"), Known("C"));
        Assert.Equal([MissedKind.Unknown, MissedKind.Status, MissedKind.Gone], found.Select(f => f.Kind));
        Assert.Equal([Old, Old + Duration.FromMinutes(5), null], found.Select(f => f.ThereAt));
        Assert.Equal(("loaded", "picking"), (found[1].There, found[1].Here));
        Assert.Null(found[2].Row);
    }

    [Fact]
    public void A_difference_younger_than_ten_minutes_may_be_on_its_way_whichever_side_says_so() =>
        Assert.Empty(
            Of(
                [Listed("A", placed: Young), Listed("B", "loaded"), Listed("C", "loaded", changed: Young)],
                Known("B", changed: Young),
                Known("C"),
                Known("D", changed: Young)
            )
        );

    [Fact]
    public void At_ten_minutes_to_the_second_it_counts()
    {
        var limit = Now - CheckDifference.Grace;
        Assert.Equal(
            4,
            Of(
                [Listed("A", placed: limit), Listed("B", "loaded"), Listed("C", "loaded", changed: limit)],
                Known("B", changed: limit),
                Known("C"),
                Known("D", changed: limit)
            ).Count
        );
    }

    [Fact]
    public void An_order_that_is_closed_here_and_open_there_with_another_status_differs() =>
        Assert.Equal(MissedKind.Status, Assert.Single(Of([Listed("A")], Known("A", "signed-for", open: false))).Kind);

    [Fact]
    public void A_row_says_its_own_time_where_the_reading_names_a_column()
    {
        var (reading, errors) = ReadingReader.Read(
            """{ "time": { "column": "moved", "form": "dd/MM/uuuu HH:mm", "zone": "Europe/Lisbon" }, "order": { "number": { "column": "no" } } }""",
            yaml: false,
            SourceKind.Listing
        );
        Assert.Empty(errors);
        var reader = new BodyReader(reading!, DateTimeZone.Utc);
        Instant? Time(string moved) => reader.TimeOf(JsonSerializer.SerializeToElement(new Dictionary<string, string> { ["no"] = "1", ["moved"] = moved }));
        Assert.Equal(Instant.FromUtc(2026, 7, 24, 11, 30), Time("24/07/2026 12:30"));
        Assert.Null(Time(""));
        Assert.Null(Time("soon"));
    }
}
