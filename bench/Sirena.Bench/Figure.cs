namespace Sirena.Bench;

/// <summary>One line of a benchmark's table.</summary>
/// <param name="Name">What was measured.</param>
/// <param name="Value">The median of the runs.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Bound">What it must not pass, or <see langword="null"/>.</param>
/// <param name="Least">The bound is the least, not the most.</param>
public sealed record Figure(string Name, double Value, string Unit, double? Bound = null, bool Least = false)
{
    /// <summary>Whether the bound is kept.</summary>
    public bool Holds => Bound is not { } bound || (Least ? Value >= bound : Value <= bound);

    /// <summary>The value at a rank from 0 to 1 of measured values.</summary>
    public static double At(IReadOnlyCollection<double> values, double rank)
    {
        var sorted = values.Order().ToArray();
        return sorted.Length == 0 ? double.NaN : sorted[Math.Min(sorted.Length - 1, (int)Math.Ceiling(rank * sorted.Length) - 1 is var i and >= 0 ? i : 0)];
    }

    /// <summary>The middle one of an odd number of values.</summary>
    public static double Median(params double[] values) => values.Order().ElementAt(values.Length / 2);
}
