using System.Text.RegularExpressions;

namespace Sirena.Demo.StandIns;

/// <summary>How a stand-in misbehaves.</summary>
/// <param name="Channel">The stand-in: <c>mail</c>, <c>relay</c> (the second mail server, for <c>down</c>), <c>phone</c>, <c>chat</c>, <c>push</c> or
/// <c>ticket</c>.</param>
/// <param name="Match">The addresses that it concerns; <c>*</c> stands for any text, case is ignored.</param>
/// <param name="Kind">What happens: refuse, defer, bounce, delay, drop, close, close-after, junk; of the server itself, whatever the address: down, idle (a
/// quiet line is closed with 421), slow (a byte a second), starttls (demanded, and not to be had), size (larger messages are refused).</param>
/// <param name="Seconds">How long a delay lasts, or a line may be quiet; for <c>size</c> the most kilobytes.</param>
public sealed record Fault(string Channel, string Match, string Kind, double Seconds)
{
    /// <summary>The kinds that concern the server and not an address.</summary>
    public static readonly string[] OfServer = ["down", "idle", "slow", "starttls", "size"];

    /// <summary>The kinds.</summary>
    public static readonly string[] Kinds = ["refuse", "defer", "bounce", "delay", "drop", "close", "close-after", "junk", .. OfServer];

    private readonly Regex pattern = new(
        "^" + Regex.Escape(Match).Replace("\\*", ".*", StringComparison.Ordinal) + "$",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    );

    /// <summary>Attempts that it still concerns, or <see langword="null"/> for all until it is lifted.</summary>
    public int? TimesLeft { get; set; }

    /// <summary>Whether it concerns an address.</summary>
    public bool Concerns(string channel, string address) => channel == Channel && pattern.IsMatch(address);
}

/// <summary>The faults in force.</summary>
public sealed class Faults
{
    private readonly Lock gate = new();
    private readonly List<Fault> all = [];

    /// <summary>All of them.</summary>
    public IReadOnlyList<Fault> All
    {
        get
        {
            lock (gate)
            {
                return [.. all];
            }
        }
    }

    /// <summary>Adds one; the newest is asked first.</summary>
    public void Add(Fault fault)
    {
        lock (gate)
        {
            all.Insert(0, fault);
        }
    }

    /// <summary>Lifts all.</summary>
    public void Clear()
    {
        lock (gate)
        {
            all.Clear();
        }
    }

    /// <summary>The fault for an attempt at an address, counted off its times; <see langword="null"/> when nothing is wrong.</summary>
    public Fault? Take(string channel, string address)
    {
        lock (gate)
        {
            return Count(all.FirstOrDefault(f => !Fault.OfServer.Contains(f.Kind) && f.Concerns(channel, address)));
        }
    }

    /// <summary>Whether a gateway is down, counted off the fault's times.</summary>
    public bool IsDown(string channel) => OfServer(channel, "down") is not null;

    /// <summary>A fault of a server itself, counted off its times.</summary>
    public Fault? OfServer(string channel, string kind)
    {
        lock (gate)
        {
            return Count(all.FirstOrDefault(f => f.Kind == kind && f.Channel == channel));
        }
    }

    private Fault? Count(Fault? fault)
    {
        if (fault is { TimesLeft: { } left })
        {
            fault.TimesLeft = left - 1;
            if (left <= 1)
            {
                all.Remove(fault);
            }
        }

        return fault;
    }
}
