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

    /// <summary>The arguments of the runs that try a change, quick tests first; nothing for what no test reaches.</summary>
    /// <remarks>What stands in no body, or ran once for all, is tried with every test.</remarks>
    public IEnumerable<string[]> By(Mutation change, IReadOnlySet<string> slow)
    {
        var around = bodies.Index().Where(b => b.Item.File == change.File && b.Item.Span.Contains(change.Span)).Select(b => b.Index).ToArray();
        var by = around.Length == 0 ? ["*"] : tests[around.MaxBy(b => bodies[b].Span.Start)].ToArray();
        if (by.Contains("*"))
        {
            return
            [
                [.. slow.SelectMany(t => new[] { "-method-", t })],
                [.. slow.SelectMany(t => new[] { "-method", t })],
            ];
        }

        string[][] halves =
        [
            [.. by.Where(t => !slow.Contains(t))],
            [.. by.Where(slow.Contains)],
        ];
        return halves.Where(h => h.Length > 0).Select(h => h.SelectMany(t => new[] { "-method", t }).ToArray());
    }
}
