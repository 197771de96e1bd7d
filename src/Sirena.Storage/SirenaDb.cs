using Microsoft.AspNetCore.DataProtection.EntityFrameworkCore;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Notices;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Sources;
using Sirena.Core.Wordings;
using Sirena.Storage.Access;
using Sirena.Storage.Deliveries;
using Sirena.Storage.People;
using Sirena.Storage.Rules;
using Sirena.Storage.Sources;

namespace Sirena.Storage;

/// <summary>The database. The Core's own types are mapped; the folders beside this file hold their mappings.</summary>
public sealed class SirenaDb(DbContextOptions<SirenaDb> options) : IdentityUserContext<User, Guid>(options), IDataProtectionKeyContext
{
    public DbSet<Business> Businesses => Set<Business>();

    public DbSet<Order> Orders => Set<Order>();

    public DbSet<OrderEvent> Events => Set<OrderEvent>();

    public DbSet<EventKind> EventKinds => Set<EventKind>();

    public DbSet<SeenField> SeenFields => Set<SeenField>();

    public DbSet<Status> Statuses => Set<Status>();

    public DbSet<RuleVersion> RuleVersions => Set<RuleVersion>();

    public DbSet<KeptDraft> KeptDrafts => Set<KeptDraft>();

    public DbSet<RuleBookVersion> RuleBook => Set<RuleBookVersion>();

    public DbSet<Match> Matches => Set<Match>();

    public DbSet<Person> People => Set<Person>();

    public DbSet<Team> Teams => Set<Team>();

    public DbSet<Site> Sites => Set<Site>();

    public DbSet<Shift> Shifts => Set<Shift>();

    public DbSet<ContactCode> ContactCodes => Set<ContactCode>();

    public DbSet<Alert> Alerts => Set<Alert>();

    public DbSet<AlertStep> AlertSteps => Set<AlertStep>();

    public DbSet<StoredWording> Wordings => Set<StoredWording>();

    public DbSet<Pause> Pauses => Set<Pause>();

    public DbSet<SharedLadder> Ladders => Set<SharedLadder>();

    public DbSet<Notice> Notices => Set<Notice>();

    public DbSet<NotePicture> NotePictures => Set<NotePicture>();

    public DbSet<MessageFile> MessageFiles => Set<MessageFile>();

    public DbSet<Answer> Answers => Set<Answer>();

    public DbSet<Delivery> Deliveries => Set<Delivery>();

    public DbSet<Gateway> Gateways => Set<Gateway>();

    public DbSet<Sender> Senders => Set<Sender>();

    public DbSet<PushSubscription> PushSubscriptions => Set<PushSubscription>();

    public DbSet<Schedule> Schedules => Set<Schedule>();

    public DbSet<DailyFigure> DailyFigures => Set<DailyFigure>();

    public DbSet<MarkedMessage> MarkedMessages => Set<MarkedMessage>();

    public DbSet<CustomerRefusal> CustomerRefusals => Set<CustomerRefusal>();

    public DbSet<GatewaySpend> GatewaySpend => Set<GatewaySpend>();

    public DbSet<SeenCall> SeenCalls => Set<SeenCall>();

    /// <summary>Who is signed in.</summary>
    public DbSet<Session> Sessions => Set<Session>();

    /// <summary>Receipts that came before the outcome of their message.</summary>
    public DbSet<EarlyReceipt> EarlyReceipts => Set<EarlyReceipt>();

    public DbSet<AnswerLink> AnswerLinks => Set<AnswerLink>();

    public DbSet<Message> Messages => Set<Message>();

    public DbSet<Attempt> Attempts => Set<Attempt>();

    public DbSet<Receipt> Receipts => Set<Receipt>();

    public DbSet<Source> Sources => Set<Source>();

    public DbSet<ReadingVersion> Readings => Set<ReadingVersion>();

    public DbSet<ArrivedBody> Arrivals => Set<ArrivedBody>();

    public DbSet<ListingRun> ListingRuns => Set<ListingRun>();

    public DbSet<ListingRowKept> ListingRows => Set<ListingRowKept>();

    public DbSet<MissedOrder> MissedOrders => Set<MissedOrder>();

    public DbSet<SourceHour> SourceHours => Set<SourceHour>();

    public DbSet<Instruction> Instructions => Set<Instruction>();

    public DbSet<InstructionAttempt> InstructionAttempts => Set<InstructionAttempt>();

    public DbSet<SourceKey> SourceKeys => Set<SourceKey>();

    public DbSet<ApiToken> ApiTokens => Set<ApiToken>();

    public DbSet<OneTimeLink> OneTimeLinks => Set<OneTimeLink>();

    public DbSet<AuditEntry> Audit => Set<AuditEntry>();

    public DbSet<DataProtectionKey> DataProtectionKeys => Set<DataProtectionKey>();

    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.HasPostgresExtension("pg_trgm");
        builder.HasSequence<long>("instruction_seq");
        builder.ApplyConfigurationsFromAssembly(typeof(SirenaDb).Assembly);
    }

    protected override void ConfigureConventions(ModelConfigurationBuilder configuration)
    {
        base.ConfigureConventions(configuration);
        Named<FieldType>(configuration);
        Named<Urgency>(configuration);
        Named<Outcome>(configuration);
        Named<AlertState>(configuration);
        Named<AnswerKind>(configuration);
        Named<StepCause>(configuration);
        Named<DeliveryState>(configuration);
        Named<AttemptOutcome>(configuration);
        Named<Channel>(configuration);
        Named<Audience>(configuration);
        Named<Role>(configuration);
        Named<SourceKind>(configuration);
        Named<StatusKind>(configuration);
        Named<ArrivalState>(configuration);
        Named<RunState>(configuration);
        Named<MissedKind>(configuration);
        Named<InstructionState>(configuration);
        Named<InstructionWait>(configuration);
    }

    private static void Named<T>(ModelConfigurationBuilder configuration)
        where T : struct, Enum => configuration.Properties<T>().HaveConversion<NameConverter<T>>();
}
