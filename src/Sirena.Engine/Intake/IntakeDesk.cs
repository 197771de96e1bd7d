using Microsoft.Extensions.Logging;
using Sirena.Engine.Sources;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Intake;

/// <summary>Takes requests' events and stores them, gathered; a request is answered after the commit that holds all its events.</summary>
public sealed class IntakeDesk : Worker
{
    private const int Writers = 4;
    private const int Together = 256;
    private readonly EventIntake intake;
    private readonly SurroundingsCache surroundings;
    private readonly SourcePulse pulse;
    private readonly Signals signals;
    private readonly Gathering<IReadOnlyList<Arrival>, bool[]> gathering;

    /// <summary>A desk on the intake.</summary>
    public IntakeDesk(EventIntake intake, SurroundingsCache surroundings, SourcePulse pulse, Signals signals, ILogger<IntakeDesk> log)
        : base(log)
    {
        (this.intake, this.surroundings, this.pulse, this.signals) = (intake, surroundings, pulse, signals);
        gathering = new Gathering<IReadOnlyList<Arrival>, bool[]>(Writers, Together, arrivals => arrivals.Count, StoreAsync, log);
    }

    /// <summary>Stores a request's events.</summary>
    /// <returns>For each whether it was new.</returns>
    /// <exception cref="Npgsql.NpgsqlException">The database did not take them; none is stored.</exception>
    public async Task<bool[]> TakeAsync(IReadOnlyList<Arrival> arrivals, CancellationToken cancel) =>
        arrivals.Count == 0 ? [] : await gathering.TakeAsync(arrivals, cancel);

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => gathering.RunAsync(stopping);

    private async Task<IReadOnlyList<bool[]>> StoreAsync(IReadOnlyList<IReadOnlyList<Arrival>> requests, CancellationToken cancel)
    {
        Arrival[] arrivals = [.. requests.SelectMany(r => r)];
        var words = (surroundings.Last ?? await surroundings.GetAsync(cancel)).Words;
        foreach (var arrival in arrivals)
        {
            words.Apply(arrival.Event.Data);
        }

        var taken = await intake.StoreAsync(arrivals, cancel);
        NodeFigures.Taken(taken.Count(t => t));
        foreach (var heard in arrivals.Where((a, i) => taken[i] && a.By is not null && !a.Again).GroupBy(a => a.By!))
        {
            pulse.Note(heard.Key, heard.Count(), heard.Max(a => a.Received));
        }

        signals.Raise(Topic.Events);
        var from = 0;
        return [.. requests.Select(r => taken[from..(from += r.Count)])];
    }
}
