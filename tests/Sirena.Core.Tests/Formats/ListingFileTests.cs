using System.Text;
using Sirena.Formats.Sources;

namespace Sirena.Core.Tests.Formats;

/// <summary>Lists as order systems write them: whole, cut off, of another kind, in other characters.</summary>
public sealed class ListingFileTests
{
    private static ListingFile Opened(string text, char? separator = null)
    {
        var (file, problem) = ListingFile.Open(Encoding.UTF8.GetBytes(text), null, separator);
        Assert.Null(problem);
        return file!;
    }

    private static string Problem(string text)
    {
        var (file, problem) = ListingFile.Open(Encoding.UTF8.GetBytes(text), null, null);
        Assert.Null(file);
        return problem!;
    }

    [Theory]
    [InlineData("no;status\nAQ-1;new\n")]
    [InlineData("no,status\r\nAQ-1,new\r\n")]
    [InlineData("no\tstatus\rAQ-1\tnew\r")]
    [InlineData("\uFEFFno;status\nAQ-1;new\n")]
    [InlineData(" no ;status\n\nAQ-1;new\n\n")]
    [InlineData("\"no\";\"status\"\n\"AQ-1\";new\n")]
    [InlineData("{\"no\":\"AQ-1\",\"status\":\"new\"}\n")]
    [InlineData("  {\"no\":\"AQ-1\"}\n{\"status\":\"new\",\"no\":\"AQ-1\"}")]
    public void Columns_and_rows_are_found_whatever_separates_and_ends_them(string text)
    {
        var file = Opened(text);
        Assert.Equal(["no", "status"], file.Head);
        var row = file.Rows().Last();
        Assert.Null(row.Problem);
        Assert.Equal(new Dictionary<string, string> { ["no"] = "AQ-1", ["status"] = "new" }, file.Cells(row));
    }

    [Fact]
    public void A_separator_that_is_named_counts_and_quoted_cells_keep_it_their_marks_and_their_lines()
    {
        var file = Opened("no|note\n1|\"a \"\"b\"\" | c\nd\"\n2|x;y\n", '|');
        ListingRow[] rows = [.. file.Rows()];
        Assert.Equal(["a \"b\" | c\nd", "x;y"], rows.Select(r => r.Cells[1]));
        Assert.Equal([2, 4], rows.Select(r => r.Line));
    }

    [Fact]
    public void A_row_of_fewer_or_more_cells_says_so_and_spoils_no_other()
    {
        ListingRow[] rows = [.. Opened("a;b;c\n1;2;3\n1;2\n1;2;3;4\n5;6;7\n").Rows()];
        Assert.Equal([null, "the row has 2 of 3 cells", "the row has 4 of 3 cells", null], rows.Select(r => r.Problem));
        Assert.Equal([2, 3, 4, 5], rows.Select(r => r.Line));
    }

    [Fact]
    public void Columns_without_a_name_are_left_out()
    {
        var file = Opened("a;;b;\n1;2;3;4\n");
        Assert.Equal(new Dictionary<string, string> { ["a"] = "1", ["b"] = "3" }, file.Cells(file.Rows().Single()));
    }

    [Theory]
    [InlineData("", "The file is empty.")]
    [InlineData(" \r\n\t ", "The file is empty.")]
    [InlineData("<!doctype html><p>Sign in</p>", "it begins as a page of HTML or XML does")]
    [InlineData("PK\u0003\u0004", "it begins as a spreadsheet's own file does")]
    [InlineData("no;status", "The file has one line only")]
    [InlineData("no;no\n1;2\n", "The column 'no' stands twice in the first line.")]
    [InlineData("a;b\n1;\"2\n3;4\n", "In line 2 a quotation mark is opened and never closed.")]
    [InlineData("{]\n[1]\n", "No line holds an object in JSON.")]
    public void What_is_no_list_is_said_with_the_reason(string text, string words) => Assert.Contains(words, Problem(text));

    [Fact]
    public void More_columns_than_a_list_has_are_refused()
    {
        Assert.Contains("names 201 columns; at most 200", Problem(string.Join(';', Enumerable.Range(0, 201).Select(i => "c" + i)) + "\n1\n"));
        Assert.Equal(200, Opened(string.Join(';', Enumerable.Range(0, 200).Select(i => "c" + i)) + "\n1\n").Head.Length);
        Assert.Contains("more than 200 members", Problem("{" + string.Join(',', Enumerable.Range(0, 201).Select(i => $"\"m{i}\":1")) + "}\n"));
    }

    [Fact]
    public void Lines_of_JSON_keep_their_values_as_they_are_written_and_bad_ones_are_named()
    {
        var file = Opened("{\"n\":1.50,\"t\":\"a\",\" gate \":\"N3\"}\n\nnot json\n{\"n\":null,\"t\":{\"x\":[1]}}\n{\"n\":1,\"n\":2}\n");
        ListingRow[] rows = [.. file.Rows()];
        Assert.Equal(["n", "t", "gate"], file.Head);
        Assert.Equal(["1.50", "a", "N3"], rows[0].Cells);
        Assert.Equal(["", "{\"x\":[1]}", ""], rows[2].Cells);
        Assert.Equal([1, 3, 4, 5], rows.Select(r => r.Line));
        Assert.Equal([null, "the line holds no object in JSON", null, "the line holds no object in JSON"], rows.Select(r => r.Problem));
    }

    [Theory]
    [InlineData("a;b\n1;2\n", false)]
    [InlineData("a;b\n1;2\r", false)]
    [InlineData("a;b\n1;2", true)]
    public void A_file_that_is_still_being_written_ends_within_a_line(string text, bool open) => Assert.Equal(open, Opened(text).EndsOpen);

    [Theory]
    [InlineData("windows-1252")]
    [InlineData("utf-16")]
    public void Other_characters_are_read_by_their_name_or_their_mark(string charset)
    {
        var encoding = charset == "utf-16" ? Encoding.Unicode : CodePagesEncodingProvider.Instance.GetEncoding(charset)!;
        byte[] bytes = [.. encoding.GetPreamble(), .. encoding.GetBytes("nº;nome\n1;São João\n")];
        var (file, problem) = ListingFile.Open(bytes, charset, null);
        Assert.Null(problem);
        Assert.Equal(["nº", "nome"], file!.Head);
        Assert.Equal("São João", file.Rows().Single().Cells[1]);
    }
}
