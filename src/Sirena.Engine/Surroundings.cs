using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Engine.Instructions;
using Sirena.Storage;

namespace Sirena.Engine;

/// <summary>What deciding and the pages need to know beside the event: the business, its people and places, its statuses, the names of its rules.</summary>
public sealed record Surroundings(
    Business Business,
    StaffDirectory Staff,
    IReadOnlyList<Status> Statuses,
    IReadOnlyDictionary<string, string> Rules,
    IReadOnlyList<EventKind> Events,
    IReadOnlyList<Gateway> Gateways
)
{
    /// <summary>The names and addresses that mail comes from.</summary>
    public IReadOnlyList<Sender> Senders { get; init; } = [];

    /// <summary>The gateways as they are used: those that are set up, and the mail server of the settings where no mail gateway is.</summary>
    public IReadOnlyList<Gateway> AllGateways { get; } =
        Gateways.Any(g => g is { Channel: Channel.Mail, On: true }) ? Gateways : [MailOfSettings(Business), .. Gateways];

    private static Gateway MailOfSettings(Business business) =>
        new()
        {
            Id = Gateway.OfSettings,
            Channel = Channel.Mail,
            Name = $"mail {business.MailServer}",
            Address = business.MailServer,
            FailingSince = business.MailFailingSince,
            LastError = business.MailLastError,
            LastGoodAt = business.MailLastGoodAt,
        };

    /// <summary>The wordings that were changed or are the supervisor's own, by id; the shipped ones stand behind them.</summary>
    public IReadOnlyDictionary<string, Wording> Wordings { get; init; } = new Dictionary<string, Wording>();

    /// <summary>A wording by its id, or <see langword="null"/>.</summary>
    public Wording? Wording(string id) => Wordings.GetValueOrDefault(id) ?? ShippedWordings.Find(id);

    /// <summary>Every wording as it is in force: the business's own, then those that ship.</summary>
    public IEnumerable<Wording> AllWordings =>
        Wordings.Values.Concat(ShippedWordings.All.Where(w => !Wordings.ContainsKey(w.Id))).OrderBy(w => w.Id, StringComparer.Ordinal);

    /// <summary>
    /// The texts for an audience: those of the wording that a rule names, else those of the one for the event, else the general ones. No audience reads what
    /// was written for another.
    /// </summary>
    public WordingParts TextsFor(string? id, string type, Audience audience, string? language) =>
        (id is null ? null : Wording(id)?.For(audience, language)?.Parts)
        ?? Wording(ShippedWordings.IdFor(type))?.For(audience, language)?.Parts
        ?? Wording(ShippedWordings.General)!.For(audience, language)?.Parts
        ?? ShippedWordings.Find(ShippedWordings.General)!.For(audience, language)!.Parts;

    /// <summary>
    /// The language in which somebody reads: the customer's as the order says, a person's own; <see langword="null"/> where neither is known.
    /// </summary>
    public static string? LanguageOf(Audience audience, Person? person, Facts facts) =>
        audience switch
        {
            Audience.Customer => facts.CustomerLanguage,
            Audience.Staff => person?.Language,
            _ => null,
        };

    /// <summary>What messages look like.</summary>
    public Branding Branding =>
        new(
            Business.BrandColour,
            Branding.Filled(Business.BrandHeader, Business.Name),
            Branding.Filled(Business.BrandFooter, Business.Name),
            Business.Logo is null ? null : "cid:logo"
        )
        {
            Accent = Business.BrandAccent,
        };

    /// <summary>What texts name people, places and statuses by.</summary>
    public TextNames TextNames => new(NameOf, id => Status(id)?.CustomerSees ?? "", Staff.ByCode) { Own = Business.OwnFields };

    /// <summary>The fields of the business's own that lists show of an order, with their values.</summary>
    public IReadOnlyList<(OwnField Field, string Value)> OwnOf(Order order)
    {
        OwnField[] shown = [.. Listed];
        if (shown.Length == 0)
        {
            return [];
        }

        using var document = JsonDocument.Parse(order.Document);
        return [.. OwnField.Of(document.RootElement, shown)];
    }

    /// <summary>Their values alone: <c>N3</c>; empty for none.</summary>
    public string OwnValuesOf(Order? order) => order is null ? "" : string.Join(", ", OwnOf(order).Select(o => o.Value));

    /// <summary>By what orders are found, in the words of the business: <c>number, customer, berth</c>.</summary>
    public string FoundBy => string.Join(", ", ["number", "customer", .. Listed.Select(f => OwnField.Inside(f.Name))]);

    private IEnumerable<OwnField> Listed => Business.OwnFields.Where(f => f.InLists);

    /// <summary>The sources that take instructions, by id.</summary>
    public IReadOnlyDictionary<string, TakingSource> Taking { get; init; } = new Dictionary<string, TakingSource>();

    /// <summary>
    /// The source that takes instructions for an order: of those that have told of it the last that takes any; <see langword="null"/> where none does.
    /// </summary>
    public TakingSource? TakingOf(Order order) => order.ToldBy.Reverse().Select(s => Taking.GetValueOrDefault(s)).FirstOrDefault(t => t is not null);

    /// <summary>Every kind of instruction that some source takes, by name.</summary>
    public IReadOnlyDictionary<string, InstructionKind> KindsTaken =>
        Taking.Values.SelectMany(t => t.Kinds.Values).DistinctBy(k => k.Name).ToDictionary(k => k.Name);

    /// <summary>The kinds of instructions: those that Sirena knows, then those of the business's own that some source takes.</summary>
    public IEnumerable<InstructionKind> Kinds => InstructionKinds.All.Concat(KindsTaken.Values.Where(k => k.Own));

    /// <summary>The kind of a name, or <see langword="null"/> where Sirena does not know it and no source takes it.</summary>
    public InstructionKind? Kind(string name) =>
        InstructionKinds.Find(name) ?? Taking.Values.Select(t => t.Kinds.GetValueOrDefault(name)).FirstOrDefault(k => k is not null);

    /// <summary>Rules in plain sentences, with the names, the time zone and the currency of the business.</summary>
    public RuleSentence Sentences => new(NameOf, Business.Zone, Business.Currency);

    /// <summary>The pauses that hold.</summary>
    public IReadOnlyList<Pause> Pauses { get; init; } = [];

    /// <summary>The pause that holds back a rule's case at a moment, the longest of several; <see langword="null"/> for none.</summary>
    public Pause? PauseOf(string rule, IEnumerable<Recipient> tell, Instant now) =>
        Pauses.Count == 0 ? null : Pauses.Where(p => !p.Over(now) && p.Holds(rule, tell)).MaxBy(p => p.Until);

    /// <summary>The hours of work that hold for a step: those of the first team that it tells and that has hours of its own, else the business's.</summary>
    public WorkingHours HoursOf(LadderStep step)
    {
        var team = step.Tell.Select(r => r.OfTeam).OfType<string>().Select(Staff.Team).FirstOrDefault(t => t is { Hours.Count: > 0 });
        return new WorkingHours(team?.Hours ?? Business.Hours, holidays, Business.Zone);
    }

    /// <summary>The channels by which messages can go: mail, push, screen and ticket always, the others once a gateway is set up.</summary>
    public IReadOnlySet<Channel> Reachable =>
        Gateways
            .Where(g => g.On)
            .Select(g => g.Channel)
            .Append(Channel.Mail)
            .Concat(ChannelTraits.All.Where(t => !t.ByGateway).Select(t => t.Channel))
            .ToHashSet();

    private readonly HashSet<LocalDate> holidays = [.. Business.Holidays.Select(h => h.Date)];
    private readonly Dictionary<string, Status> byId = Statuses.ToDictionary(s => s.Id);
    private readonly Dictionary<string, EventKind> byType = Events.ToDictionary(e => e.Type);

    /// <summary>The order system's words for the statuses.</summary>
    public StatusWords Words { get; } = new(Statuses);

    /// <summary>Every event that a rule can listen to: those that Sirena knows, then the business's own.</summary>
    public IEnumerable<string> EventTypesKnown => EventTypes.All.Concat(byType.Keys.Order(StringComparer.Ordinal));

    /// <summary>An event's short name.</summary>
    public string EventName(string type) => byType.TryGetValue(type, out var kind) ? kind.Name : EventTypes.Name(type);

    /// <summary>The clause after 'When'.</summary>
    public string EventPhrase(string type) => byType.TryGetValue(type, out var kind) ? kind.Phrase : EventTypes.Phrase(type);

    /// <summary>The status of that id, or <see langword="null"/>.</summary>
    public Status? Status(string? id) => id is not null && byId.TryGetValue(id, out var status) ? status : null;

    /// <summary>The name of a rule by its id, archived ones as last saved.</summary>
    public string RuleName(string id) => Rules.GetValueOrDefault(id) ?? Decide.OwnRules.NameOf(id) ?? id;

    /// <summary>
    /// The name of a person, team, site or status by its id, the phrase of an event of the business's own by its type; the id where it is none of these.
    /// </summary>
    public string NameOf(string id) => Status(id)?.Name ?? (byType.TryGetValue(id, out var kind) ? kind.Phrase : Staff.NameOf(id));
}

