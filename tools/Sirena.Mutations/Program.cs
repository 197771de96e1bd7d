using System.Collections.Concurrent;
using System.Diagnostics;
using System.Xml.Linq;
using Sirena.Mutations;

// Changes the core on purpose, one place at a time, and counts how many changes its tests notice. The choice is the same for the same seed.
//   Sirena.Mutations [how many] [seed] [part of a file's name]
var here = Environment.GetEnvironmentVariable("HERE") ?? Directory.GetCurrentDirectory();
var (many, seed, only) = (args.Length > 0 ? int.Parse(args[0]) : 200, args.Length > 1 ? int.Parse(args[1]) : 1, args.Length > 2 ? args[2] : "");
var tests = Path.Combine(here, "tests/Sirena.Core.Tests/bin/Release/net10.0");
var core = new CoreBuild(Path.Combine(here, "src/Sirena.Core"), Path.Combine(here, ".sirena/mutations/generated"), tests);
var places = core.Mutations.Where(m => m.File.Contains(only, StringComparison.OrdinalIgnoreCase)).ToArray();
new Random(seed).Shuffle(places);
Console.Error.WriteLine($"{places.Length} changes could be made; {Math.Min(many, places.Length)} are.");

var waiting = new ConcurrentQueue<Mutation>(places);
var (noticed, forEver, kept, wanted) = (0, 0, new ConcurrentBag<Mutation>(), Math.Min(many, places.Length));
await Task.WhenAll(Enumerable.Range(0, Math.Max(1, Environment.ProcessorCount)).Select(n => Task.Run(() => WorkAsync(n))));
var all = noticed + kept.Count;
foreach (var m in kept.OrderBy(m => m.File).ThenBy(m => m.Line))
{
    Console.WriteLine($"not noticed: {m.File}:{m.Line}: '{m.Was}' became '{m.Becomes}'");
}

Console.WriteLine($"{noticed} of {all} noticed, {100.0 * noticed / Math.Max(1, all):0.0} %, {forEver} of them for running for ever");
return 0;

async Task WorkAsync(int worker)
{
    // A place of its own, so that two do not write over each other.
    var room = Path.Combine(here, $".sirena/mutations/room-{worker}");
    Directory.CreateDirectory(room);
    foreach (var file in Directory.EnumerateFiles(tests, "*", SearchOption.AllDirectories))
    {
        var to = Path.Combine(room, Path.GetRelativePath(tests, file));
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        File.Copy(file, to, overwrite: true);
    }

    if (worker == 0 && core.Write(null, Path.Combine(room, "Sirena.Core.dll")) is [var wrong, ..])
    {
        throw new InvalidOperationException($"The core does not compile here: {wrong}");
    }

    // How long the tests take as they are, beside the other worker: what takes five times as long runs for ever.
    var clock = Stopwatch.StartNew();
    var times = Path.Combine(room, "times.xml");
    if (await RunAsync(room, TimeSpan.FromMinutes(20), ["-xml", times]) is not true)
    {
        throw new InvalidOperationException("The tests do not pass without a change.");
    }

    // Few tests take most of the time, and most changes are noticed by the others: those run first.
    var (patience, slow) = (clock.Elapsed * 5, SlowOf(times));
    Console.Error.WriteLine($"The tests take {clock.Elapsed.TotalSeconds:0} s without a change, {slow.Length} of them run last.");

    while (noticed + kept.Count < wanted && waiting.TryDequeue(out var change))
    {
        if (core.Write(change, Path.Combine(room, "Sirena.Core.dll")).Count > 0)
        {
            continue;
        }

        var passes = await RunAsync(room, patience, [.. slow.SelectMany(m => new[] { "-method-", m })]);
        passes = passes is true ? await RunAsync(room, patience, [.. slow.SelectMany(m => new[] { "-method", m })]) : passes;
        if (passes is true)
        {
            kept.Add(change);
            Console.Error.WriteLine($"{noticed + kept.Count}: not noticed: {change.File}:{change.Line}: '{change.Was}' became '{change.Becomes}'");
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
static async Task<bool?> RunAsync(string room, TimeSpan longest, string[] which)
{
    using var run = Process.Start(
        new ProcessStartInfo("dotnet", [Path.Combine(room, "Sirena.Core.Tests.dll"), "-stopOnFail", "-noColor", "-noLogo", .. which])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        }
    )!;
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
static string[] SlowOf(string times) =>
    [
        .. XDocument
            .Load(times)
            .Descendants("test")
            .GroupBy(t => $"{t.Attribute("type")!.Value}.{t.Attribute("method")!.Value}", t => (double)t.Attribute("time")!)
            .Where(m => m.Sum() > 0.8)
            .Select(m => m.Key),
    ];
