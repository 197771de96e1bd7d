using System.Text;
using NodaTime;
using NodaTime.Text;
using NodaTime.TimeZones;

namespace Sirena.Core.Sources;

/// <summary>
/// How an order system writes a time: a date pattern of Unicode LDML (UTS 35, part 4, 8), such as <c>dd/MM/uuuu HH:mm</c>, or <c>epoch-seconds</c>,
/// <c>epoch-milliseconds</c>. A day alone is its begin. Of a
/// wall time that the clock skips the same time after the change is taken, of one that stands twice the first.
/// </summary>
public sealed class TimeForm
{
    /// <summary>Seconds since 1970, UTC.</summary>
    public const string EpochSeconds = "epoch-seconds";

    /// <summary>Milliseconds since 1970, UTC.</summary>
    public const string EpochMilliseconds = "epoch-milliseconds";

    private static readonly ZoneLocalMappingResolver Lenient = Resolvers.CreateMappingResolver(Resolvers.ReturnEarlier, Resolvers.ReturnForwardShifted);
    private readonly IPattern<OffsetDateTime>? withOffset;
    private readonly IPattern<LocalDateTime>? local;

    private TimeForm(string text, IPattern<OffsetDateTime>? withOffset, IPattern<LocalDateTime>? local) =>
        (Text, this.withOffset, this.local) = (text, withOffset, local);

    /// <summary>As it is written.</summary>
    public string Text { get; }

    /// <summary>A time that it reads means an instant only together with a time zone.</summary>
    public bool NeedsZone => local is not null;

    /// <summary>Reads a pattern.</summary>
    /// <returns>The form, or one sentence on what is wrong with it.</returns>
    public static (TimeForm? Form, string? Problem) Parse(string text)
    {
        if (text is EpochSeconds or EpochMilliseconds)
        {
            return (new TimeForm(text, null, null), null);
        }

        var (pattern, hasOffset, problem) = Translate(text);
        if (pattern is null)
        {
            return (null, problem);
        }

        try
        {
            return (
                hasOffset
                    ? new TimeForm(text, OffsetDateTimePattern.CreateWithInvariantCulture(pattern), null)
                    : new TimeForm(text, null, LocalDateTimePattern.CreateWithInvariantCulture(pattern)),
                null
            );
        }
        catch (InvalidPatternException e)
        {
            return (null, $"The date pattern '{text}' does not work: {e.Message.TrimEnd('.')}. Write it as LDML has it, such as dd/MM/uuuu HH:mm.");
        }
    }

    /// <summary>Reads a time.</summary>
    /// <param name="text">What stands there.</param>
    /// <param name="zone">The zone of wall times.</param>
    /// <returns>The instant, or <see langword="null"/> where the text has another form or lies outside 1970 to 2199.</returns>
    public Instant? Read(string text, DateTimeZone zone)
    {
        var at = (Text, withOffset, local) switch
        {
            (EpochSeconds, _, _) => Epoch(text, 1_000),
            (EpochMilliseconds, _, _) => Epoch(text, 1),
            (_, { } pattern, _) => pattern.Parse(text) is { Success: true } parsed ? KnownTime.Of(parsed.Value) : (Instant?)null,
            (_, _, { } pattern) => pattern.Parse(text) is { Success: true } parsed && KnownTime.Holds(parsed.Value.Date)
                ? parsed.Value.InZone(zone, Lenient).ToInstant()
                : null,
            _ => null,
        };
        return at is { } instant && KnownTime.Holds(instant) ? instant : null;
    }

    private static Instant? Epoch(string text, int milliseconds) =>
        decimal.TryParse(text, System.Globalization.NumberStyles.AllowDecimalPoint, System.Globalization.CultureInfo.InvariantCulture, out var number)
        && number > 0
        && number < 7_300_000_000_000m / milliseconds
            ? Instant.FromUnixTimeMilliseconds((long)(number * milliseconds))
            : null;

    // Letters of UTS 35 as NodaTime's patterns have them.
    private static (string? Pattern, bool HasOffset, string? Problem) Translate(string text)
    {
        if (text.Length is 0 or > 60)
        {
            return (null, false, "A date pattern has 1 to 60 characters, such as dd/MM/uuuu HH:mm.");
        }

        var (pattern, hasOffset) = (new StringBuilder(), false);
        for (var at = 0; at < text.Length;)
        {
            var letter = text[at];
            if (letter == '\'')
            {
                if (Quoted(text, at) is not var (words, next))
                {
                    return (null, false, $"In the date pattern '{text}' a quotation mark is not closed.");
                }

                pattern.Append(words.Length == 0 ? "\\'" : $"'{words.Replace("'", "'\\''", StringComparison.Ordinal)}'");
                at = next;
                continue;
            }

            var run = 1;
            while (at + run < text.Length && text[at + run] == letter)
            {
                run++;
            }

            if (!char.IsAsciiLetter(letter))
            {
                pattern.Append('\'').Append(letter, run).Append('\'');
            }
            else if (Piece(letter, run) is { } piece)
            {
                pattern.Append(piece);
                hasOffset |= letter is 'X' or 'x' or 'Z';
            }
            else
            {
                return (
                    null,
                    false,
                    $"The letter '{new string(letter, run)}' of the date pattern '{text}' is not taken. Taken are y u M L d E H h m s S a X x Z; other "
                        + "letters stand in quotation marks."
                );
            }

            at += run;
        }

        return (pattern.ToString(), hasOffset, null);
    }

    // What stands in quotation marks; two of them are one, inside and outside (UTS 35, part 4, 8). None where they are not closed.
    private static (string Words, int Next)? Quoted(string text, int from)
    {
        var words = new StringBuilder();
        for (var at = from + 1; at < text.Length; at++)
        {
            if (text[at] != '\'')
            {
                words.Append(text[at]);
            }
            else if (words.Length > 0 && at + 1 < text.Length && text[at + 1] == '\'')
            {
                words.Append(text[at++]);
            }
            else
            {
                return (words.ToString(), at + 1);
            }
        }

        return null;
    }

    private static string? Piece(char letter, int run) =>
        (letter, run) switch
        {
            ('y' or 'u', 2) => "yy",
            ('y' or 'u', 1 or 4) => "uuuu",
            ('M' or 'L', <= 4) => new string('M', run),
            ('d', <= 2) => new string('d', run),
            ('E', <= 3) => "ddd",
            ('E', 4) => "dddd",
            ('H' or 'h' or 'm' or 's', <= 2) => new string(letter, run),
            ('S', <= 9) => new string('f', run),
            ('a', 1) => "tt",
            ('X', 1) => "o<Z+HH>",
            ('X', 2) => "o<Z+HHmm>",
            ('X', 3) => "o<Z+HH:mm>",
            ('x', 1) => "o<+HH>",
            ('x', 2) or ('Z', <= 3) => "o<+HHmm>",
            ('x', 3) => "o<+HH:mm>",
            ('Z', 5) => "o<Z+HH:mm>",
            _ => null,
        };
}
