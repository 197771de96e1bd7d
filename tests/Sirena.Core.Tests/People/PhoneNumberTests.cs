using Sirena.Core.People;

namespace Sirena.Core.Tests.People;

public class PhoneNumberTests
{
    [Theory]
    [InlineData("+44 7700 900123", "+447700900123")]
    [InlineData("0044 7700 900123", "+447700900123")]
    [InlineData(" +351 (912) 345-678 ", "+351912345678")]
    [InlineData("+351.21.322.1000", "+351213221000")]
    public void A_number_is_kept_as_E_164(string text, string kept)
    {
        Assert.True(PhoneNumber.TryParse(text, out var number, out var problem), problem);
        Assert.Equal((kept, kept), (number.Value, number.ToString()));
    }

    [Theory]
    [InlineData(null, "is empty")]
    [InlineData("  ", "is empty")]
    [InlineData("912 345 678", "has no country code")]
    [InlineData("0912 345 678", "has no country code")]
    [InlineData("+351 91", "is too short or too long for its country")]
    [InlineData("+351 912 345 678 912 345", "is too short or too long for its country")]
    [InlineData("+", "is no telephone number")]
    [InlineData("+quay", "is no telephone number")]
    [InlineData("+999 912 345 678", "is no telephone number")]
    public void What_is_none_is_refused_with_what_is_wrong(string? text, string because)
    {
        Assert.False(PhoneNumber.TryParse(text, out var number, out var problem));
        Assert.StartsWith(because, problem, StringComparison.Ordinal);
        Assert.Equal(default, number);
    }

    [Fact]
    public void A_number_of_a_range_that_is_not_in_use_is_taken_and_doubted()
    {
        Assert.True(PhoneNumber.TryParse("+351 912 345 678", out var used, out _));
        Assert.True(PhoneNumber.TryParse("+351 012 345 678", out var unused, out _));
        Assert.Equal((false, true), (used.Doubtful, unused.Doubtful));
    }
}
