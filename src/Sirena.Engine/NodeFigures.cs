using System.Diagnostics.Metrics;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;

namespace Sirena.Engine;

/// <summary>
/// What an operator would be woken for, as the meter <c>Sirena</c>: names and units by the conventions of OpenTelemetry, which the exporter turns into
/// those of Prometheus. Counters and histograms are this node's own; gauges are of the whole installation, looked up every ten seconds.
/// </summary>
public sealed class NodeFigures(NpgsqlDataSource source, SurroundingsCache surroundings, NodeClock clock, ILogger<NodeFigures> log) : Worker(log)
{
    /// <summary>The meter's name.</summary>
    public const string MeterName = "Sirena";

    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(10);
    private static readonly Meter Meter = new(MeterName);
    private static readonly Counter<long> TakenIn = Meter.CreateCounter<long>("sirena.events.taken", "{event}", "Events taken in by this node.");
    private static readonly Counter<long> DecidedHere = Meter.CreateCounter<long>("sirena.events.decided", "{event}", "Events decided by this node.");
    private static readonly Counter<long> SetAsideHere = Meter.CreateCounter<long>(
        "sirena.events.undecided",
        "{event}",
        "Events set aside by this node because they could not be decided."
    );
    private static readonly Histogram<double> Deciding = Meter.CreateHistogram(
        "sirena.event.decision.duration",
        "s",
        "From an event's receipt to its decision.",
        null,
        new InstrumentAdvice<double> { HistogramBucketBoundaries = [0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 60, 300] }
    );
    private static readonly Counter<long> Tries = Meter.CreateCounter<long>(
        "sirena.delivery.attempts",
        "{attempt}",
        "Tries to hand a message over, by channel, gateway and outcome."
    );
    private static readonly Histogram<double> HandingOver = Meter.CreateHistogram(
        "sirena.delivery.handover.duration",
        "s",
        "From when a message was made to when a gateway took it, by channel.",
        null,
        new InstrumentAdvice<double> { HistogramBucketBoundaries = [0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 60, 300, 1800] }
    );
    private static readonly Counter<long> Instructing = Meter.CreateCounter<long>(
        "sirena.instruction.attempts",
        "{attempt}",
        "Tries to hand an instruction over, by source and outcome."
    );
    private static readonly Counter<long> Answered = Meter.CreateCounter<long>("sirena.alert.answers", "{answer}", "Answers taken by this node, by kind.");
    private static readonly Counter<long> LapsedHere = Meter.CreateCounter<long>("sirena.alerts.lapsed", "{alert}", "Alerts that this node let lapse.");
    private static readonly Counter<long> Begun = Meter.CreateCounter<long>(
        "sirena.worker.restarts",
        "{restart}",
        "How often work broke off on this node and was begun again, by worker."
    );
    private static volatile Found? found;

    static NodeFigures()
    {
        Meter.CreateObservableGauge("sirena.events.waiting", () => Of(f => f.Events), "{event}", "Events that wait to be decided.");
        Meter.CreateObservableGauge("sirena.events.oldest.age", () => OfAge(f => f.EventsAge), "s", "How long the oldest event has waited to be decided.");
        Meter.CreateObservableGauge(
            "sirena.events.set.aside",
            () => Of(f => f.Aside),
            "{event}",
            "Events that could not be decided and wait to be decided anew."
        );
        Meter.CreateObservableGauge(
            "sirena.deliveries.waiting",
            () => Of(f => f.Deliveries),
            "{message}",
            "Messages that are due and have not been handed over."
        );
        Meter.CreateObservableGauge(
            "sirena.deliveries.oldest.age",
            () => OfAge(f => f.DeliveriesAge),
            "s",
            "How long the oldest message that is due has waited."
        );
        Meter.CreateObservableGauge("sirena.alerts.open", () => Of(f => f.Alerts), "{alert}", "Alerts that nobody has answered.");
        Meter.CreateObservableGauge(
            "sirena.gateway.failing",
            () => found?.Gateways.Select(g => new Measurement<int>(g.Failing ? 1 : 0, new("gateway", g.Id), new("channel", g.Channel.Name()))) ?? [],
            null,
            "1 while a gateway fails, else 0."
        );
        Meter.CreateObservableGauge(
            "sirena.node.clock.offset",
            () => found is { } f ? [new Measurement<double>(f.Offset)] : Array.Empty<Measurement<double>>(),
            "s",
            "How far this node's clock is behind the database's."
        );
    }

