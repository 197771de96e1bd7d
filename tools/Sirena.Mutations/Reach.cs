using Microsoft.CodeAnalysis.Text;

namespace Sirena.Mutations;

/// <summary>Which tests come by which body of the core.</summary>
/// <param name="bodies">The bodies by their number.</param>
/// <param name="notes">The file that the tests write.</param>
public sealed class Reach(IReadOnlyList<(string File, TextSpan Span)> bodies, string notes)
{
    private ILookup<int, string> tests = Array.Empty<int>().ToLookup(n => n, _ => "");

    /// <summary>The file that the tests write.</summary>
    public string Notes => notes;

    /// <summary>Reads what the tests wrote.</summary>
    public void Read() => tests = File.ReadLines(notes).Select(l => l.Split('\t')).ToLookup(l => int.Parse(l[0]), l => l[1]);

    /// <summary>The tests that come by a change; a star for every test: what stands in no body, or ran once for all.</summary>
    public string[] By(Mutation change)
    {
        var around = bodies.Index().Where(b => b.Item.File == change.File && b.Item.Span.Contains(change.Span)).Select(b => b.Index).ToArray();
        return around.Length == 0 ? ["*"] : [.. tests[around.MaxBy(b => bodies[b].Span.Start)]];
    }

    /// <summary>The arguments of the runs of some tests, quick ones first; nothing for none.</summary>
    /// <param name="by">The tests, or a star for all.</param>
    /// <param name="slow">Those that take most of the time.</param>
    public static IEnumerable<string[]> Runs(string[] by, IReadOnlySet<string> slow)
    {
        if (by.Contains("*"))
        {
            return [Named("-method-", slow), Named("-method", slow)];
        }

        string[][] halves = [Named("-method", by.Where(t => !slow.Contains(t))), Named("-method", by.Where(slow.Contains))];
        return halves.Where(h => h.Length > 0);
    }

    private static string[] Named(string option, IEnumerable<string> tests) => [.. tests.SelectMany(t => new[] { option, t })];
}
