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

        // The queue: what is due, by channel.
        delivery.HasIndex(d => new { d.Channel, d.DueAt }).HasFilter("state in ('waiting','sending')").HasDatabaseName("ix_deliveries_due");

        // The ledger: newest first, and its counts by state and channel without touching the rows.
        delivery.HasIndex(d => new { d.CreatedAt, d.Id }).IncludeProperties(d => new { d.State, d.Channel, d.Answered }).HasDatabaseName("ix_deliveries_ledger");
        delivery.HasIndex(d => new { d.State, d.CreatedAt, d.Id }).HasDatabaseName("ix_deliveries_state");
        delivery.HasIndex(d => new { d.Person, d.CreatedAt, d.Id }).HasDatabaseName("ix_deliveries_person");
    }
}

internal sealed class MessageMapping : IEntityTypeConfiguration<Message>
{
    public void Configure(EntityTypeBuilder<Message> message)
    {
        message.ToTable("messages");
        message.HasKey(m => m.DeliveryId);
        message.HasOne<Delivery>().WithOne().HasForeignKey<Message>(m => m.DeliveryId).OnDelete(DeleteBehavior.Restrict);
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
