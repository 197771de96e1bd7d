using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Formats.Documents;
using Sirena.Formats.Instructions;
using Sirena.Storage;

namespace Sirena.Engine.Instructions;

/// <summary>
/// Takes what people ask of order systems, and what order systems say to it. What is asked at once is stored together; each is answered after the commit that
/// holds it.
/// </summary>
public sealed partial class InstructionDesk : Worker
{
    private const int Writers = 2;
    private const int Together = 64;

    // Made once: asking is often and to be quick.
    private static readonly Func<SirenaDb, string, Task<Order?>> OrderOf = EF.CompileAsyncQuery(
        (SirenaDb db, string number) => db.Orders.AsNoTracking().FirstOrDefault(o => o.Number == number)
    );
    private static readonly Func<SirenaDb, string[], IAsyncEnumerable<Instruction>> UnderWayOf = EF.CompileAsyncQuery(
        (SirenaDb db, string[] lanes) =>
            db
                .Instructions.AsNoTracking()
                .Where(i => lanes.Contains(i.Lane) && (i.State == InstructionState.Asked || i.State == InstructionState.Taken))
                .OrderBy(i => i.Seq)
                .AsQueryable()
    );

    private readonly IDbContextFactory<SirenaDb> factory;
    private readonly SurroundingsCache surroundings;
    private readonly Signals signals;
    private readonly IClock clock;
    private readonly Gathering<Asking, WishEnd> gathering;

