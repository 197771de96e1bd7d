using System.Text;
using Sirena.Formats.Documents;

namespace Sirena.Core.Tests.Formats;

/// <summary>Bytes from outside as text: whatever encoding they say, and by their line where they do not fit.</summary>
public sealed class TextBytesTests
{
    private const string Words = "Pão às dez, 5 €";

    public static TheoryData<string, string?, bool> Encodings =>
        new()
        {
            { "utf-8", null, false },
            { "utf-8", null, true },
            { "utf-8", "UTF-8", true },
            { "utf-16", null, true },
            { "utf-16BE", null, true },
            { "utf-16", "utf-16", false },
            { "windows-1252", "windows-1252", false },
            { "windows-1252", "\"Windows-1252\"", false },
            { "utf-8", "windows-1252", true },
        };

    [Theory]
    [MemberData(nameof(Encodings))]
    public void A_mark_counts_before_what_is_declared_and_that_before_utf_8(string name, string? declared, bool marked)
    {
        Assert.NotNull(TextBytes.Read([], null).Text);
        var encoding = Encoding.GetEncoding(name);
        byte[] bytes = [.. marked ? encoding.GetPreamble() : [], .. encoding.GetBytes(Words)];
        Assert.Equal((Words, null), TextBytes.Read(bytes, declared));
    }

    [Theory]
    [InlineData("a\nb\n", 3)]
    [InlineData("a\r\nb\r\n", 3)]
    [InlineData("a\rb\r", 3)]
    [InlineData("", 1)]
    public void Bytes_that_do_not_fit_are_named_by_their_line(string before, int line)
    {
        var (text, error) = TextBytes.Read([.. Encoding.UTF8.GetBytes(before + "caf"), 0xE9, .. " x"u8.ToArray()], null);
        Assert.Null(text);
        Assert.Equal(line, error!.Line);
        Assert.Contains($"Line {line} holds bytes that are no UTF-8 (E9).", error.Problem, StringComparison.Ordinal);
        Assert.Contains("charset=windows-1252", error.Problem, StringComparison.Ordinal);
    }

    [Fact]
    public void A_zero_character_is_named_with_what_it_may_be()
    {
        var error = TextBytes.Read(Encoding.Unicode.GetBytes("a\nb"), null).Error;
        Assert.Equal(1, error!.Line);
        Assert.Contains("Is this UTF-16?", error.Problem, StringComparison.Ordinal);
        Assert.Equal(2, TextBytes.Read("a\nb\0c"u8.ToArray(), null).Error!.Line);
    }

    [Theory]
    [InlineData("klingon")]
    [InlineData("utf-7")]
    public void A_character_set_that_nobody_knows_is_refused(string name) =>
        Assert.Contains($"The character set '{name}' is not known.", TextBytes.Read("a"u8.ToArray(), name).Error!.Problem, StringComparison.Ordinal);

    [Theory]
    [InlineData("A\r\nB\r\n", "A@1 B@2")]
    [InlineData("A\nB", "A@1 B@2")]
    [InlineData("A\rB\r", "A@1 B@2")]
    [InlineData("A\r\n B\r\n\tC\r\nD", "ABC@1 D@4")]
    [InlineData("\r\n\r\nA\r\n\r\nB", "A@3 B@5")]
    [InlineData("A\r\n \r\nB", "A@1 B@3")]
    [InlineData("", "")]
    public void Content_lines_are_unfolded_and_numbered_as_they_begin(string file, string lines)
    {
        var (found, error) = ContentLines.Read(Encoding.UTF8.GetBytes(file), null);
        Assert.Null(error);
        Assert.Equal(lines, string.Join(' ', found.Select(l => $"{l.Text}@{l.Number}")));
    }

    [Fact]
    public void A_fold_may_split_a_character()
    {
        var octets = Encoding.UTF8.GetBytes("SUMMARY:Pão");
        var at = Array.IndexOf(octets, (byte)0xC3) + 1;
        byte[] folded = [.. octets[..at], .. "\r\n "u8.ToArray(), .. octets[at..]];
        Assert.Equal([("SUMMARY:Pão", 1)], ContentLines.Read(folded, null).Lines);
    }

    [Fact]
    public void Content_lines_in_another_encoding_are_read_as_they_say()
    {
        Assert.Equal([("Pão", 1), ("dois", 2)], ContentLines.Read(Encoding.GetEncoding("windows-1252").GetBytes("Pão\r\ndois"), "windows-1252").Lines);
        Assert.Equal([("Pão", 1)], ContentLines.Read([.. Encoding.Unicode.GetPreamble(), .. Encoding.Unicode.GetBytes("Pão")], null).Lines);
        Assert.Equal(2, ContentLines.Read([.. "a\n"u8.ToArray(), 0xE9], null).Error!.Line);
        Assert.Equal(2, ContentLines.Read("a\nb\0"u8.ToArray(), null).Error!.Line);
        Assert.Contains("not known", ContentLines.Read("a"u8.ToArray(), "klingon").Error!.Problem, StringComparison.Ordinal);
    }
}