/// <summary>Keeps the surroundings between uses: at most a few seconds, and never past a change that this node made or heard of.</summary>
public sealed class SurroundingsCache : IDisposable
{
    private readonly IDbContextFactory<SirenaDb> factory;
    private readonly SetupKept<Surroundings> kept;
    private readonly SemaphoreSlim one = new(1);

    /// <summary>
    /// The surroundings as last read, however long ago; <see langword="null"/> when nothing was read since the last change that this node made or heard of.
    /// </summary>
    public Surroundings? Last => kept.Last;

    // Working out repetitions is dear and rotas change seldom: they are read again only when one was changed.
    private (long Version, string Zone, Rota Rota)? rota;

    /// <summary>A cache that forgets on every signal of <see cref="Topic.Setup"/>.</summary>
    public SurroundingsCache(IDbContextFactory<SirenaDb> factory, Signals signals, IClock clock) =>
        (this.factory, kept) = (factory, new SetupKept<Surroundings>(signals, clock, Duration.FromSeconds(5)));

    /// <summary>The surroundings as of now.</summary>
    public async Task<Surroundings> GetAsync(CancellationToken cancel)
    {
        if (kept.Fresh is { } fresh)
        {
            return fresh;
        }

        await one.WaitAsync(cancel);
        try
        {
            if (kept.Fresh is { } other)
            {
                return other;
            }

            var begun = kept.Begin();
            await using var db = await factory.CreateDbContextAsync(cancel);
            var business = await db.Businesses.AsNoTracking().SingleAsync(cancel);
            if (rota is null || rota.Value.Version != business.RotaVersion || rota.Value.Zone != business.TimeZone)
            {
                rota = (
                    business.RotaVersion,
                    business.TimeZone,
                    new Rota(await db.Shifts.AsNoTracking().OrderBy(s => s.Id).ToListAsync(cancel), business.Zone)
                );
            }

            var staff = new StaffDirectory(
                (await db.People.AsNoTracking().ToListAsync(cancel)).Select(p => p.InOrder()),
                await db.Teams.AsNoTracking().ToListAsync(cancel),
                await db.Sites.AsNoTracking().ToListAsync(cancel),
                rota.Value.Rota
            )
            {
                Refused = (await db.CustomerRefusals.AsNoTracking().ToListAsync(cancel)).Select(r => $"{r.Channel.Name()} {r.Address}").ToHashSet(),
            };
            var versions = await db
                .RuleVersions.AsNoTracking()
                .Select(v => new
                {
                    v.RuleId,
                    v.Version,
                    v.Name,
                })
                .ToListAsync(cancel);
            var made = new Surroundings(
                business,
                staff,
                await db.Statuses.AsNoTracking().OrderBy(s => s.Position).ToListAsync(cancel),
                versions.GroupBy(v => v.RuleId).ToDictionary(g => g.Key, g => g.MaxBy(v => v.Version)!.Name),
                await db.EventKinds.AsNoTracking().OrderBy(k => k.Type).ToListAsync(cancel),
                await db.Gateways.AsNoTracking().OrderBy(g => g.Channel).ThenBy(g => g.Position).ToListAsync(cancel)
            )
            {
                Wordings = (await db.Wordings.AsNoTracking().ToListAsync(cancel)).ToDictionary(w => w.Id, w => new Wording(w.Id, w.Name, [.. w.Texts])),
                Pauses = await db.Pauses.AsNoTracking().Where(p => p.EndedAt == null).OrderBy(p => p.Id).ToListAsync(cancel),
                Taking = (await db.Sources.AsNoTracking().Where(s => s.RemovedAt == null && s.On && s.Takes.Length > 0).ToListAsync(cancel)).ToDictionary(
                    s => s.Id,
                    TakingSource.Of
                ),
                Senders = await db.Senders.AsNoTracking().OrderBy(s => s.Id).ToListAsync(cancel),
            };
            return kept.Keep(made, begun);
        }
        finally
        {
            one.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose() => one.Dispose();
}