    /// <summary>Events were taken in.</summary>
    public static void Taken(int count) => TakenIn.Add(count);

    /// <summary>An event was decided.</summary>
    public static void Decided(OrderEvent happened)
    {
        DecidedHere.Add(1);
        if (happened.DecidedAt is { } at && !happened.DecidedLate)
        {
            Deciding.Record(Math.Max(0, (at - happened.Received).TotalSeconds), new KeyValuePair<string, object?>("crowd", happened.Crowd));
        }
    }

    /// <summary>An instruction was tried.</summary>
    public static void Instructed(string source, AttemptOutcome outcome) => Instructing.Add(1, new("source", source), new("outcome", outcome.Name()));

    /// <summary>An event was set aside.</summary>
    public static void SetAside() => SetAsideHere.Add(1);

    /// <summary>A message was tried.</summary>
    /// <param name="channel">By which channel.</param>
    /// <param name="gateway">The gateway's id.</param>
    /// <param name="outcome">What came of it.</param>
    /// <param name="delivery">The delivery; its id says when it was made (RFC 9562, version 7). One of another version, made by the database for a next
    /// address, says nothing.</param>
    /// <param name="now">The moment.</param>
    public static void Tried(Channel channel, string gateway, AttemptOutcome outcome, Guid delivery, Instant now)
    {
        Tries.Add(1, new("channel", channel.Name()), new("gateway", gateway), new("outcome", outcome.Name()));
        if (outcome == AttemptOutcome.Accepted && delivery.Version == 7)
        {
            HandingOver.Record(Math.Max(0, (now - MadeAt(delivery)).TotalSeconds), new KeyValuePair<string, object?>("channel", channel.Name()));
        }
    }

    internal static Instant MadeAt(Guid id) =>
        Instant.FromUnixTimeMilliseconds(System.Buffers.Binary.BinaryPrimitives.ReadInt64BigEndian(id.ToByteArray(bigEndian: true)) >>> 16);

    /// <summary>An answer was taken.</summary>
    public static void Answer(string kind) => Answered.Add(1, new KeyValuePair<string, object?>("kind", kind));

    /// <summary>Alerts lapsed.</summary>
    public static void Lapsed(int count) => LapsedHere.Add(count);

    /// <summary>Work broke off.</summary>
    public static void Broken(string worker) => Begun.Add(1, new KeyValuePair<string, object?>("worker", worker));

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => TurnsAsync(Pause, () => LookAsync(stopping), stopping);

    private async Task LookAsync(CancellationToken cancel)
    {
        // Plan: the partial indexes over what waits; the age of the oldest is the first of each.
        await using var command = source.CreateCommand(
            """
            select (select count(*) from events where decided_at is null),
                (select extract(epoch from now() - min(received))::float8 from events where decided_at is null),
                (select count(*) from events where set_aside_at is not null),
                (select count(*) from deliveries where state = 'waiting' and due_at <= now()),
                (select extract(epoch from now() - min(due_at))::float8 from deliveries where state = 'waiting' and due_at <= now()),
                (select count(*) from alerts where state = 'open')
            """
        );
        await using var row = await command.ExecuteReaderAsync(cancel);
        await row.ReadAsync(cancel);
        double Age(int at) => row.IsDBNull(at) ? 0 : Math.Max(0, row.GetDouble(at));
        found = new Found(
            row.GetInt64(0),
            Age(1),
            row.GetInt64(2),
            row.GetInt64(3),
            Age(4),
            row.GetInt64(5),
            clock.Offset.TotalSeconds,
            [.. (await surroundings.GetAsync(cancel)).AllGateways.Select(g => (g.Id, g.Channel, g.FailingSince is not null))]
        );
    }

    private static Measurement<long>[] Of(Func<Found, long> which) => found is { } f ? [new Measurement<long>(which(f))] : [];

    private static Measurement<double>[] OfAge(Func<Found, double> which) => found is { } f ? [new Measurement<double>(which(f))] : [];

    private sealed record Found(
        long Events,
        double EventsAge,
        long Aside,
        long Deliveries,
        double DeliveriesAge,
        long Alerts,
        double Offset,
        IReadOnlyList<(string Id, Channel Channel, bool Failing)> Gateways
    );
}
