using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests;

/// <summary>Names, ids, times and amounts: what everything else stands on.</summary>
public sealed class SmallThingsTests
{
    [Theory]
    [InlineData("dario", "dario")]
    [InlineData("taken", "taken-2")]
    [InlineData("much", "much-4")]
    public void An_id_that_is_taken_gets_the_first_free_number(string wished, string free) =>
        Assert.Equal(free, Ids.Free(wished, id => id is "taken" or "much" or "much-2" or "much-3"));

    [Fact]
    public void Words_of_addresses_are_ids_of_nothing_that_is_named_anew()
    {
        Assert.Equal(("new-2", "new-3"), (Ids.Free("new", Ids.NoRule.Contains), Ids.Free("new", id => Ids.NoRule.Contains(id) || id == "new-2")));
        Assert.Equal(["ladders-2", "news"], new[] { "ladders", "news" }.Select(id => Ids.Free(id, Ids.NoRule.Contains)));
        Assert.Contains("'who' is a word of Sirena's own addresses", Ids.Kept("who"), StringComparison.Ordinal);
    }

    [Fact]
    public void Names_of_members_are_their_words_joined_by_hyphens()
    {
        Assert.Equal("handed-over", DeliveryState.HandedOver.Name());
        Assert.Equal(DeliveryState.HandedOver, Names.Parse<DeliveryState>("handed-over"));
        Assert.Null(Names.Parse<DeliveryState>("HandedOver"));
        Assert.Null(Names.Parse<DeliveryState>(null));
        Assert.Equal([false, true, false, false, true], new[] { "handed-over", "HandedOver", "", null, "h" }.Select(Names.IsNone<DeliveryState>));
        Assert.Equal(["routine", "prompt", "urgent"], Names.All<Urgency>());
    }

    [Fact]
    public void Known_time_is_1970_to_2199()
    {
        var (first, end) = (Instant.FromUtc(1970, 1, 1, 0, 0), Instant.FromUtc(2200, 1, 1, 0, 0));
        Assert.True(KnownTime.Holds(first));
        Assert.False(KnownTime.Holds(first - Duration.Epsilon));
        Assert.True(KnownTime.Holds(end - Duration.Epsilon));
        Assert.False(KnownTime.Holds(end));
        Assert.Equal([false, true, true, false], new[] { 1969, 1970, 2199, 2200 }.Select(y => KnownTime.Holds(new LocalDate(y, 6, 1))));
        Assert.Equal(first, KnownTime.Nearest(first - Duration.FromDays(1)));
        Assert.Equal(end - Duration.FromSeconds(1), KnownTime.Nearest(end));
        Assert.Equal(Build.Noon, KnownTime.Nearest(Build.Noon));

        // An offset leads out of the calendar's last and first year.
        static OffsetDateTime At(int year, int month, int day, int hours) => new LocalDateTime(year, month, day, 23, 30).WithOffset(Offset.FromHours(hours));
        Assert.Equal((Instant.MaxValue, Instant.MinValue), (KnownTime.Of(At(9999, 12, 31, -12)), KnownTime.Of(At(-9998, 1, 1, 18))));
        Assert.Equal(Instant.FromUtc(9999, 1, 1, 11, 30), KnownTime.Of(At(9998, 12, 31, -12)));
        Assert.Equal(Instant.FromUtc(-9997, 1, 1, 11, 30), KnownTime.Of(At(-9997, 1, 1, 12)));
        Assert.True(KnownTime.HoldsTicks(0));
        Assert.False(KnownTime.HoldsTicks(-1));
        Assert.True(KnownTime.HoldsTicks(71_999_999_999_999_999));
        Assert.False(KnownTime.HoldsTicks(72_000_000_000_000_000));
    }

    [Fact]
    public void An_instant_is_kept_to_the_microsecond_below_and_its_hour_is_the_one_it_lies_in()
    {
        var at = Build.Noon + Duration.FromTicks(12_345_678_19);
        Assert.Equal(Build.Noon + Duration.FromTicks(12_345_678_10), at.Micros());
        Assert.Equal(at.Micros(), at.Micros().Micros());
        Assert.Equal(Build.Noon, (Build.Noon + Duration.FromMinutes(59)).Hour());
        Assert.Equal(Build.Noon + Duration.FromHours(1), (Build.Noon + Duration.FromMinutes(60)).Hour());
    }

