using System.Xml.Linq;
using NodaTime;
using Sirena.Core.Sources;
using Sirena.Core.Wordings;
using Sirena.Web.Pages.Orders;
using Sirena.Web.Pages.Shared;
using Sirena.Web.Pages.Sources;
using static Sirena.Web.Tests.Svg;

namespace Sirena.Web.Tests;

/// <summary>How the desk says times, spans, sources and figures.</summary>
public sealed class DeskWordsTests
{
    private static readonly DateTimeZone Lisbon = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];

    private static DeskTime At(string wall) => new(Lisbon.AtStrictly(Local(wall)).ToInstant(), Lisbon);

    private static LocalDateTime Local(string wall) => DeskTime.Field.Parse(wall).Value;

    private static Instant Moment(string wall) => Lisbon.AtStrictly(Local(wall)).ToInstant();

    [Theory]
    [InlineData("2026-11-24T09:05", "09:05")]
    [InlineData("2026-11-24T00:00", "00:00")]
    [InlineData("2026-11-25T07:00", "Wed 07:00")]
    [InlineData("2026-11-23T23:59", "Mon 23:59")]
    [InlineData("2026-11-29T07:00", "Sun 07:00")]
    [InlineData("2026-11-30T07:00", "30 Nov 07:00")]
    [InlineData("2026-11-18T07:00", "18 Nov 07:00")]
    public void A_time_says_its_day_where_it_is_not_today(string at, string words) => Assert.Equal(words, At("2026-11-24T14:32").Short(Moment(at)));

    [Fact]
    public void Days_are_the_businesss_own_not_those_of_Greenwich()
    {
        var desk = new DeskTime(Instant.FromUtc(2026, 6, 1, 23, 30), Lisbon);
        Assert.Equal(new LocalDate(2026, 6, 2), desk.Today);
        Assert.Equal(Instant.FromUtc(2026, 6, 1, 23, 0), desk.Midnight);
        Assert.Equal("00:30", desk.Short(desk.Now));
        Assert.Equal("Mon 23:30", desk.Short(desk.Now - Duration.FromHours(1)));
    }

    [Fact]
    public void Each_form_of_a_time_has_what_it_is_for()
    {
        var desk = At("2026-11-24T14:32");
        var (near, far) = (Moment("2026-05-14T22:15"), Moment("2025-05-14T22:15"));
        Assert.Equal(("Thu 14 May 22:15", "Wed 14 May 2025 22:15"), (desk.Day(near), desk.Day(far)));
        Assert.Equal(("14:32:08", "14 May 22:15:00"), (desk.Exact(desk.Now + Duration.FromSeconds(8)), desk.Exact(near)));
        Assert.Equal("Thu 14 May 2026, 22:15:00", desk.Full(near));
        Assert.Equal(
            ("in 18 min", "3 min over", "in 0 s"),
            (desk.Until(desk.Now + Duration.FromMinutes(18)), desk.Until(desk.Now - Duration.FromMinutes(3)), desk.Until(desk.Now))
        );
        Assert.Equal("2 h ago", desk.Since(desk.Now - Duration.FromHours(2)));
        Assert.Equal("há 3 dias", (desk with { Language = TextLanguage.Of("pt") }).Since(desk.Now - Duration.FromDays(3)));
    }

    [Theory]
    [InlineData(29, true)]
    [InlineData(30, false)]
    [InlineData(-5, true)]
    public void Soon_is_within_half_an_hour(int minutes, bool soon)
    {
        var desk = At("2026-11-24T14:32");
        Assert.Equal(soon, desk.Soon(desk.Now + Duration.FromMinutes(minutes)));
    }

    [Theory]
    [InlineData("2026-11-24", true)]
    [InlineData("1969-12-31", false)]
    [InlineData("2200-01-01", false)]
    [InlineData("2026-02-30", false)]
    [InlineData("today", false)]
    [InlineData(null, false)]
    public void A_day_in_an_address_is_a_date_of_our_time(string? text, bool good) => Assert.Equal(good, DeskTime.ReadDay(text) is not null);

    // Whatever the hour, also in the nights in which the clocks change: each due time lies in one span, and none between two.
    [Theory]
    [InlineData("2026-11-24T00:00")]
    [InlineData("2026-11-24T14:32")]
    [InlineData("2026-11-24T22:59")]
    [InlineData("2026-11-24T23:00")]
    [InlineData("2026-11-24T23:59")]
    [InlineData("2026-10-24T23:30")]
    [InlineData("2026-10-25T12:00")]
    [InlineData("2026-03-28T23:30")]
    [InlineData("2026-03-29T02:30")]
    public void Due_times_are_parted_without_a_gap_and_without_an_overlap(string now)
    {
        var spans = OrderFilter.Spans(At(now)).Where(s => s.From < s.To).ToArray();
        Assert.Equal(Instant.FromUnixTimeTicks(0), spans[0].From);
        Assert.All(spans.Zip(spans.Skip(1)), p => Assert.Equal(p.First.To, p.Second.From));
        Assert.True(spans[^1].To > Instant.FromUtc(9998, 1, 1, 0, 0));
        Assert.Equal(("over", "hour"), (spans[0].Name, spans[1].Name));
        Assert.Equal(OrderFilter.Span("hour", At(now)), (spans[1].From, spans[1].To));
    }

    private static Source Of(SourceKind kind, ProofKind proof = ProofKind.Key, ListingRole? role = null) =>
        new()
        {
            Id = "till",
            Name = "Till",
            Kind = kind,
            Proof = new SourceProof
            {
                Kind = proof,
                User = "quay",
                Header = "X-Sig",
            },
            Listing = role is { } r ? new ListingPlan { Role = r, Key = "Nr" } : null,
        };

    [Fact]
    public void How_a_source_comes_and_proves_itself_is_said_in_words()
    {
        Assert.Equal("the order system posts CloudEvents, by key", SourceWords.How(Of(SourceKind.Events, ProofKind.Signature)));
        Assert.Equal("a list that is compared with what is known here", SourceWords.How(Of(SourceKind.Listing, role: ListingRole.Check)));
        Assert.Equal("a list, by its difference from the one before", SourceWords.How(Of(SourceKind.Listing, role: ListingRole.Orders)));
        Assert.Equal("UBL documents", SourceWords.How(Of(SourceKind.Documents)));
        Assert.Equal(
            ["by key", "by password", "signed", "signed", "by a secret address"],
            new[] { ProofKind.Key, ProofKind.Basic, ProofKind.Signature, ProofKind.StandardWebhooks, ProofKind.InAddress }.Select(p =>
                SourceWords.How(Of(SourceKind.Calls, p)).Split(", ", 2)[1].Split(';')[0]
            )
        );
        Assert.Equal("User 'quay' and the password, as Basic (RFC 7617).", SourceWords.Proof(Of(SourceKind.Calls, ProofKind.Basic).Proof));
        Assert.Equal("X-Sig: HMAC-SHA256 in hex over the raw body.", SourceWords.Proof(Of(SourceKind.Calls, ProofKind.Signature).Proof));
        var timed = new SourceProof
        {
            Kind = ProofKind.Signature,
            Header = "X-Sig",
            Before = "v1=",
            Algorithm = "sha512",
            Encoding = "base64",
            TimeHeader = "X-T",
        };
        Assert.Equal("X-Sig: 'v1=', then HMAC-SHA512 in base64 over X-T, a point and the raw body.", SourceWords.Proof(timed));
    }

    [Fact]
    public void A_silence_is_said_until_nothing_is_expected_and_then_that()
    {
        var desk = At("2026-11-24T14:32");
        var source = Of(SourceKind.Calls);
        Assert.Null(SourceWords.Quiet(source, desk));
        source.SilentSince = desk.Now - Duration.FromMinutes(95);
        Assert.Equal("quiet for 1 h 35", SourceWords.Quiet(source, desk));
        Assert.Null(SourceWords.NotExpected(source, desk));
        source.Silence = new SilencePlan { NotBefore = desk.Now + Duration.FromHours(2), Why = "it is moved" };
        Assert.Null(SourceWords.Quiet(source, desk));
        Assert.Equal("not expected before 16:32: it is moved", SourceWords.NotExpected(source, desk));
        source.Silence = source.Silence with { NotBefore = desk.Now };
        Assert.Null(SourceWords.NotExpected(source, desk));
        Assert.Equal("quiet for 1 h 35", SourceWords.Quiet(source, desk));
    }

    [Fact]
    public void What_became_of_a_body_has_a_mark_of_its_own_and_never_colour_alone()
    {
        var marks = Enum.GetValues<ArrivalState>().Select(SourceWords.Mark).ToArray();
        Assert.Equal(marks.Length, marks.Select(m => m.Word).Distinct().Count());
        Assert.Equal(("b-ok", "b-bad"), (SourceWords.Mark(ArrivalState.Understood).Mark, SourceWords.Mark(ArrivalState.Refused).Mark));
        Assert.Equal(
            ["k-call", "k-call", "k-hand", "k-folder"],
            new[] { SourceKind.Calls, SourceKind.Events, SourceKind.Listing, SourceKind.Documents }.Select(k => SourceWords.Glyph(Of(k)))
        );
    }

    [Fact]
    public void Bars_stand_on_their_line_with_what_nobody_answered_on_top()
    {
        var svg = XElement.Parse(Draw.Bars([0, 3, 13], [0, 1, 20], "alerts & more").Value!);
        var bars = svg.Elements("rect").Select(r => (X: Number(r, "x"), Y: Number(r, "y"), H: Number(r, "height"), Fill: r.Attribute("fill")!.Value)).ToArray();
        Assert.Equal([(4, 24, 4, "var(--bar)"), (4, 22, 2, "var(--flare)"), (8, 2, 26, "var(--flare)")], bars);
        Assert.Equal("alerts & more", svg.Attribute("aria-label")!.Value);
        Assert.Null(svg.Element("path")!.Attribute("stroke-dasharray"));
        Assert.NotNull(XElement.Parse(Draw.Bars([0, 0], [0, 0], "none").Value!).Element("path")!.Attribute("stroke-dasharray"));
    }
}
