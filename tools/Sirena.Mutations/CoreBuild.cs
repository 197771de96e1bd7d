using System.Reflection;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.Text;

namespace Sirena.Mutations;

/// <summary>The core, compiled in memory with one change at a time.</summary>
public sealed class CoreBuild
{
    private readonly string root;
    private readonly Dictionary<string, SyntaxTree> trees = [];
    private readonly CSharpCompilation whole;
    private readonly CSharpParseOptions parse = new(LanguageVersion.Latest);

    /// <summary>Reads the core's sources, and what its generators wrote.</summary>
    /// <param name="root">The project's folder.</param>
    /// <param name="generated">The folder of generated sources.</param>
    /// <param name="bin">The folder with what it refers to.</param>
    public CoreBuild(string root, string generated, string bin)
    {
        this.root = root;
        foreach (
            var file in Directory.EnumerateFiles(root, "*.cs", SearchOption.AllDirectories).Where(f => !f.Contains("/obj/") && !f.Contains("/bin/")).Order()
        )
        {
            trees[Path.GetRelativePath(root, file)] = Parse(file);
        }

        var made = Directory.EnumerateFiles(generated, "*.cs", SearchOption.AllDirectories).Select(Parse);
        var platform = ((string)AppContext.GetData("TRUSTED_PLATFORM_ASSEMBLIES")!).Split(':').Where(p => p.Contains("/Microsoft.NETCore.App/"));
        string[] own =
        [
            .. Directory.EnumerateFiles(bin, "*.dll").Where(p => !Path.GetFileName(p).StartsWith("Sirena.", StringComparison.Ordinal) && IsManaged(p)),
        ];
        whole = CSharpCompilation.Create(
            "Sirena.Core",
            trees.Values.Concat(made),
            platform.Concat(own).DistinctBy(Path.GetFileName).Select(p => MetadataReference.CreateFromFile(p)),
            new CSharpCompilationOptions(
                OutputKind.DynamicallyLinkedLibrary,
                optimizationLevel: OptimizationLevel.Release,
                nullableContextOptions: NullableContextOptions.Enable,
                allowUnsafe: true
            )
        );
    }

    /// <summary>Every change that could be made.</summary>
    public IEnumerable<Mutation> Mutations => trees.SelectMany(t => Sirena.Mutations.Mutations.Of(t.Key, t.Value));

    /// <summary>Writes the core with a change, or as it is.</summary>
    /// <returns>What does not compile; empty for nothing.</returns>
    public IReadOnlyList<string> Write(Mutation? change, string to)
    {
        var build = whole;
        if (change is not null)
        {
            var tree = trees[change.File];
            var text = tree.GetText().WithChanges(new TextChange(change.Span, change.Becomes));
            build = build.ReplaceSyntaxTree(tree, tree.WithChangedText(text));
        }

        return Emit(build, to);
    }

    /// <summary>Writes the core so that it notes which test reaches which body.</summary>
    /// <returns>The bodies by their number.</returns>
    public IReadOnlyList<(string File, TextSpan Span)> WriteWatched(string to)
    {
        var bodies = new List<(string File, TextSpan Span)>();
        var build = whole.AddSyntaxTrees(CSharpSyntaxTree.ParseText(Watching.Noted, parse));
        foreach (var (file, tree) in trees)
        {
            var seen = new Watching(file, bodies).Visit(tree.GetRoot());
            build = build.ReplaceSyntaxTree(tree, CSharpSyntaxTree.ParseText(seen.ToFullString(), parse, tree.FilePath, System.Text.Encoding.UTF8));
        }

        return Emit(build, to) is [var wrong, ..] ? throw new InvalidOperationException($"The watched core does not compile: {wrong}") : bodies;
    }

    private IReadOnlyList<string> Emit(CSharpCompilation build, string to)
    {
        using var stream = File.Create(to);
        var made = build.Emit(
            stream,
            manifestResources: Directory
                .EnumerateFiles(Path.Combine(root, "Languages"), "*.json")
                .Select(f => new ResourceDescription($"Languages/{Path.GetFileName(f)}", () => File.OpenRead(f), isPublic: true))
        );
        return [.. made.Diagnostics.Where(d => d.Severity == DiagnosticSeverity.Error).Select(d => d.ToString())];
    }

    private SyntaxTree Parse(string file) => CSharpSyntaxTree.ParseText(SourceText.From(File.ReadAllText(file)), parse, file);

    private static bool IsManaged(string path)
    {
        try
        {
            AssemblyName.GetAssemblyName(path);
            return true;
        }
        catch (BadImageFormatException)
        {
            return false;
        }
    }
}