    [Theory]
    [InlineData(null, "–")]
    [InlineData(0.0, "0.0 s")]
    [InlineData(2.34, "2.3 s")]
    [InlineData(59.9, "59.9 s")]
    [InlineData(60.0, "1 min")]
    [InlineData(3_600.0, "1 h")]
    [InlineData(8_880.0, "2 h 28")]
    [InlineData(3_660.0, "1 h 01")]
    [InlineData(172_799.0, "47 h 59")]
    [InlineData(172_800.0, "2 days")]
    public void How_long_something_took_is_said_in_its_greatest_unit(double? seconds, string words) =>
        Assert.Equal(words, (seconds is { } s ? Duration.FromSeconds(s) : (Duration?)null).Took());

    [Theory]
    [InlineData(-65, "1 min")]
    [InlineData(59, "59 s")]
    [InlineData(0, "0 s")]
    public void A_span_is_said_without_its_sign(int seconds, string words) => Assert.Equal(words, Duration.FromSeconds(seconds).InWords());

    [Theory]
    [InlineData(Urgency.Urgent, 30, 60, 30)]
    [InlineData(Urgency.Prompt, 240, 480, 720)]
    [InlineData(Urgency.Routine, 1_440, 4_320, 720)]
    public void An_urgency_has_its_times(Urgency urgency, int deadline, int done, int age)
    {
        Assert.Equal(Duration.FromMinutes(deadline), urgency.Deadline());
        Assert.Equal(Duration.FromMinutes(done), urgency.DoneWithin());
        Assert.Equal(Duration.FromMinutes(age), urgency.NotOlderThan());
    }

    [Theory]
    [InlineData(1284.5, "1,284.50 EUR")]
    [InlineData(0, "0.00 EUR")]
    [InlineData(-12.3456, "-12.3456 EUR")]
    [InlineData(1.23456, "1.2346 EUR")]
    public void An_amount_has_two_decimals_at_least_and_four_at_most(double amount, string text) =>
        Assert.Equal(text, new Money((decimal)amount, "EUR").ToString());

    [Theory]
    [InlineData("EUR", true)]
    [InlineData("eur", false)]
    [InlineData("EU", false)]
    [InlineData("EURO", false)]
    [InlineData("ÄUR", false)]
    [InlineData(null, false)]
    public void A_currency_is_three_capital_letters(string? text, bool currency) => Assert.Equal(currency, Money.IsCurrency(text));

    [Fact]
    public void A_late_answer_and_one_that_its_note_completes_are_known_by_it()
    {
        static Answer Of(AnswerKind kind, string? note) =>
            new()
            {
                Person = "odile",
                Kind = kind,
                Via = "screen",
                Note = note,
            };
        Assert.True(Of(AnswerKind.Taken, "too late: it was done").Late);
        Assert.False(Of(AnswerKind.Taken, "it is too late: sorry").Late);
        Assert.False(Of(AnswerKind.Taken, null).Late);
        Assert.True(Of(AnswerKind.Passed, "to Osei").NoteCompletes);
        Assert.True(Of(AnswerKind.Later, "until noon").NoteCompletes);
        Assert.False(Of(AnswerKind.Done, "done").NoteCompletes);
    }

    [Fact]
    public void A_step_knows_why_somebody_was_told_and_whether_it_came_early()
    {
        var step = new AlertStep
        {
            Told = [new("odile", Channel.Mail, "o@a.example", "you are in Desk"), new("bram", Channel.Mail, "b@a.example", "you are asked")],
        };
        Assert.Equal("you are asked", step.BecauseOf("bram"));
        Assert.Null(step.BecauseOf("ines"));
        Assert.Equal(
            Enum.GetValues<StepCause>().Where(c => c is not (StepCause.Due or StepCause.Passed)),
            Enum.GetValues<StepCause>().Where(c => new AlertStep { Cause = c }.PulledForward)
        );
    }

