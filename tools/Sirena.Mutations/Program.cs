using System.Collections.Concurrent;
using System.Diagnostics;
using System.Xml.Linq;
using Sirena.Mutations;

// Changes the core on purpose, one place at a time, and counts how many changes its tests notice. The choice is the same for the same seed.
//   Sirena.Mutations [how many] [seed] [parts of files' names, with commas between them]
// With none at all it names what no test comes by, which is quick.
var here = Environment.GetEnvironmentVariable("HERE") ?? Directory.GetCurrentDirectory();
var (many, seed, only) = (args.Length > 0 ? int.Parse(args[0]) : 200, args.Length > 1 ? int.Parse(args[1]) : 1, args.Length > 2 ? args[2].Split(',') : [""]);
var tests = Path.Combine(here, "tests/Sirena.Core.Tests/bin/Release/net10.0");
var core = new CoreBuild(Path.Combine(here, "src/Sirena.Core"), Path.Combine(here, ".sirena/mutations/generated"), tests);
var places = core.Mutations.Where(m => only.Any(o => m.File.Contains(o, StringComparison.OrdinalIgnoreCase))).ToArray();
new Random(seed).Shuffle(places);
Console.Error.WriteLine($"{places.Length} changes could be made; {Math.Min(many, places.Length)} are.");

var (first, rooms) = (Room(0), Math.Max(1, Environment.ProcessorCount));
if (core.Write(null, Path.Combine(first, "Sirena.Core.dll")) is [var wrong, ..])
{
    throw new InvalidOperationException($"The core does not compile here: {wrong}");
}

var reached = new Reach(core.WriteWatched(Path.Combine(first, "Sirena.Core.dll")), Path.Combine(first, "reached.txt"));

// Tests that count what is spent may fail while it is noted what they reach; that is no matter.
await RunAsync(first, TimeSpan.FromMinutes(60), [], ("SIRENA_REACHED", reached.Notes));
reached.Read();
if (many == 0)
{
    var never = places.Where(p => reached.By(p) is []).OrderBy(p => p.File).ThenBy(p => p.Line).ToArray();
    foreach (var place in never.DistinctBy(p => (p.File, p.Line)))
    {
        Console.WriteLine($"not reached: {place.File}:{place.Line}");
    }

    Console.WriteLine($"{never.Length} of {places.Length} changes are reached by no test.");
    return 0;
}

// How long the tests take as they are: what takes ten times as long, beside the others, runs for ever.
core.Write(null, Path.Combine(first, "Sirena.Core.dll"));
var clock = Stopwatch.StartNew();
var times = Path.Combine(first, "times.xml");
if (await RunAsync(first, TimeSpan.FromMinutes(20), ["-xml", times]) is not true)
{
    throw new InvalidOperationException("The tests do not pass without a change.");
}

var (patience, slow) = (clock.Elapsed * 10, SlowOf(times));
Console.Error.WriteLine($"The tests take {clock.Elapsed.TotalSeconds:0} s without a change; {slow.Count} take most of that.");
var waiting = new ConcurrentQueue<Mutation>(places);
var (noticed, forEver, nobody, kept, wanted) = (0, 0, 0, new ConcurrentBag<Mutation>(), Math.Min(many, places.Length));
await Task.WhenAll(Enumerable.Range(0, rooms).Select(n => Task.Run(() => WorkAsync(Room(n)))));
var all = noticed + kept.Count;
foreach (var m in kept.OrderBy(m => m.File).ThenBy(m => m.Line))
{
    Console.WriteLine($"not noticed: {m.File}:{m.Line}: '{m.Was}' became '{m.Becomes}'");
}

Console.WriteLine(
    $"{noticed} of {all} noticed, {100.0 * noticed / Math.Max(1, all):0.0} %; {forEver} of them ran for ever, {nobody} of the others are reached by no test"
);
return 0;

// A place of its own for each worker, so that two do not write over each other.
string Room(int worker)
{
    var room = Path.Combine(here, $".sirena/mutations/room-{worker}");
    Directory.CreateDirectory(room);
    foreach (var file in Directory.EnumerateFiles(tests, "*", SearchOption.AllDirectories))
    {
        var to = Path.Combine(room, Path.GetRelativePath(tests, file));
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        File.Copy(file, to, overwrite: true);
    }

    return room;
}

async Task WorkAsync(string room)
{
    while (noticed + kept.Count < wanted && waiting.TryDequeue(out var change))
    {
        if (core.Write(change, Path.Combine(room, "Sirena.Core.dll")).Count > 0)
        {
            continue;
        }

        // The quick ones first: most changes are noticed by them.
        var by = reached.By(change);
        var passes = (bool?)true;
        foreach (var some in Reach.Runs(by, slow))
        {
            passes = passes is true ? await RunAsync(room, patience, some) : passes;
        }

        if (passes is true)
        {
            kept.Add(change);
            if (by is [])
            {
                Interlocked.Increment(ref nobody);
            }

            Console.Error.WriteLine(
                $"{noticed + kept.Count}: not {(by is [] ? "reached" : "noticed")}: {change.File}:{change.Line}: '{change.Was}' became '{change.Becomes}'"
            );
            continue;
        }

        Interlocked.Increment(ref noticed);
        if (passes is null)
        {
            Interlocked.Increment(ref forEver);
        }
    }
}

// Whether all tests still pass; null for what did not end, which was noticed too.
static async Task<bool?> RunAsync(string room, TimeSpan longest, string[] which, (string Name, string Value)? with = null)
{
    var start = new ProcessStartInfo(
        "dotnet",
        [Path.Combine(room, "Sirena.Core.Tests.dll"), .. with is null ? ["-stopOnFail"] : Array.Empty<string>(), "-noColor", "-noLogo", .. which]
    )
    {
        RedirectStandardOutput = true,
        RedirectStandardError = true,
    };
    if (with is var (name, value))
    {
        start.Environment[name] = value;
    }

    using var run = Process.Start(start)!;
    var (said, wrong) = (run.StandardOutput.ReadToEndAsync(), run.StandardError.ReadToEndAsync());
    using var patience = new CancellationTokenSource(longest);
    try
    {
        await run.WaitForExitAsync(patience.Token);
    }
    catch (OperationCanceledException)
    {
        run.Kill(entireProcessTree: true);
        return null;
    }

    await Task.WhenAll(said, wrong);
    return run.ExitCode == 0;
}

// The methods that take most of the time.
static IReadOnlySet<string> SlowOf(string times) =>
    XDocument
        .Load(times)
        .Descendants("test")
        .GroupBy(t => $"{t.Attribute("type")!.Value}.{t.Attribute("method")!.Value}", t => (double)t.Attribute("time")!)
        .Where(m => m.Sum() > 0.8)
        .Select(m => m.Key)
        .ToHashSet();
