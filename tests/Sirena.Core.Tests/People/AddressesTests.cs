using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Core.Tests.People;

public class AddressesTests
{
    [Theory]
    [InlineData("a@b.example, c@d.example", "a@b.example|c@d.example")]
    [InlineData("a@b.example;c@d.example", "a@b.example|c@d.example")]
    [InlineData("a@b.example c@d.example\n e@f.example", "a@b.example|c@d.example|e@f.example")]
    [InlineData(" A@b.example ,, a@B.example ", "A@b.example")]
    [InlineData("", "")]
    public void One_field_takes_several_mail_addresses(string text, string good)
    {
        var (read, problems) = Addresses.Read(Channel.Mail, text);
        Assert.Equal(good, string.Join('|', read));
        Assert.Empty(problems);
    }

    [Fact]
    public void A_bad_one_among_good_ones_is_named_and_the_good_ones_stay()
    {
        var (good, problems) = Addresses.Read(Channel.Mail, "a@b.example, nobody, c@d, x@@y.example");
        Assert.Equal(["a@b.example"], good);
        Assert.Equal(["'nobody' has no @.", "'c@d' has no domain ending.", "'x@@y.example' has more than one @."], problems);
    }

    [Theory]
    [InlineData("", "is empty")]
    [InlineData("nobody", "has no @")]
    [InlineData("@mail.example", "has a part before the @ that no mail address can have")]
    [InlineData("a@b@c.example", "has more than one @")]
    [InlineData("a@mail", "has no domain ending")]
    [InlineData("a@.example", "has a domain that cannot exist")]
    [InlineData("a@mail-.example", "has a domain that cannot exist")]
    public void What_is_wrong_with_one_is_said(string text, string problem)
    {
        Assert.False(MailAddress.TryParse(text, out _, out var said));
        Assert.Equal(problem, said);
    }

    [Theory]
    [InlineData("a.b+c@mail.example", true)]
    [InlineData("o'brien@mail.example", true)]
    [InlineData("a@xn--bcher-kva.example", true)]
    [InlineData("bjørk@mail.example", true)]
    [InlineData("山田@mail.example", true)]
    [InlineData("संपर्क@उदाहरण.परीक्षा", true)]
    [InlineData("ติดต่อ@ตัวอย่าง.ไทย", true)]
    [InlineData("𠮷田@mail.example", true)]
    [InlineData("a@𠮷田.example", true)]
    [InlineData("a@bücher.example", true)]
    [InlineData("a@☃.example", false)]
    [InlineData("a@b\u0301.example", true)]
    [InlineData("a@\u0301b.example", false)]
    [InlineData("\ud842@mail.example", false)]
    [InlineData("a\u202Eb@mail.example", false)]
    [InlineData(".a@mail.example", false)]
    [InlineData("a..b@mail.example", false)]
    [InlineData("a b@mail.example", false)]
    [InlineData("a@-mail.example", false)]
    [InlineData("a@mail..example", false)]
    [InlineData("a@b.example\r\nBcc: x@y.example", false)]
    public void A_mail_address_is_what_RFC_5321_allows_in_practice(string text, bool good) => Assert.Equal(good, MailAddress.TryParse(text, out _, out _));

    [Fact]
    public void Parts_that_are_too_long_are_refused()
    {
        Assert.True(MailAddress.TryParse(new string('a', 64) + "@mail.example", out _, out _));
        Assert.False(MailAddress.TryParse(new string('ø', 33) + "@mail.example", out _, out _));
        Assert.False(MailAddress.TryParse(new string('a', 65) + "@mail.example", out _, out _));
        Assert.True(MailAddress.TryParse("a@" + new string('b', 63) + ".example", out _, out _));
        Assert.False(MailAddress.TryParse("a@" + new string('b', 64) + ".example", out _, out _));
        Assert.True(MailAddress.TryParse("a@" + new string('ü', 40) + ".example", out _, out _));
        Assert.False(MailAddress.TryParse("a@" + new string('ü', 63) + ".example", out _, out _));
        Assert.True(MailAddress.TryParse(OfLength(254), out _, out _));
        Assert.False(MailAddress.TryParse(OfLength(255), out _, out _));
        Assert.False(MailAddress.TryParse("a@" + string.Join('.', Enumerable.Repeat("label", 50)), out _, out var problem));
        Assert.Contains("254", problem);
    }

    private static string OfLength(int length) => $"a@{string.Concat(Enumerable.Repeat("label.", 40))}{new string('x', length - 242)}";

    [Theory]
    [InlineData("+44 7700 900123, 00447700900124", "+447700900123|+447700900124")]
    [InlineData("+44 7700 900123 +44 7700 900124", "+447700900123|+447700900124")]
    [InlineData("+44 (7700) 900-123", "+447700900123")]
    public void Numbers_may_hold_spaces_and_become_E_164(string text, string good) =>
        Assert.Equal(good, string.Join('|', Addresses.Read(Channel.Sms, text).Good));

    [Theory]
    [InlineData("07700 900123", "has no country code")]
    [InlineData("+44 77", "too short or too long")]
    [InlineData("+44 abc", "is no telephone number")]
    public void A_number_that_cannot_be_dialled_says_why(string text, string problem) =>
        Assert.Contains(problem, Assert.Single(Addresses.Read(Channel.Sms, text).Problems));
}
