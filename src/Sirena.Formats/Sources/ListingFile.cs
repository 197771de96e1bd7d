using System.Text.Json;
using CsvHelper;
using Sirena.Core;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Sources;

/// <summary>A row of a list.</summary>
/// <param name="Line">The line in which it begins, from 1.</param>
/// <param name="Cells">Its cells, as many as the head has; fewer or more where <see cref="Problem"/> says so.</param>
/// <param name="Problem">Why it is no row, or <see langword="null"/>.</param>
public sealed record ListingRow(int Line, string[] Cells, string? Problem);

/// <summary>
/// A list as a file: CSV or TSV (RFC 4180), or JSON lines (an object a line, its members the columns), in UTF-8, UTF-16 by its mark, or the source's character
/// set; separators are found from the head row; lines end in CR, LF or CRLF.
/// </summary>
public sealed class ListingFile
{
    /// <summary>The most bytes.</summary>
    public const int Largest = 50 * 1024 * 1024;

    private const int MostColumns = 200;
    private readonly string text;
    private readonly char separator;

    private ListingFile(string text, char separator, string[] head) => (this.text, this.separator, Head) = (text, separator, head);

    /// <summary>The columns' names.</summary>
    public string[] Head { get; }

    /// <summary>Its last line does not end: where it holds too few cells the file is cut off, or is still being written.</summary>
    public bool EndsOpen => text[^1] is not ('\n' or '\r');

    /// <summary>Opens a file.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="charset">The character set where no byte-order mark says another.</param>
    /// <param name="separator">The separator, or <see langword="null"/> to find it.</param>
    /// <returns>The file, or one sentence on why it is no list.</returns>
    public static (ListingFile? File, string? Problem) Open(byte[] bytes, string? charset, char? separator)
    {
        if (bytes.AsSpan().StartsWith("PK"u8) || bytes.AsSpan().StartsWith(new byte[] { 0xD0, 0xCF, 0x11, 0xE0 }))
        {
            return (null, "This is no CSV: it begins as a spreadsheet's own file does. Save it as CSV.");
        }

        var (text, error) = TextBytes.Read(bytes, charset);
        if (text is null)
        {
            return (null, error!.Problem);
        }

        text = text.TrimStart('\uFEFF');
        if (text.AsSpan().Trim().Length == 0)
        {
            return (null, "The file is empty. Its first line names the columns.");
        }

        if (text.AsSpan().TrimStart().StartsWith("{"))
        {
            return Lines(text);
        }

        if (text.AsSpan().TrimStart().StartsWith("<"))
        {
            return (null, "This is no list: it begins as a page of HTML or XML does. Is the address right, and is somebody signed in there?");
        }

        var mark = separator ?? CsvText.SeparatorOf(text);
        if (CsvText.OpenQuote(text, mark) is { } open)
        {
            return (null, $"In line {open} a quotation mark is opened and never closed. Is the file cut off?");
        }

        using var csv = Reader(text, mark);
        if (!csv.Read() || csv.FieldCount > MostColumns)
        {
            return (null, $"The first line names {csv.FieldCount} columns; at most {MostColumns} are taken.");
        }

        string[] head = [.. Enumerable.Range(0, csv.FieldCount).Select(i => csv.GetString(i).Trim())];
        return head.Where(h => h.Length > 0).GroupBy(h => h).FirstOrDefault(g => g.Count() > 1) is { } twice
                ? (null, $"The column '{Quoting.Cut(twice.Key)}' stands twice in the first line.")
            : Ends(text) is { } cut ? (null, cut)
            : (new ListingFile(text, mark, head), null);
    }

    /// <summary>A row's cells by their column; columns without a name are left out.</summary>
    public IReadOnlyDictionary<string, string> Cells(ListingRow row) =>
        Head.Zip(row.Cells).Where(c => c.First.Length > 0).ToDictionary(c => c.First, c => c.Second);

    /// <summary>The rows, one after the other.</summary>
    public IEnumerable<ListingRow> Rows()
    {
        if (separator == '\0')
        {
            foreach (var row in JsonRows())
            {
                yield return row;
            }

            yield break;
        }

        using var csv = Reader(text, separator);
        csv.Read();
        while (csv.Read())
        {
            if (csv.FieldCount == 1 && csv.GetString(0).Length == 0)
            {
                continue;
            }

            var cells = new string[csv.FieldCount];
            for (var i = 0; i < cells.Length; i++)
            {
                cells[i] = csv.GetString(i);
            }

            yield return new ListingRow((int)csv.LineNumber, cells, cells.Length == Head.Length ? null : $"the row has {cells.Length} of {Head.Length} cells");
        }
    }

    // The columns are the members of all lines, in the order in which they are met.
    private static (ListingFile? File, string? Problem) Lines(string text)
    {
        var head = new List<string>();
        foreach (var line in text.AsSpan().EnumerateLines())
        {
            if (Object(line) is { } row)
            {
                head.AddRange(row.EnumerateObject().Select(m => m.Name.Trim()).Where(n => n.Length > 0 && !head.Contains(n)));
                if (head.Count > MostColumns)
                {
                    return (null, $"The lines name more than {MostColumns} members.");
                }
            }
        }

        return head.Count == 0 ? (null, "No line holds an object in JSON.") : (new ListingFile(text, '\0', [.. head]), null);
    }

    private IEnumerable<ListingRow> JsonRows()
    {
        var number = 0;
        foreach (var line in text.ReplaceLineEndings("\n").Split('\n'))
        {
            number++;
            if (line.AsSpan().Trim().Length == 0)
            {
                continue;
            }

            yield return Object(line) is { } row ? new ListingRow(number, CellsOf(row), null) : new ListingRow(number, [], "the line holds no object in JSON");
        }
    }

    private string[] CellsOf(JsonElement row)
    {
        var cells = new Dictionary<string, JsonElement>();
        foreach (var member in row.EnumerateObject())
        {
            cells.TryAdd(member.Name.Trim(), member.Value);
        }

        return
        [
            .. Head.Select(h =>
                !cells.TryGetValue(h, out var cell)
                    ? ""
                    : cell.ValueKind switch
                    {
                        JsonValueKind.String => cell.GetString()!,
                        JsonValueKind.Null => "",
                        _ => cell.GetRawText(),
                    }
            ),
        ];
    }

    private static JsonElement? Object(ReadOnlySpan<char> line)
    {
        try
        {
            var trimmed = line.Trim();
            if (trimmed.Length == 0 || trimmed[0] != '{')
            {
                return null;
            }

            using var document = JsonDocument.Parse(trimmed.ToString(), new JsonDocumentOptions { MaxDepth = 32, AllowDuplicateProperties = false });
            return document.RootElement.Clone();
        }
        catch (JsonException)
        {
            return null;
        }
    }

    // A file that is still being written ends within a row; one that ends without a line break may be whole.
    private static string? Ends(string text)
    {
        var last = text.AsSpan().TrimEnd("\r\n").LastIndexOfAny('\r', '\n');
        return last < 0 && text.AsSpan().IndexOfAny('\r', '\n') < 0
            ? "The file has one line only: the columns' names, and no row. An empty list ends its first line."
            : null;
    }

    private static CsvReader Reader(string text, char separator) =>
        CsvReader.FromText(
            text,
            CsvReaderOptions.Default with
            {
                HasHeader = false,
                Separator = separator,
                TrimWhitespace = false,
                TrackLineNumbers = true,
                FieldCountMismatch = CsvFieldCountHandling.Allow,
            }
        );
}
