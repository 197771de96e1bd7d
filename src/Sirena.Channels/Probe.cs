namespace Sirena.Channels;

/// <summary>A station of a test.</summary>
/// <param name="Name">What was to be reached: <c>connected</c>.</param>
/// <param name="Passed">Whether it was; <see langword="null"/> when it was not tried.</param>
/// <param name="Found">What was found.</param>
/// <param name="Milliseconds">How long it took.</param>
public sealed record ProbeStep(string Name, bool? Passed, string Found, double Milliseconds);

/// <summary>What was heard of a message after it was taken.</summary>
/// <param name="Arrived">It arrived; <see langword="null"/> when nothing was heard in time.</param>
/// <param name="Words">The words of that.</param>
public sealed record ProbeNews(bool? Arrived, string Words);

/// <summary>What a test tells while it goes, and how it hears of the message later.</summary>
/// <param name="Say">Called at each station.</param>
/// <param name="Hear">Waits for news of the message, given the far end's id where there is one; <see langword="null"/> when none can come.</param>
public sealed record ProbeWays(Action<ProbeStep>? Say = null, Func<string?, Task<ProbeNews>>? Hear = null);

/// <summary>What a test found, and what to do about it.</summary>
/// <param name="Steps">The stations in order.</param>
/// <param name="Fact">The fact in plain words.</param>
/// <param name="Cause">Why it is so, or empty.</param>
/// <param name="WaysOut">At most two things to do.</param>
/// <param name="Lines">The protocol word for word, without secrets: who said it, and what.</param>
public sealed record ProbeResult(
    IReadOnlyList<ProbeStep> Steps,
    string Fact,
    string Cause,
    IReadOnlyList<string> WaysOut,
    IReadOnlyList<(bool Ours, string Text)> Lines
)
{
    /// <summary>Every station that was tried was reached.</summary>
    public bool Good => Steps.All(s => s.Passed != false);
}

/// <summary>Collects the stations of a test.</summary>
internal sealed class ProbeLog(Action<ProbeStep>? say, params string[] names)
{
    private readonly List<ProbeStep> steps = [];
    private long begin = System.Diagnostics.Stopwatch.GetTimestamp();

    public void Pass(string found) => Add(true, found);

    public void Fail(string found) => Add(false, found);

    public void Leave(string found) => Add(null, found);

    public ProbeResult End(string fact, string cause, IReadOnlyList<(bool Ours, string Text)> lines, params string[] ways)
    {
        while (steps.Count < names.Length)
        {
            steps.Add(new ProbeStep(names[steps.Count], null, "not tried", 0));
        }

        return new ProbeResult(steps, fact, cause, ways, lines);
    }

    private void Add(bool? passed, string found)
    {
        steps.Add(new ProbeStep(names[steps.Count], passed, found, System.Diagnostics.Stopwatch.GetElapsedTime(begin).TotalMilliseconds));
        say?.Invoke(steps[^1]);
        begin = System.Diagnostics.Stopwatch.GetTimestamp();
    }
}
