using System.Xml.Linq;

namespace Sirena.Core.Tests;

public class ReferencesTests
{
    private static readonly Dictionary<string, string[]> Allowed = new()
    {
        ["Sirena.Core"] = [],
        ["Sirena.Storage"] = ["Sirena.Core"],
        ["Sirena.Channels"] = ["Sirena.Core"],
        ["Sirena.Formats"] = ["Sirena.Core"],
        ["Sirena.Engine"] = ["Sirena.Core", "Sirena.Storage", "Sirena.Channels", "Sirena.Formats"],
        ["Sirena.Web"] = ["Sirena.Engine"],
        ["Sirena.Demo"] = ["Sirena.Engine", "Sirena.Channels", "Sirena.Formats", "Sirena.Core"],
    };

    private static string Root()
    {
        var at = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(at.FullName, "Sirena.slnx")))
        {
            at = at.Parent!;
        }

        return at.FullName;
    }

    [Fact]
    public void References_go_one_way()
    {
        var found = Directory
            .GetFiles(Path.Combine(Root(), "src"), "*.csproj", SearchOption.AllDirectories)
            .ToDictionary(
                f => Path.GetFileNameWithoutExtension(f),
                f => XDocument.Load(f).Descendants("ProjectReference").Select(r => Path.GetFileNameWithoutExtension(r.Attribute("Include")!.Value)).ToArray()
            );
        Assert.Equal(Allowed.Keys.Order(), found.Keys.Order());
        Assert.All(found, project => Assert.Empty(project.Value.Except(Allowed[project.Key])));
    }

    [Fact]
    public void The_core_refers_to_no_web_and_no_database()
    {
        var names = typeof(Sirena.Core.Orders.Order).Assembly.GetReferencedAssemblies().Select(a => a.Name!).ToArray();
        Assert.DoesNotContain(names, n =>
            n.StartsWith("Microsoft.AspNetCore", StringComparison.Ordinal)
            || n.StartsWith("Microsoft.EntityFrameworkCore", StringComparison.Ordinal)
            || n.StartsWith("Npgsql", StringComparison.Ordinal)
        );
    }
}
