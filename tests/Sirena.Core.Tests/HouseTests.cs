using System.Runtime.CompilerServices;
using System.Text.RegularExpressions;

namespace Sirena.Core.Tests;

/// <summary>What keeps the house readable: short lines, short files, statements of the database where the database is.</summary>
public sealed partial class HouseTests
{
    private const int Columns = 160;
    private const int Lines = 300;

    // Texts of other languages, paths of drawings, what a release keeps, and what comes from elsewhere.
    private static readonly string[] Aside = ["/bin/", "/obj/", "/Migrations/", "/vendor/", "/Languages/", "/Resources/", "/img/"];

    [Fact]
    public void No_line_is_wider_and_no_file_longer_than_can_be_read()
    {
        var files = Sources(".cs", ".cshtml", ".js", ".css").ToArray();
        Assert.True(files.Length > 500, $"Only {files.Length} files were found");
        Assert.Equal(
            [],
            files.SelectMany(f =>
                File.ReadLines(f)
                    .Select((line, i) => (line, i))
                    .Where(x => x.line.Length > Columns && !Drawn().IsMatch(x.line))
                    .Select(x => $"{Name(f)}:{x.i + 1}")
            )
        );
        Assert.Equal([], files.Where(f => File.ReadLines(f).Count() > Lines).Select(Name));
    }

    [Fact]
    public void Pages_ask_the_engine_and_the_storage_and_write_no_statement() =>
        Assert.Equal(
            [],
            Sources(".cs").Where(f => f.Contains("/Sirena.Web/Pages/", StringComparison.Ordinal) && Statement().IsMatch(File.ReadAllText(f))).Select(Name)
        );

    // Where that is written, a browser looks at every element again whenever anything on the page changes: 150 ms on a Watch with 300 alerts.
    [Fact]
    public void What_stands_beside_or_in_an_element_that_has_something_is_named()
    {
        var sheets = Sources(".css").ToDictionary(Name, File.ReadAllText);
        Assert.True(sheets.Count > 5 && sheets.Values.Sum(s => s.Split(":has(").Length - 1) > 10);
        Assert.Equal([], sheets.SelectMany(s => Unnamed().Matches(s.Value).Select(m => $"{s.Key}: {m.Value}")));
        Assert.Matches(Unnamed(), ".line:has(.when) > :not(.when)");
        Assert.Matches(Unnamed(), ".line:has(.a:not(.b)) *");
        Assert.DoesNotMatch(Unnamed(), ".line:has(.when)>div:has(>.when){color:red}");
    }

    private static IEnumerable<string> Sources(params string[] kinds) =>
        Directory
            .EnumerateFiles(Root(), "*", SearchOption.AllDirectories)
            .Select(f => f.Replace('\\', '/'))
            .Where(f => kinds.Contains(Path.GetExtension(f)) && !Aside.Any(f.Contains));

    private static string Name(string file) => Path.GetRelativePath(Root(), file);

    private static string Root([CallerFilePath] string here = "") => Path.GetFullPath(Path.Combine(Path.GetDirectoryName(here)!, "../../src"));

    [GeneratedRegex(@"[^{},\s]*:has\((?:[^()]|\([^()]*\))*\)\s*(?:[>+~]\s*|\s)[*:]")]
    private static partial Regex Unnamed();

    [GeneratedRegex("data:image/svg")]
    private static partial Regex Drawn();

    [GeneratedRegex(@"\.(CreateCommand|ExecuteSql\w*|FromSql\w*|SqlQuery\w*)\b|new NpgsqlCommand")]
    private static partial Regex Statement();
}
