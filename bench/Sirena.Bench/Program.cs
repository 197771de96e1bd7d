using System.Globalization;
using System.Text.Json;
using Sirena.Bench;

var server = Environment.GetEnvironmentVariable("SIRENA_BENCH_SERVER");
if (server is null)
{
    Console.Error.WriteLine("SIRENA_BENCH_SERVER is not set; run './sirena bench'.");
    return 2;
}

var json = args.Contains("--json");
string[] known =
[
    "pipeline",
    "latency",
    "intake",
    "pages",
    "crowd",
    "who",
    "rules",
    "dispatch",
    "ladders",
    "wording",
    "faults",
    "hostile",
    "sources",
    "instructions",
];
var wanted = args.Where(a => !a.StartsWith("--", StringComparison.Ordinal)).ToArray();
if (wanted.FirstOrDefault(w => !known.Contains(w)) is { } unknown)
{
    Console.Error.WriteLine($"There is no benchmark '{unknown}'. There are {string.Join(", ", known)}.");
    return 2;
}

// 'pipeline' is the way from an event to the page that shows it.
bool Wants(string name) => wanted.Length == 0 || (wanted.Contains("pipeline") && name is "latency" or "intake" or "pages") || wanted.Contains(name);
var seconds = int.TryParse(Environment.GetEnvironmentVariable("SIRENA_BENCH_SECONDS"), out var s) ? s : 60;
var figures = new List<Figure>();
if (Wants("latency"))
{
    figures.AddRange(await PipelineBench.LatencyAsync(server, Console.Error.WriteLine, seconds));
}

if (Wants("intake"))
{
    figures.AddRange(await PipelineBench.IntakeAsync(server, Console.Error.WriteLine));
}

if (Wants("pages"))
{
    figures.AddRange(await PagesBench.RunAsync(server, Console.Error.WriteLine));
}

if (Wants("crowd"))
{
    figures.AddRange(await PagesBench.CrowdAsync(server, Console.Error.WriteLine));
}

if (Wants("sources"))
{
    figures.AddRange(await SourcesBench.RunAsync(server, Console.Error.WriteLine, Math.Min(seconds, 20)));
}

if (Wants("instructions"))
{
    figures.AddRange(await InstructionsBench.RunAsync(server, Console.Error.WriteLine, Math.Min(seconds, 20)));
}

if (Wants("who"))
{
    figures.AddRange(await WhoBench.RunAsync(server, Console.Error.WriteLine));
}

if (Wants("rules"))
{
    figures.AddRange(await RulesBench.RunAsync(server, Console.Error.WriteLine));
}

if (Wants("dispatch"))
{
    figures.AddRange(await DispatchBench.RunAsync(server, Console.Error.WriteLine));
}

if (Wants("ladders"))
{
    figures.AddRange(await LaddersBench.RunAsync(server, Console.Error.WriteLine, Math.Min(seconds, 30)));
}

if (Wants("wording"))
{
    figures.AddRange(await WordingBench.RunAsync(server, Console.Error.WriteLine));
}

if (Wants("hostile"))
{
    figures.AddRange(
        await HostileBench.RunAsync(
            server,
            Console.Error.WriteLine,
            int.TryParse(Environment.GetEnvironmentVariable("SIRENA_BENCH_SEED"), out var seed) ? seed : 20_418
        )
    );
}

if (Wants("faults"))
{
    figures.AddRange(await FaultsBench.RunAsync(server, Console.Error.WriteLine, seconds));
}

if (!json)
{
    Console.WriteLine($"{"figure",-48} {"median of 3",12} {"",-10} {"bound",10}");
    foreach (var f in figures)
    {
        Console.WriteLine(
            $"{f.Name,-48} {f.Value.ToString(f.Value < 10 ? "0.00" : "#,##0", CultureInfo.InvariantCulture),12} {f.Unit,-10} {(f.Bound is { } b ? (f.Least ? "≥ " : "≤ ") + b.ToString(CultureInfo.InvariantCulture) : ""),10} {(f.Bound is null ? "" : f.Holds ? "holds" : "BROKEN")}"
        );
    }
}

Console.WriteLine(
    JsonSerializer.Serialize(
        figures,
        new JsonSerializerOptions(JsonSerializerDefaults.Web)
        {
            NumberHandling = System.Text.Json.Serialization.JsonNumberHandling.AllowNamedFloatingPointLiterals,
        }
    )
);
return figures.TrueForAll(f => f.Holds) ? 0 : 1;
