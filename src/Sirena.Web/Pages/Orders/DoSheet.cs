using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Engine;
using Sirena.Engine.Instructions;
using Sirena.Storage;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Orders;

/// <summary>A kind that can be asked for, with what it would set off.</summary>
/// <param name="Kind">The kind.</param>
/// <param name="NotNow">Why it makes no sense now, or <see langword="null"/>.</param>
/// <param name="Consequence">What it would set off as it stands in the form.</param>
/// <param name="With">Its members as they stand in the form.</param>
public sealed record DoLine(InstructionKind Kind, string? NotNow, Consequence? Consequence, JsonObject With);

/// <summary>What can be asked of an order's source, and what was.</summary>
public sealed class DoSheet
{
    /// <summary>The order.</summary>
    public required Order Order { get; init; }

    /// <summary>The source that takes instructions for it, or <see langword="null"/>.</summary>
    public TakingSource? Taking { get; init; }

    /// <summary>What can be asked for by whoever looks.</summary>
    public IReadOnlyList<DoLine> Lines { get; init; } = [];

    /// <summary>What was asked, the newest first.</summary>
    public IReadOnlyList<Instruction> Done { get; init; } = [];

    /// <summary>The kind whose line is open.</summary>
    public string? Open { get; init; }

    /// <summary>Whom the move is to tell: <c>both</c>, <c>customer</c>, <c>staff</c>, <c>nobody</c>.</summary>
    public string Tell { get; init; } = "both";

    /// <summary>What is wrong with what was asked, or <see langword="null"/>.</summary>
    public string? Problem { get; init; }

    /// <summary>It cannot be undone and was asked for once: a second touch does it.</summary>
    public bool Sure { get; init; }

    /// <summary>The names of people, statuses and rules.</summary>
    public required Surroundings Around { get; init; }

    /// <summary>The moment.</summary>
    public required DeskTime Clock { get; init; }

    /// <summary>Where the forms are posted to, without a handler.</summary>
    public required string Self { get; init; }

    /// <summary>Whoever looks may say yes to what waits.</summary>
    public bool Supervises { get; init; }

    /// <summary>Reads it.</summary>
    /// <param name="db">The database.</param>
    /// <param name="consequences">Works out what each would set off.</param>
    /// <param name="order">The order.</param>
    /// <param name="around">Names and sources.</param>
    /// <param name="clock">The moment.</param>
    /// <param name="asker">Who looks.</param>
    /// <param name="form">A form that was posted, or <see langword="null"/>.</param>
    /// <param name="self">Where the forms are posted to.</param>
    /// <param name="only">The kinds that are offered, with what is given of them; <see langword="null"/> for all that the source takes.</param>
    public static async Task<DoSheet> ReadAsync(
        SirenaDb db,
        Consequences consequences,
        Order order,
        Surroundings around,
        DeskTime clock,
        Asker asker,
        IFormCollection? form,
        string self,
        IReadOnlyCollection<InstructionAsk>? only,
        CancellationToken cancel,
        string? problem = null,
        bool sure = false
    )
    {
        var taking = around.TakingOf(order);
        var open = form?["kind"].ToString();
        var tell = form?["tell"].ToString() is { Length: > 0 } said ? said : "both";
        var lines = new List<DoLine>();
        if (taking is not null)
        {
            var sight = InstructionDesk.Sight(order, around);
            var kinds = (only is null ? taking.Kinds.Values : only.Select(o => taking.Kinds.GetValueOrDefault(o.Kind)).OfType<InstructionKind>())
                .Where(k => !k.OfSource && InstructionDesk.May(asker, k, around, offered: only is not null))
                .ToArray();
            var with = kinds.ToDictionary(
                k => k.Name,
                k =>
                    k.Name == open && form is not null
                        ? InstructionForm.With(form, k)
                        : only?.FirstOrDefault(o => o.Kind == k.Name)?.Members ?? Usual(k, order, around)
            );
            var found = await consequences.OfAsync(
                order,
                [.. kinds.Select(k => (k, with[k.Name], k.Name == open && form is not null ? InstructionForm.Tell(form, asker.Name) : null))],
                asker.Name,
                cancel
            );
            lines.AddRange(kinds.Select((k, i) => new DoLine(k, k.NotNow(sight), found[i], with[k.Name])));
        }

        // What was asked from an alert stands beside what it offers already.
        var done = only is not null
            ? []
            : await db.Instructions.AsNoTracking().Where(i => i.OrderNumber == order.Number).OrderByDescending(i => i.Seq).Take(40).ToListAsync(cancel);
        return new DoSheet
        {
            Order = order,
            Taking = taking,
            Lines = lines,
            Done = done,
            Open = open,
            Tell = tell,
            Problem = problem,
            Sure = sure,
            Around = around,
            Clock = clock,
            Self = self,
            Supervises = asker.Role == "supervisor",
        };
    }

