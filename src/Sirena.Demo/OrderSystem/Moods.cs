using System.Text.Json;
using NodaTime;

namespace Sirena.Demo.OrderSystem;

/// <summary>
/// How the order system misbehaves when it is told to: it skips events, goes quiet, sends broken bodies, changes its shape; it refuses instructions, takes and
/// forgets them, is late with them, does the opposite, or is away.
/// </summary>
public sealed class Moods(IClock clock)
{
    /// <summary>What it can be told.</summary>
    public static readonly string[] Kinds = ["skip", "quiet", "broken-body", "other-shape", "refuse", "forget", "late", "opposite", "away"];

    private readonly Lock gate = new();
    private readonly Dictionary<string, (int? Times, Instant? Until)> all = [];

    /// <summary>The orders of which it said nothing, as it knows them.</summary>
    public System.Collections.Concurrent.ConcurrentDictionary<string, Untold> Untold { get; } = [];

    /// <summary>Makes its own list of open orders; <see langword="null"/> while no order system runs.</summary>
    public Func<CancellationToken, Task<string>>? List { get; set; }

    /// <summary>Does what it is asked; <see langword="null"/> while no order system runs.</summary>
    public Func<string, System.Text.Json.Nodes.JsonObject, CancellationToken, Task<(int Status, System.Text.Json.Nodes.JsonObject Body)>>? Do { get; set; }

    /// <summary>The instructions that came, word for word, the newest 500.</summary>
    public System.Collections.Concurrent.ConcurrentQueue<InstructionCall> Calls { get; } = [];

    /// <summary>What it does at present.</summary>
    public IReadOnlyDictionary<string, (int? Times, Instant? Until)> All
    {
        get
        {
            lock (gate)
            {
                return all.ToDictionary();
            }
        }
    }

    /// <summary>Tells it what to do.</summary>
    /// <param name="kind">One of <see cref="Kinds"/>; <c>well</c> ends all of it.</param>
    /// <param name="times">For so many events; <see langword="null"/> for no count.</param>
    /// <param name="seconds">For so many seconds; <see langword="null"/> for no end.</param>
    public void Set(string kind, int? times, double? seconds)
    {
        lock (gate)
        {
            if (kind == "well")
            {
                all.Clear();
                return;
            }

            all[kind] = (times, seconds is { } s ? clock.GetCurrentInstant() + Duration.FromSeconds(s) : null);
        }
    }

    /// <summary>Whether it does that with the next event, counted off.</summary>
    public bool Takes(string kind)
    {
        lock (gate)
        {
            if (!all.TryGetValue(kind, out var mood))
            {
                return false;
            }

            if (mood.Until <= clock.GetCurrentInstant())
            {
                all.Remove(kind);
                return false;
            }

            if (mood.Times is { } left)
            {
                all.Remove(kind);
                if (left > 1)
                {
                    all[kind] = (left - 1, mood.Until);
                }
            }

            return true;
        }
    }

    /// <summary>How late it is with what it is asked.</summary>
    public TimeSpan Lateness { get; private set; } = TimeSpan.FromSeconds(8);

    /// <summary>Reads <c>{ do, times, seconds }</c>.</summary>
    /// <returns>What is wrong with it, or <see langword="null"/> when it is done.</returns>
    public string? Read(string text)
    {
        try
        {
            using var body = JsonDocument.Parse(text);
            var root = body.RootElement;
            var kind = root.ValueKind == JsonValueKind.Object && root.TryGetProperty("do", out var said) ? said.ToString() : "";
            if (!Kinds.Contains(kind) && kind != "well")
            {
                return $"'do' is one of {string.Join(", ", Kinds)}, or well.";
            }

            if (kind == "late")
            {
                // Its seconds say how late, not for how long.
                Lateness = TimeSpan.FromSeconds(
                    root.TryGetProperty("seconds", out var by) && by.TryGetDouble(out var late) && late is > 0 and < 86_400 ? late : 8
                );
                Set(kind, root.TryGetProperty("times", out var often) && often.TryGetInt32(out var n) && n > 0 ? n : null, null);
                return null;
            }

            Set(
                kind,
                root.TryGetProperty("times", out var times) && times.TryGetInt32(out var count) && count > 0 ? count : null,
                root.TryGetProperty("seconds", out var span) && span.TryGetDouble(out var seconds) && seconds > 0 ? seconds : null
            );
            return null;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            return $"This is not what is expected, {{ \"do\": \"skip\", \"times\": 10 }}: {e.Message}";
        }
    }
}

/// <summary>An instruction as it came.</summary>
/// <param name="At">When.</param>
/// <param name="Source">By which address.</param>
/// <param name="Headers">Its headers.</param>
/// <param name="Body">Its body, word for word.</param>
/// <param name="Status">What it was answered.</param>
public sealed record InstructionCall(Instant At, string Source, IReadOnlyDictionary<string, string> Headers, string Body, int Status);

/// <summary>What the order system knows and did not tell.</summary>
/// <param name="Order">The order.</param>
/// <param name="At">When it became so.</param>
public sealed record Untold(System.Text.Json.Nodes.JsonObject Order, NodaTime.Instant At);