    [Fact]
    public void What_is_gathered_into_a_message_stands_below_and_the_subject_says_so_once()
    {
        var message = new Message
        {
            Subject = "AQ-1 held",
            Text = "Look.\n\n",
            Html = "<body><p>Look.</p></body>",
        };
        message.Gather("AQ-2 <held>");
        message.Gather("AQ-3 held");
        Assert.Equal("AQ-1 held and more", message.Subject);
        Assert.Equal("Look.\nAlso: AQ-2 <held>\nAlso: AQ-3 held", message.Text);
        Assert.Equal("<body><p>Look.</p><p><b>Also:</b> AQ-2 &lt;held&gt;</p><p><b>Also:</b> AQ-3 held</p></body>", message.Html);
        var plain = new Message { Subject = "AQ-1", Text = "Look." };
        plain.Gather("AQ-2");
        Assert.Null(plain.Html);
    }

    private static Sender From(int id, bool verified, string? gateway, params Audience[] purposes) =>
        new()
        {
            Id = id,
            Name = "Desk",
            Address = "desk@a.example",
            VerifiedAt = verified ? Build.Noon : null,
            Purposes = [.. purposes],
            Gateways = gateway is null ? [] : [gateway],
        };

    [Fact]
    public void Mail_comes_from_the_newest_sender_that_is_verified_meant_for_the_reader_and_accepted()
    {
        Sender[] all =
        [
            From(1, true, null, Audience.Staff, Audience.Customer),
            From(2, true, "relay", Audience.Staff),
            From(3, false, null, Audience.Staff),
            From(4, true, "other", Audience.Staff),
        ];
        int? Id(Audience audience, string? gateway) => Sender.For(all, audience, gateway)?.Id;
        Assert.Equal(2, Id(Audience.Staff, "relay"));
        Assert.Equal(4, Id(Audience.Staff, "other"));
        Assert.Equal(1, Id(Audience.Staff, "settings"));
        Assert.Equal(1, Id(Audience.Staff, null));
        Assert.Equal(1, Id(Audience.Customer, "relay"));
        Assert.Null(Id(Audience.Outside, "relay"));
    }

    [Fact]
    public void A_wording_that_ships_for_an_event_knows_its_event()
    {
        var own = EventTypes.All.Where(t => ShippedWordings.IdFor(t) != ShippedWordings.General).ToArray();
        Assert.True(own.Length > 15, $"{own.Length} are few.");
        Assert.Equal(own, own.Select(t => ShippedWordings.EventOf(ShippedWordings.IdFor(t))));
        Assert.Null(ShippedWordings.EventOf(ShippedWordings.General));
        Assert.Null(ShippedWordings.EventOf("no-such"));
    }

    [Theory]
    [InlineData("A", true)]
    [InlineData("Fish dock", true)]
    [InlineData("  Fish  ", true)]
    [InlineData("1234567890", true)]
    [InlineData(" 1234567890 ", true)]
    [InlineData("12345678901", false)]
    [InlineData("Fish\ndock", false)]
    [InlineData("Fish\n", false)]
    [InlineData("Fish\tdock", false)]
    [InlineData("Fi\u0085sh", false)]
    [InlineData("   ", false)]
    [InlineData("", false)]
    [InlineData(null, false)]
    public void A_name_is_one_line_that_says_something(string? text, bool fits) => Assert.Equal(fits, NameText.Fits(text, 10));

    [Fact]
    public void What_waits_under_a_lease_is_being_sent_and_all_else_stands_where_it_is_stored()
    {
        static DeliveryState Stands(DeliveryState state, Guid? lease) =>
            new Delivery
            {
                RuleId = "r",
                To = "a@b.example",
                State = state,
                Lease = lease,
            }.Stands;
        foreach (var state in Enum.GetValues<DeliveryState>())
        {
            Assert.Equal(state, Stands(state, null));
            Assert.Equal(state == DeliveryState.Waiting ? DeliveryState.Sending : state, Stands(state, Guid.NewGuid()));
        }
    }
}
