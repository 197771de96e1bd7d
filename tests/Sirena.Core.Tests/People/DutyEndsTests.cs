using NodaTime;
using Sirena.Core.People;

namespace Sirena.Core.Tests.People;

/// <summary>Where duty begins and ends, to the second.</summary>
public sealed class DutyEndsTests
{
    private static Instant At(int hour, int minute = 0) => Instant.FromUtc(2026, 11, 25, hour, minute);

    private static Rota Rota(params string[] lines)
    {
        string[] shift = ["BEGIN:VEVENT", "UID:d1", "DTSTAMP:20261101T000000Z", "ATTENDEE:mailto:bram@a.example", .. lines, "END:VEVENT", ""];
        var file = Calendars.Read(Calendars.Of(string.Join("\r\n", shift)));
        Assert.Empty(file.Errors);
        return new Rota(file.Shifts, Calendars.Lisbon);
    }

    [Fact]
    public void Somebody_is_on_duty_from_the_begin_to_the_end_not_included()
    {
        var rota = Rota("DTSTART:20261125T080000Z", "DTEND:20261125T160000Z");
        bool On(Instant at) => rota.OnDuty("desk", at).Any();
        Assert.False(On(At(8) - Duration.FromSeconds(1)));
        Assert.True(On(At(8)));
        Assert.True(On(At(16) - Duration.FromSeconds(1)));
        Assert.False(On(At(16)));
    }

    [Fact]
    public void A_stretch_that_only_touches_a_shift_has_none_of_it()
    {
        var rota = Rota("DTSTART:20261125T080000Z", "DTEND:20261125T160000Z");
        int Of(Instant from, Instant to) => rota.Between("desk", from, to).Count;
        Assert.Equal(0, Of(At(6), At(8)));
        Assert.Equal(1, Of(At(6), At(8, 1)));
        Assert.Equal(0, Of(At(16), At(18)));
        Assert.Equal(1, Of(At(15, 59), At(18)));
    }

    [Fact]
    public void A_shift_of_a_week_is_found_from_its_last_hour()
    {
        var rota = Rota("DTSTART:20261118T160000Z", "DTEND:20261125T160000Z");
        Assert.Single(rota.OnDuty("desk", At(15)));
        Assert.Empty(rota.OnDuty("desk", At(16)));
        Assert.Single(rota.Between("desk", At(15), At(17)));
    }

    [Fact]
    public void A_series_counts_each_of_its_nights()
    {
        var rota = Rota("DTSTART:20261123T220000Z", "DTEND:20261124T060000Z", "RRULE:FREQ=DAILY;COUNT=3");
        Assert.Equal(3, rota.Between("desk", At(0) - Duration.FromDays(7), At(0) + Duration.FromDays(7)).Count);
        Assert.Single(rota.OnDuty("desk", At(5, 59)));
        Assert.Empty(rota.OnDuty("desk", At(6)));
        Assert.Empty(rota.OnDuty("desk", At(23) + Duration.FromDays(1)));
    }
}
