using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Formats.Documents;
using Sirena.Formats.Instructions;
using Sirena.Storage;

namespace Sirena.Engine.Instructions;

/// <summary>
/// Takes what people ask of order systems, and what order systems say to it. What is asked at once is stored together; each is answered after the commit that
/// holds it.
/// </summary>
public sealed class InstructionDesk : Worker
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
                    $"The order {order.Number} is not one of the source '{other}'{(taking is null ? "" : $", but of '{taking.Source.Id}'")}. Leave 'source' out."
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
                    $"{whose} takes {(InstructionKinds.Find(wish.Kind) is null ? "instructions" : $"'{wish.Kind}'")}. A supervisor says so at the source: 'takes'."
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

    /// <summary>An order as it is known.</summary>
    public static InstructionSight Sight(Order order, Surroundings around) =>
        new(
            new Facts(
                new OrderEvent
                {
                    EventId = "",
                    Source = "",
                    Type = "",
                    OrderNumber = order.Number,
                    Time = order.ChangedAt,
                    Received = order.ChangedAt,
                    Data = "{}",
                    OrderAfter = order.Document,
                },
                around.Business.Zone,
                around.Business.Currency
            ),
            around.Statuses
        );

    /// <summary>Whether somebody may use a kind: by their role or team, or, where the settings say nothing of it, because a rule offered it to them.</summary>
    public static bool May(Asker asker, InstructionKind kind, Surroundings around, bool offered) =>
        (offered && around.Business.InstructionRights.TrueForAll(r => r.Kind != kind.Name)) || Holds(asker, around.Business.RightOf(kind), around);

    private static bool Holds(Asker asker, InstructionRight right, Surroundings around) =>
        asker.Role != "reader"
        && right.Permits(asker.Role, asker.Person is { } id && around.Staff.Person(id) is { ArchivedAt: null } person ? person.Teams : []);

    /// <summary>What the order system says to an instruction that it fetched, or took before.</summary>
    /// <returns>The instruction as it stands now; <see langword="null"/> where the source has none of that id; with a problem where it cannot be.</returns>
    public async Task<(Instruction? Instruction, string? Problem)> ResultAsync(string source, Guid id, string state, string? words, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        if (await HoldAsync(db, id, cancel) is not { } held || held.Source != source || held.Waits is not null)
        {
            return (null, null);
        }

        var now = clock.GetCurrentInstant();
        held.Handed = true;
        var counts = state switch
        {
            "taken" => held.Take(now, words) || held.TakenAt is not null,
            "seen" => held.State == InstructionState.Seen || held.See(now, null),
            _ => held.State == InstructionState.Refused || held.Refuse(now, words ?? "refused without a word"),
        };
        if (!counts)
        {
            return (held, $"It is {held.State.Name()} already: a result can no longer change that.");
        }

        held.Words = words ?? held.Words;
        await KeepAsync(db, transaction, cancel);
        return (held, null);
    }

    /// <summary>Ends the wait of one: it goes, or it is stopped.</summary>
    public Task<WishEnd> SettleAsync(Guid id, bool stop, Asker by, CancellationToken cancel) => stop ? DropAsync(id, by, cancel) : ApproveAsync(id, by, cancel);

    /// <summary>The second yes, or a supervisor's where a rule asked too often.</summary>
    public async Task<WishEnd> ApproveAsync(Guid id, Asker by, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        if (await HoldAsync(db, id, cancel) is not { } held)
        {
            return WishEnd.No(404, "There is no such instruction.");
        }

        if (held.Waits is not (InstructionWait.SecondYes or InstructionWait.Limit) || held.State != InstructionState.Asked)
        {
            return WishEnd.No(409, $"It does not wait for a yes: it is {held.State.Name()}.", held);
        }

        var may = held.Waits == InstructionWait.Limit ? by.Role == "supervisor" : Kind(held, around) is { } kind && May(by, kind, around, offered: false);
        if (!may || (held.Waits == InstructionWait.SecondYes && (held.By == by.Name && held.Person == by.Person)))
        {
            return WishEnd.No(403, may ? "Whoever asks cannot say the second yes: it takes another person." : "You may not say yes to this.", held);
        }

        held.Go(clock.GetCurrentInstant(), by.Name);
        await KeepAsync(db, transaction, cancel);
        return new WishEnd(held, 200, null, []);
    }

    /// <summary>Stops one before it goes.</summary>
    public async Task<WishEnd> DropAsync(Guid id, Asker by, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        if (await HoldAsync(db, id, cancel) is not { } held)
        {
            return WishEnd.No(404, "There is no such instruction.");
        }

        var own = held.Person is not null ? held.Person == by.Person : held.RuleId is null && held.By == by.Name;
        if (
            !own
            && by.Role != "supervisor"
            && !(held.Waits == InstructionWait.SecondYes && Kind(held, around) is { } kind && May(by, kind, around, offered: false))
        )
        {
            return WishEnd.No(403, "Only whoever asked, or a supervisor, can stop it.", held);
        }

        if (!held.Drop(clock.GetCurrentInstant(), $"stopped by {by.Name}"))
        {
            return WishEnd.No(
                409,
                held.State == InstructionState.Asked ? "It has gone to the order system and cannot be called back." : $"It is {held.State.Name()} already.",
                held
            );
        }

        await KeepAsync(db, transaction, cancel);
        return new WishEnd(held, 200, null, []);
    }

    /// <summary>The kind of an instruction as its source takes it; <see langword="null"/> where it does so no more.</summary>
    public static InstructionKind? Kind(Instruction instruction, Surroundings around) =>
        InstructionKinds.Find(instruction.Kind) ?? around.Taking.GetValueOrDefault(instruction.Source)?.Kinds.GetValueOrDefault(instruction.Kind);

    /// <summary>What an instruction does, as a clause.</summary>
    public static string Clause(string kind, JsonObject with, Surroundings around) => around.Kind(kind)?.Clause(with, around.NameOf) ?? kind;

    /// <summary>Waits for the lane, which is this transaction's until it ends.</summary>
    /// <returns>The place of what is asked next in it.</returns>
    internal static async Task<long> LockAsync(SirenaDb db, string lane, CancellationToken cancel) => (await LockAsync(db, [lane], 1, cancel))[0];

    // Several lanes always in the same order, so that no two wait for each other; the places are drawn when all are locked.
    private static Task<List<long>> LockAsync(SirenaDb db, string[] lanes, int places, CancellationToken cancel)
    {
        string[] named = [.. lanes.Select(l => "instructions " + l)];
        return db
            .Database.SqlQuery<long>(
                $"""
                select nextval('instruction_seq') as "Value" from
                    (select count(*) from (select pg_advisory_xact_lock(lane) from (select distinct hashtextextended(n, 0) lane from unnest({named}) n order by 1) sorted offset 0) each) locked,
                    generate_series(1, {places})
                """
            )
            .ToListAsync(cancel);
    }

    /// <summary>What is under way in some lanes as it is stored, in its order.</summary>
    internal static async Task<List<Instruction>> UnderWayAsync(SirenaDb db, string[] lanes, CancellationToken cancel) =>
        await UnderWayOf(db, lanes).ToListAsync(cancel);

    /// <summary>Adds one to the transaction in hand, at its place among all. Its lane is locked.</summary>
    internal static Instruction Add(SirenaDb db, InstructionDraft draft, long seq) => db.Instructions.Add(draft.Build(seq)).Entity;

    internal static InstructionDraft Make(TakingSource taking, string lane, InstructionAsk ask, Instant now, string? because) =>
        new(taking, lane, ask, now, because);

    private async Task KeepAsync(SirenaDb db, IDbContextTransaction transaction, CancellationToken cancel)
    {
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Instructions);
        signals.Raise(Topic.Pages);
    }

    private static async Task<Instruction?> HoldAsync(SirenaDb db, Guid id, CancellationToken cancel) =>
        (await db.Instructions.FromSql($"select * from instructions where id = {id} for update").ToListAsync(cancel)).FirstOrDefault();

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
