using CsCheck;
using Sirena.Core.Deliveries;

namespace Sirena.Core.Tests.Deliveries;

public sealed class SmsTextTests
{
    [Theory]
    [InlineData("", 0, 1)]
    [InlineData("Order AQ-20418 held", 19, 1)]
    [InlineData("€", 2, 1)]
    [InlineData("{[~]}", 10, 1)]
    public void The_default_alphabet_counts_septets_and_its_extension_two(string text, int septets, int segments)
    {
        var sms = SmsText.Of(text);
        Assert.Equal((SmsEncoding.Gsm7, septets, segments), (sms.Encoding, sms.Units, sms.Segments));
        Assert.Empty(sms.Costly);
    }

    [Theory]
    [InlineData(160, 1)]
    [InlineData(161, 2)]
    [InlineData(306, 2)]
    [InlineData(307, 3)]
    public void A_segment_holds_160_septets_and_153_of_several(int letters, int segments) =>
        Assert.Equal(segments, SmsText.Of(new string('a', letters)).Segments);

    [Theory]
    [InlineData(70, 1)]
    [InlineData(71, 2)]
    [InlineData(134, 2)]
    [InlineData(135, 3)]
    public void In_UCS_2_it_holds_70_and_67(int letters, int segments)
    {
        var sms = SmsText.Of(new string('ж', letters));
        Assert.Equal((SmsEncoding.Ucs2, letters, segments), (sms.Encoding, sms.Units, sms.Segments));
    }

    [Fact]
    public void A_surrogate_pair_is_never_split()
    {
        // 33 pairs and one unit fill 67; the pair at the border moves over and leaves a unit empty.
        Assert.Equal(2, SmsText.Of(string.Concat(Enumerable.Repeat("🚢", 66))).Segments);
        Assert.Equal(3, SmsText.Of(string.Concat(Enumerable.Repeat("🚢", 67))).Segments);
    }

    [Fact]
    public void An_escape_is_never_split_from_its_character()
    {
        Assert.Equal(2, SmsText.Of(new string('a', 152) + "€" + new string('a', 151)).Segments);
        Assert.Equal(3, SmsText.Of(new string('a', 152) + "€" + new string('a', 152)).Segments);
        Assert.Equal(306, SmsText.Of(new string('a', 152) + "€" + new string('a', 152)).Units);
    }

    [Fact]
    public void What_forces_the_costly_encoding_is_named_with_what_could_stand_instead()
    {
        var sms = SmsText.Of("Captain’s list – não, ção 🚢’");
        Assert.Equal([new("’", "'"), new("–", "-"), new("ã", "a"), new("ç", "c"), new("🚢", null)], sms.Costly);
        Assert.Equal("Captain's list - nao, cao 🚢'", SmsText.Cheaper(sms.Text));
        Assert.Equal(SmsEncoding.Gsm7, SmsText.Of(SmsText.Cheaper("It’s due at 15:30")).Encoding);
    }

    [Fact]
    public void The_cost_is_that_of_the_segments() => Assert.Equal(0.16m, SmsText.Of(new string('a', 161)).Cost(0.08m));

    [Fact]
    public void More_text_never_takes_fewer_segments_and_all_of_it_finds_room() =>
        Gen.Select(Gen.OneOf(Gen.Const("a"), Gen.Const("€"), Gen.Const("ж"), Gen.Const("🚢"), Gen.Const("\n")).Array[0, 400], Gen.Int[0, 400])
            .Sample(
                (parts, cut) =>
                {
                    var (all, some) = (SmsText.Of(string.Concat(parts)), SmsText.Of(string.Concat(parts.Take(cut))));
                    var several = all.Encoding == SmsEncoding.Gsm7 ? 153 : 67;
                    return all.Segments >= some.Segments
                        && all.Units <= Math.Max(all.Segments * several, all.Encoding == SmsEncoding.Gsm7 ? 160 : 70)
                        && (all.Segments == 1 || all.Units > (all.Segments - 1) * (several - 1));
                }
            );
}
