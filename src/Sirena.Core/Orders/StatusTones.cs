namespace Sirena.Core.Orders;

/// <summary>How an eye sees colours.</summary>
public enum ColourSight
{
    /// <summary>As most do.</summary>
    Most,

    /// <summary>Without the cones for long waves (protanopia).</summary>
    RedWeak,

    /// <summary>Without those for middle ones (deuteranopia).</summary>
    GreenWeak,

    /// <summary>Without those for short ones (tritanopia).</summary>
    BlueWeak,
}

/// <summary>A tone of a status's mark.</summary>
/// <param name="Id">Its id: <c>umber</c>.</param>
/// <param name="Day">Its colour on white, as # and six hexadecimal digits.</param>
/// <param name="Night">Its colour on the dark ground.</param>
public sealed record StatusTone(string Id, string Day, string Night);

/// <summary>
/// The six tones that a supervisor may give to a status. They stay apart for every kind of colour sight; brass, flare and grey keep their own meanings.
/// </summary>
public static class StatusTones
{
    // Linear RGB as such an eye has it: Machado, Oliveira, Fernandes, "A Physiologically-based Model for Simulation of Color Vision Deficiency", 2009, severity
    // 1.
    private static readonly double[][] RedWeak =
    [
        [0.152286, 1.052583, -0.204868],
        [0.114503, 0.786281, 0.099216],
        [-0.003882, -0.048116, 1.051998],
    ];
    private static readonly double[][] GreenWeak =
    [
        [0.367322, 0.860646, -0.227968],
        [0.280085, 0.672501, 0.047413],
        [-0.011820, 0.042940, 0.968881],
    ];
    private static readonly double[][] BlueWeak =
    [
        [1.255528, -0.076749, -0.178779],
        [-0.078411, 0.930809, 0.147602],
        [0.004733, 0.691367, 0.303900],
    ];

    /// <summary>All of them.</summary>
    public static IReadOnlyList<StatusTone> All { get; } =
    [
        new("ink", "#1B2B34", "#DCE5E6"),
        new("umber", "#6B4410", "#A06A3C"),
        new("dusk", "#5B5EA6", "#8388DE"),
        new("glass", "#2A7F74", "#3FA396"),
        new("sand", "#A08C5C", "#C9B988"),
        new("sky", "#6A97B8", "#A3D0F2"),
    ];

    /// <summary>A colour as an eye sees it.</summary>
    /// <param name="colour"># and six hexadecimal digits, sRGB.</param>
    /// <param name="sight">The eye.</param>
    /// <returns># and six hexadecimal digits.</returns>
    public static string Seen(string colour, ColourSight sight)
    {
        var matrix = sight switch
        {
            ColourSight.RedWeak => RedWeak,
            ColourSight.GreenWeak => GreenWeak,
            ColourSight.BlueWeak => BlueWeak,
            _ => null,
        };
        if (matrix is null)
        {
            return colour;
        }

        var linear = Linear(colour);
        return "#" + string.Concat(matrix.Select(row => Digits((row[0] * linear[0]) + (row[1] * linear[1]) + (row[2] * linear[2]))));
    }

    /// <summary>How far apart two colours lie: the CIE 1976 difference; about 2 is just seen, 10 at a glance.</summary>
    public static double Apart(string one, string other)
    {
        var (a, b) = (Lab(one), Lab(other));
        return Math.Sqrt(a.Zip(b, (x, y) => (x - y) * (x - y)).Sum());
    }

    // The transfer function of sRGB, IEC 61966-2-1.
    private static double[] Linear(string colour) =>
        [
            .. Enumerable
                .Range(0, 3)
                .Select(i => Convert.ToInt32(colour.Substring(1 + (2 * i), 2), 16) / 255.0)
                .Select(c => c <= 0.04045 ? c / 12.92 : Math.Pow((c + 0.055) / 1.055, 2.4)),
        ];

    private static string Digits(double linear)
    {
        var c = Math.Clamp(linear, 0, 1);
        return ((int)Math.Round(255 * (c <= 0.0031308 ? 12.92 * c : (1.055 * Math.Pow(c, 1 / 2.4)) - 0.055))).ToString(
            "X2",
            System.Globalization.CultureInfo.InvariantCulture
        );
    }

    // CIE L*a*b* by the white of D65.
    private static double[] Lab(string colour)
    {
        var l = Linear(colour);
        var (x, y, z) = (
            F(((0.4124 * l[0]) + (0.3576 * l[1]) + (0.1805 * l[2])) / 0.95047),
            F((0.2126 * l[0]) + (0.7152 * l[1]) + (0.0722 * l[2])),
            F(((0.0193 * l[0]) + (0.1192 * l[1]) + (0.9505 * l[2])) / 1.08883)
        );
        return [(116 * y) - 16, 500 * (x - y), 200 * (y - z)];

        static double F(double t) => t > 0.008856 ? Math.Cbrt(t) : (7.787 * t) + (16.0 / 116);
    }
}
