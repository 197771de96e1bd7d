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

        // The queue: what is due, by channel.
        delivery.HasIndex(d => new { d.Channel, d.DueAt }).HasFilter("state = 'waiting'").HasDatabaseName("ix_deliveries_due");

        // Receipts name a delivery by the far end's id; a chain ends when one of it lands.
        delivery.HasIndex(d => d.FarId).HasFilter("far_id is not null");
        delivery.HasIndex(d => d.Chain).HasFilter("chain is not null");

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

internal sealed class GatewayMapping : IEntityTypeConfiguration<Gateway>
{
    public void Configure(EntityTypeBuilder<Gateway> gateway)
    {
        gateway.ToTable("gateways");
        gateway.Property(g => g.Headers).HasColumnType("jsonb").AsJson();
    }
}

internal sealed class AnswerLinkMapping : IEntityTypeConfiguration<AnswerLink>
{
    public void Configure(EntityTypeBuilder<AnswerLink> link)
    {
        link.ToTable("answer_links");
        link.HasKey(l => l.Hash);
        link.HasOne<Alert>().WithMany().HasForeignKey(l => l.AlertId).OnDelete(DeleteBehavior.Restrict);

        // A reply is looked up by the number it came from and its code.
        link.HasIndex(l => new { l.Contact, l.Code });
    }
}

/// <summary>The id of a call that came from a gateway, kept for a day so that a repeat does nothing.</summary>
public sealed class SeenCall
{
    /// <summary>The gateway's id.</summary>
    public required string Gateway { get; init; }

    /// <summary>The call's id.</summary>
    public required string CallId { get; init; }

    /// <summary>When it came.</summary>
    public NodaTime.Instant At { get; init; }
}

internal sealed class SeenCallMapping : IEntityTypeConfiguration<SeenCall>
{
    public void Configure(EntityTypeBuilder<SeenCall> call)
    {
        call.ToTable("seen_calls");
        call.HasKey(c => new { c.Gateway, c.CallId });
    }
}