    /// <summary>A desk on the database.</summary>
    public InstructionDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, Signals signals, IClock clock, ILogger<InstructionDesk> log)
        : base(log)
    {
        (this.factory, this.surroundings, this.signals, this.clock) = (factory, surroundings, signals, clock);
        gathering = new Gathering<Asking, WishEnd>(Writers, Together, _ => 1, StoreAsync, log);
    }

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => gathering.RunAsync(stopping);

    /// <summary>The lane of an order.</summary>
    public static string LaneOf(string order) => "order " + order;

    /// <summary>The lane of a source.</summary>
    public static string LaneOfSource(string source) => "source " + source;

    /// <summary>Asks for something. Two who ask for the same at once meet on the order's lane; the second is told of the first.</summary>
    public async Task<WishEnd> AskAsync(InstructionWish wish, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        var order = wish.Order is { } number ? await OrderOf(db, number) : null;
        if (wish.Order is not null && order is null)
        {
            return WishEnd.No(404, $"No event has told of the order '{wish.Order}'.");
        }

        var (taking, kind, problem) = Find(wish, order, around);
        if (problem is not null)
        {
            return problem;
        }

        var right = around.Business.RightOf(kind!);
        if (!May(wish.By, kind!, around, wish.Offered))
        {
            return WishEnd.No(403, $"{wish.By.Name} may not {kind!.Button.ToLowerInvariant()}: the settings give it to {Holders(right, around)}.");
        }

        var (ask, errors) = InstructionReader.ReadMembers(
            wish.Members,
            kind!,
            wish.Others,
            new InstructionNames(
                null,
                around.Statuses.Select(s => s.Id).ToHashSet(),
                around.Staff.People.Where(p => p.ArchivedAt is null).Select(p => p.Id).ToHashSet()
            )
        );
        if (ask is null)
        {
            return new WishEnd(null, 422, "The instruction has mistakes.", errors);
        }

        return await gathering.TakeAsync(new Asking(wish, order, taking!, kind!, ask, right, around), cancel);
    }

    private static (TakingSource? Taking, InstructionKind? Kind, WishEnd? Problem) Find(InstructionWish wish, Order? order, Surroundings around)
    {
        var taking =
            order is not null ? around.TakingOf(order)
            : wish.Source is { } named ? around.Taking.GetValueOrDefault(named)
            : around.Taking.Values.Where(t => t.Kinds.ContainsKey(wish.Kind)).ToArray() is [var only] ? only
            : null;
        if (order is not null && wish.Source is { } other && other != taking?.Source.Id)
        {
            return (
                null,
                null,
                WishEnd.No(
                    422,
                    $"The order {order.Number} is not one of the source '{other}'{(taking is null ? "" : $", but of '{taking.Source.Id}'")}. Leave "
                        + "'source' out."
                )
            );
        }

        if (order is null && InstructionKinds.Find(wish.Kind) is { OfSource: false })
        {
            return (
                null,
                null,
                new WishEnd(
                    null,
                    422,
                    "The instruction cannot be asked for.",
                    [new DocumentError("order", null, null, $"'order' is missing: {wish.Kind} needs the number of an order.")]
                )
            );
        }

        if (taking is null)
        {
            var whose = order is null
                ? wish.Source is { } s
                    ? $"The source '{s}'"
                    : "No source, or more than one,"
                : order.ToldBy.Length == 0
                    ? "No source that is known told of this order, and so none"
                    : $"None of the sources that told of this order ({string.Join(", ", order.ToldBy)})";
            return (
                null,
                null,
                WishEnd.No(
                    422,
                    $"{whose} takes {(InstructionKinds.Find(wish.Kind) is null ? "instructions" : $"'{wish.Kind}'")}. A supervisor says so at the "
                        + "source: 'takes'."
                )
            );
        }

        if (!taking.Kinds.TryGetValue(wish.Kind, out var kind))
        {
            return (
                taking,
                null,
                new WishEnd(
                    null,
                    422,
                    "The instruction cannot be asked for.",
                    [
                        new DocumentError(
                            "kind",
                            null,
                            null,
                            InstructionKinds.Find(wish.Kind) is null
                                ? $"There is no instruction '{Quoting.Cut(wish.Kind)}'.{Closest.Hint(wish.Kind, taking.Kinds.Keys)}"
                                : $"The source '{taking.Source.Id}' does not take '{wish.Kind}'; it takes {string.Join(", ", taking.Kinds.Keys)}."
                        ),
                    ]
                )
            );
        }

        return kind.OfSource == (order is null)
            ? (taking, kind, null)
            : (
                taking,
                kind,
                WishEnd.No(
                    422,
                    kind.OfSource
                        ? $"'{kind.Name}' goes to a source, not to an order: leave 'order' out."
                        : $"'{kind.Name}' needs 'order', the number of the order."
                )
            );
    }

    private async Task<IReadOnlyList<WishEnd>> StoreAsync(IReadOnlyList<Asking> together, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        db.Database.AutoSavepointsEnabled = false;
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        string[] lanes = [.. together.Select(a => a.Lane).Distinct()];
        var places = new Queue<long>(await LockAsync(db, lanes, together.Count, cancel));
        var underWay = await UnderWayAsync(db, lanes, cancel);
        Guid[] alerts = [.. together.Select(a => a.Wish.Alert).OfType<Guid>()];
        var withdrawn =
            alerts.Length == 0
                ? []
                : await db.Alerts.Where(a => alerts.Contains(a.Id) && a.State == AlertState.Withdrawn).Select(a => a.Id).ToListAsync(cancel);
        var ends = new List<WishEnd>();
        foreach (var asking in together)
        {
            var before = underWay.FindAll(i => i.Lane == asking.Lane);
            if (Against(asking, before, asking.Wish.Alert is { } alert && withdrawn.Contains(alert)) is { } against)
            {
                ends.Add(against);
                continue;
            }

            var made = Add(db, Draft(asking), places.Dequeue());
            underWay.Add(made);
            ends.Add(new WishEnd(made, 201, null, []));
        }

        if (ends.Exists(e => e.Status == 201))
        {
            await KeepAsync(db, transaction, cancel);
        }

        return ends;
    }

    // What speaks against it, now that its lane is locked.
    private static WishEnd? Against(Asking asking, List<Instruction> underWay, bool withdrawn)
    {
        if (withdrawn)
        {
            return WishEnd.No(409, "The alert was withdrawn meanwhile: the order has moved on. Look at the order before you ask for anything.");
        }

        if (underWay.Find(i => i.Same(asking.Kind, asking.Ask.Members)) is { } same)
        {
            return WishEnd.No(409, $"{same.By} asked for the same at {At(same.AskedAt, asking.Around)}; it is under way.", same);
        }

        return asking.Order is { } order && underWay.Count == 0 && asking.Kind.WhyNot(Sight(order, asking.Around), asking.Ask.Members) is { } not
            ? WishEnd.No(409, $"{order.Number} cannot be changed so now: {not}.")
            : null;
    }

    private InstructionDraft Draft(Asking asking) =>
        Make(asking.Taking, asking.Lane, asking.Ask, clock.GetCurrentInstant(), asking.Wish.Because) with
        {
            Order = asking.Order?.Number,
            OrderSeq = asking.Order?.Seq ?? 0,
            By = asking.Wish.By.Name,
            Person = asking.Wish.By.Person,
            Alert = asking.Wish.Alert,
            Tell = asking.Wish.Tell is { All: false } chosen ? chosen : null,
            Waits = asking.Right.SecondYes ? InstructionWait.SecondYes : null,
        };

    /// <summary>The kind of an instruction as its source takes it; <see langword="null"/> where it does so no more.</summary>
    public static InstructionKind? Kind(Instruction instruction, Surroundings around) =>
        InstructionKinds.Find(instruction.Kind) ?? around.Taking.GetValueOrDefault(instruction.Source)?.Kinds.GetValueOrDefault(instruction.Kind);

    /// <summary>What an instruction does, as a clause.</summary>
    public static string Clause(string kind, JsonObject with, Surroundings around) => around.Kind(kind)?.Clause(with, around.NameOf) ?? kind;

    private static string At(Instant at, Surroundings around) =>
        at.InZone(around.Business.Zone).ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture);

    // What somebody asks for, found sound.
    private sealed record Asking(
        InstructionWish Wish,
        Order? Order,
        TakingSource Taking,
        InstructionKind Kind,
        InstructionAsk Ask,
        InstructionRight Right,
        Surroundings Around
    )
    {
        public string Lane => Order is null ? LaneOfSource(Taking.Source.Id) : LaneOf(Order.Number);
    }

    private static string Holders(InstructionRight right, Surroundings around) =>
        string.Join(", ", right.Roles.Select(r => r == "staff" ? "staff" : r + "s").Concat(right.Teams.Select(around.NameOf))) is { Length: > 0 } all
            ? all
            : "nobody";
}
