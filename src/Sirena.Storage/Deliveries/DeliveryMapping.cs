using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;

namespace Sirena.Storage.Deliveries;

internal sealed class DeliveryMapping : IEntityTypeConfiguration<Delivery>
{
    public void Configure(EntityTypeBuilder<Delivery> delivery)
    {
        delivery.ToTable("deliveries");
        delivery.Property(d => d.Id).ValueGeneratedNever();
        delivery.HasOne<Alert>().WithMany().HasForeignKey(d => d.AlertId).OnDelete(DeleteBehavior.Restrict);
        delivery.HasIndex(d => d.AlertId);
        delivery.HasIndex(d => new { d.OrderNumber, d.CreatedAt });

        delivery.Ignore(d => d.Stands);
        delivery.Property(d => d.Audience).HasDefaultValue(Core.People.Audience.Staff).HasSentinel(Core.People.Audience.Staff);

        delivery.Property(d => d.PassedOver).HasColumnType("text[]").HasDefaultValueSql("'{}'");
        delivery.Property(d => d.Urgent).HasDefaultValue(false);
        delivery.Property(d => d.Bare).HasDefaultValue(false);

        // The queue: what is due, by channel, urgent ones by themselves.
        delivery
            .HasIndex(d => new
            {
                d.Channel,
                d.Urgent,
                d.DueAt,
            })
            .HasFilter("state = 'waiting'")
            .HasDatabaseName("ix_deliveries_due");

        // What is still gathered into.
        delivery.HasIndex(d => d.GathersUntil).HasFilter("gathers_until is not null and state = 'waiting'").HasDatabaseName("ix_deliveries_gathering");

        delivery.HasIndex(d => d.PausedBy).HasFilter("paused_by is not null");

        // Receipts name a delivery by the far end's id; a chain ends when one of it lands.
        delivery.HasIndex(d => d.FarId).HasFilter("far_id is not null");
        delivery.HasIndex(d => d.Chain).HasFilter("chain is not null");

        // The ledger: newest first, and its counts by state and channel without touching the rows.
        delivery
            .HasIndex(d => new { d.CreatedAt, d.Id })
            .IncludeProperties(d => new
            {
                d.State,
                d.Channel,
                d.Answered,
            })
            .HasDatabaseName("ix_deliveries_ledger");
        delivery
            .HasIndex(d => new
            {
                d.State,
                d.CreatedAt,
                d.Id,
            })
            .HasDatabaseName("ix_deliveries_state");
        delivery
            .HasIndex(d => new
            {
                d.Person,
                d.CreatedAt,
                d.Id,
            })
            .HasDatabaseName("ix_deliveries_person");
    }
}

internal sealed class MessageMapping : IEntityTypeConfiguration<Message>
{
    public void Configure(EntityTypeBuilder<Message> message)
    {
        message.ToTable("messages");
        message.HasKey(m => m.DeliveryId);
        message.Property(m => m.Files).HasDefaultValue(0);
        message.HasOne<Delivery>().WithOne().HasForeignKey<Message>(m => m.DeliveryId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class MessageFileMapping : IEntityTypeConfiguration<MessageFile>
{
    public void Configure(EntityTypeBuilder<MessageFile> file)
    {
        file.ToTable("message_files");
        file.HasKey(f => new { f.DeliveryId, f.Number });
        file.HasOne<Delivery>().WithMany().HasForeignKey(f => f.DeliveryId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class AttemptMapping : IEntityTypeConfiguration<Attempt>
{
    public void Configure(EntityTypeBuilder<Attempt> attempt)
    {
        attempt.ToTable("attempts");
        attempt.HasKey(a => new { a.DeliveryId, a.Number });
        attempt.HasOne<Delivery>().WithMany().HasForeignKey(a => a.DeliveryId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class ReceiptMapping : IEntityTypeConfiguration<Receipt>
{
    public void Configure(EntityTypeBuilder<Receipt> receipt)
    {
        receipt.ToTable("receipts");
        receipt.HasOne<Delivery>().WithMany().HasForeignKey(r => r.DeliveryId).OnDelete(DeleteBehavior.Restrict);
        receipt.HasIndex(r => r.DeliveryId);
    }
}

internal sealed class GatewayMapping : IEntityTypeConfiguration<Gateway>
{
    public void Configure(EntityTypeBuilder<Gateway> gateway)
    {
        gateway.ToTable("gateways");
        gateway.Property(g => g.Headers).HasColumnType("jsonb").AsJson();
    }
}

internal sealed class SenderMapping : IEntityTypeConfiguration<Sender>
{
    public void Configure(EntityTypeBuilder<Sender> sender)
    {
        sender.ToTable("senders");
        sender.Property(s => s.Purposes).HasColumnType("jsonb").AsJson();
        sender.Property(s => s.Gateways).HasColumnType("jsonb").AsJson();
    }
}

internal sealed class PushSubscriptionMapping : IEntityTypeConfiguration<PushSubscription>
{
    public void Configure(EntityTypeBuilder<PushSubscription> subscription)
    {
        subscription.ToTable("push_subscriptions");
        subscription.HasKey(s => s.Endpoint);
        subscription.HasIndex(s => s.Person);
    }
}

internal sealed class ScheduleMapping : IEntityTypeConfiguration<Schedule>
{
    public void Configure(EntityTypeBuilder<Schedule> schedule)
    {
        schedule.ToTable("schedules");
        schedule.HasIndex(s => s.NextAt);
    }
}
