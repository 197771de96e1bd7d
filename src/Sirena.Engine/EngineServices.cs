using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.DependencyInjection.Extensions;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Channels.Push;
using Sirena.Engine.Decide;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Instructions;
using Sirena.Engine.Intake;
using Sirena.Engine.Ladders;
using Sirena.Engine.Notices;
using Sirena.Engine.Orders;
using Sirena.Engine.People;
using Sirena.Engine.Rules;
using Sirena.Engine.Schedules;
using Sirena.Engine.Sources;
using Sirena.Engine.Trail;
using Sirena.Storage;
using Sirena.Storage.Deliveries;
using Sirena.Storage.Instructions;
using Sirena.Storage.Orders;
using Sirena.Storage.People;
using Sirena.Storage.Sources;

namespace Sirena.Engine;

/// <summary>Registers the pipeline.</summary>
public static class EngineServices
{
    /// <summary>The database, and all that works on it without a page.</summary>
    /// <param name="services">The services.</param>
    /// <param name="connectionString">A PostgreSQL connection string.</param>
    /// <param name="machine">The machine's clock, or a fixed one for pictures.</param>
    /// <param name="reports">Where this node takes reports about mail, or <see langword="null"/> for nowhere.</param>
    public static IServiceCollection AddSirenaEngine(
        this IServiceCollection services,
        string connectionString,
        IClock machine,
        System.Net.IPEndPoint? reports = null
    )
    {
        services.AddSingleton(new ReportEndpoint(reports));
        services.AddSirenaDatabase(connectionString);
        services.TryAddSingleton(TimeProvider.System);
        services.AddSingleton(new NodeClock(machine));
        services.AddSingleton<IClock>(provider => provider.GetRequiredService<NodeClock>());
        services.AddSingleton<Signals>();
        services.AddSingleton<SurroundingsCache>();
        services.AddSingleton<RuleShelf>();
        services.AddSingleton<RuleDesk>();
        services.AddSingleton<PeopleDesk>();
        services.AddSingleton<RotaDesk>();
        services.AddSingleton<WhoDesk>();
        services.AddSingleton<RehearsalDesk>();
        services.AddSingleton<DraftTrial>();
        services.AddSingleton<GatewayDesk>();
        services.AddSingleton<LaterNews>();
        services.AddSingleton<MarkedMessages>();
        services.AddSingleton<GatewayTests>();
        services.AddSingleton<MyTrial>();
        services.AddSingleton<ReturnedMail>();
        services.AddSingleton<PushBook>();
        services.AddSingleton(provider => new PushGateway(provider.GetRequiredService<OutsideHosts>(), provider.GetRequiredService<PushBook>().FindAsync));
        services.TryAddSingleton(new OutsideHosts([]));
        services.TryAddSingleton(new Sirena.Channels.Mail.SenderRecords(null));
        services.AddSingleton<Spending>();
        services.AddSingleton<SenderDesk>();
        services.AddSingleton<Echo>();
        services.AddSingleton<Upkeep>();
        services.AddSingleton<Summaries>();
        services.AddSingleton<AlertLives>();
        services.AddSingleton<AnswerDesk>();
        services.AddSingleton<PauseDesk>();
        services.AddSingleton<SharedLadders>();
        services.AddSingleton<NoticeDesk>();
        services.AddSingleton<NoteDesk>();
        services.AddSingleton<Wordings.WordingDesk>();
        services.AddSingleton<ReceiptDesk>();
        services.AddSingleton<StatusDesk>();
        services.AddSingleton<StatusFlows>();
        services.AddSingleton<FieldWatch>();
        services.AddSingleton<ContactPoints>();
        services.AddSingleton<OwnNews>();
        services.AddScoped<TrailReader>();
        services.AddSingleton<EventIntake>();
        services.AddSingleton<PastEvents>();
        services.AddSingleton<DeliveryQueue>();
        services.AddSingleton<Gateways>();
        services.AddSingleton<SecondSending>();
        services.AddSingleton<Channels.Http.FileFetcher>();
        services.AddSingleton<Packer>();
        services.AddSingleton<Dispatcher>();
        services.AddSingleton<InstructionQueue>();
        services.AddSingleton<InstructionDesk>();
        services.AddSingleton<RightsDesk>();
        services.AddSingleton<Consequences>();
        services.AddSingleton<InstructionCalls>();
        services.AddSingleton<InstructionWorker>();
        services.AddSingleton<InstructionWatch>();
        services.AddSingleton<IntakeKeeper>();
        services.AddSingleton<IntakeDesk>();
        services.AddSingleton<Crowds>();
        services.AddSingleton<ArrivalQueue>();
        services.AddSingleton<SourceSecrets>();
        services.AddSingleton<SourceShelf>();
        services.TryAddSingleton(new SourceFolders([]));
        services.AddSingleton<ListFetch>();
        services.AddSingleton<FolderWatch>();
        services.AddSingleton<SourceDesk>();
        services.AddSingleton<SourcePulse>();
        services.AddSingleton<ReadingTrial>();
        services.AddSingleton<SourceFigures>();
        services.AddSingleton<WouldTell>();
        services.AddSingleton<MissedDesk>();
        services.AddSingleton<ListingDesk>();
        services.AddSingleton<MissedDays>();
        services.AddSingleton<FirstDay.FirstDayReader>();
        services.AddSingleton<Intake.RefusedCalls>();
        services.AddSingleton<ArrivalReader>();
        services.AddHostedService(provider => provider.GetRequiredService<SourcePulse>());
        services.AddSingleton<ArrivalDesk>();
        services.AddHostedService(provider => provider.GetRequiredService<ArrivalDesk>());
        services.AddSingleton<IHostedService>(provider => provider.GetRequiredService<IntakeDesk>());
        services.AddSingleton<IHostedService>(provider => provider.GetRequiredService<InstructionDesk>());
        services.AddSingleton<IHostedService>(provider => new ClockWatch(
            provider.GetRequiredService<Npgsql.NpgsqlDataSource>(),
            provider.GetRequiredService<NodeClock>(),
            machine,
            provider.GetRequiredService<ILogger<ClockWatch>>()
        ));
        services.AddHostedService<NodeNews>();
        services.AddHostedService<NodeFigures>();
        services.AddSingleton<DecideWorker>();
        if (machine is SystemClock)
        {
            services.AddHostedService(provider => provider.GetRequiredService<DecideWorker>());
            services.AddSingleton<LadderWorker>();
            services.AddHostedService(provider => provider.GetRequiredService<LadderWorker>());
            services.AddHostedService(provider => provider.GetRequiredService<Spending>());
            services.AddHostedService<GatewayNews>();
            services.AddHostedService<ReportMailbox>();
            services.AddHostedService<ReportPicker>();
            services.AddHostedService<FailedNews>();
            services.AddHostedService<ScheduleWorker>();
            services.AddHostedService<LateNotice>();
            services.AddSingleton<OrderWatch>();
            services.AddHostedService(provider => provider.GetRequiredService<OrderWatch>());
            services.AddHostedService<OffUntil>();
            services.AddHostedService(provider => provider.GetRequiredService<ArrivalReader>());
            services.AddHostedService<SilenceWatch>();
            services.AddHostedService(provider => provider.GetRequiredService<ListFetch>());
            services.AddHostedService(provider => provider.GetRequiredService<FolderWatch>());
            services.AddHostedService(provider => provider.GetRequiredService<FieldWatch>());
            services.AddHostedService(provider => provider.GetRequiredService<Dispatcher>());
            services.AddHostedService(provider => provider.GetRequiredService<InstructionWorker>());
            services.AddHostedService(provider => provider.GetRequiredService<InstructionWatch>());
            services.AddHostedService(provider => provider.GetRequiredService<IntakeKeeper>());
        }

        return services;
    }
}