    /// <summary>The status that usually comes next, or <see langword="null"/>.</summary>
    public static string? NextOf(DoSheet sheet) => NextOf(sheet.Order, sheet.Around);

    private static string? NextOf(Order order, Surroundings around)
    {
        var here = around.Status(order.Status);
        return around.Statuses.FirstOrDefault(s => !s.Void && s.Position > (here?.Position ?? 0) && here?.WhyNot(s) is null)?.Id;
    }

    // Moving on begins with the usual next status.
    private static JsonObject Usual(InstructionKind kind, Order order, Surroundings around) =>
        kind.Name == "status" && NextOf(order, around) is { } next ? new JsonObject { ["to"] = next } : [];

    /// <summary>How an instruction stands, in a word.</summary>
    public static (string Tone, string Words) Standing(Instruction i) =>
        i.Trial ? ("dusk", "only tried")
        : i.Waits is not null ? ("brass", "waits")
        : i.State switch
        {
            InstructionState.Seen => ("glass", $"done in {((NodaTime.Duration?)(i.SeenAt!.Value - i.AskedAt)).Took()}"),
            InstructionState.Refused => ("flare", "refused"),
            InstructionState.Failed => ("flare", "failed"),
            InstructionState.Unseen => ("brass", "taken, not seen"),
            InstructionState.Dropped => ("muted", "dropped"),
            _ => ("muted", "under way"),
        };

    /// <summary>
    /// An instruction's stations: asked, taken, shown, each with its time and what it was; the last is what is not there yet, or what went wrong.
    /// </summary>
    public static IEnumerable<(string Mark, string Name, string? At, string Words)> Stations(Instruction i, DeskTime clock, StaffWords l)
    {
        var tried = i.Trial;
        yield return (
            tried ? "would" : "ink",
            tried ? l["Would have been asked"].Value
            : i.Waits is not null ? l["Wanted"]
            : l["Asked"],
            clock.Exact(i.AskedAt),
            l.Language.Say(i.Because ?? "")
        );
        if (tried)
        {
            yield break;
        }

        if (i.Waits is { } wait)
        {
            yield return (
                "brass",
                wait == InstructionWait.Pause ? l["Held by a pause"] : l["Waits for a yes"],
                null,
                wait switch
                {
                    InstructionWait.Limit => l["its rule asked too often"],
                    InstructionWait.SecondYes => l["a second person's"],
                    _ => l["it goes when the pause ends"],
                }
            );
            yield break;
        }

        var ended = i.EndedAt is { } end ? clock.Exact(end) : null;
        if (i.TakenAt is { } taken)
        {
            yield return ("ink", l["Taken"], clock.Exact(taken), i.Words is { } words && i.State is not InstructionState.Refused ? l["said “{0}”", words] : "");
        }

        yield return i.State switch
        {
            InstructionState.Seen => (
                "glass",
                l["Shown by the order"],
                clock.Exact(i.SeenAt!.Value),
                i.SeenEvent is null ? l["the order system says so"] : l["an event came"]
            ),
            InstructionState.Refused => ("flare", l["Refused"], ended, i.Words ?? ""),
            InstructionState.Unseen => ("hollow", l["Not seen"], ended, l["{0} up, no event showed it", i.Sight.InWords()]),
            InstructionState.Failed => ("flare", l["Not handed over"], ended, i.Words ?? ""),
            InstructionState.Dropped => ("off", l["Dropped"], ended, i.Words ?? ""),
            InstructionState.Taken => ("next", l["Shown by the order"], null, l["waiting to see it"]),
            _ => (
                "next",
                l["Taken"],
                null,
                i.Words is { } silent ? l["{0}; asked again {1}", silent, clock.Until(i.DueAt)]
                : i.Handed ? l["on its way"]
                : l["goes when what is before it has ended"]
            ),
        };
    }
}
