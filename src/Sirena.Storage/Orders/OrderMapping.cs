using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Storage.Orders;

internal sealed class OrderMapping : IEntityTypeConfiguration<Order>
{
    public void Configure(EntityTypeBuilder<Order> order)
    {
        order.ToTable("orders");
        order.HasKey(o => o.Number);
        // json, not jsonb: documents are read whole and never searched, and a text that is only checked is stored for a third of the work.
        order.Property(o => o.Document).HasColumnType("json");
        order.Property(o => o.Times).HasColumnType("json");
        order.Property(o => o.Risk).HasConversion<short>();
        order.Property(o => o.ToldBy).HasDefaultValueSql("'{}'");

        // The Orders page: open ones by due time, a page at a time, and their counts by status without a look at the rows.
        order.HasIndex(o => new { o.DueAt, o.Number }, "ix_orders_open_due").HasFilter("open").IncludeProperties(o => o.Status);
        // A closed status and a search for a common word run down this one; a rare word goes through the trigrams. The planner knows which.
        order.HasIndex(o => new { o.DueAt, o.Number }, "ix_orders_due");
        order.HasIndex(o => o.Risk).HasFilter("open and risk >= 2").HasDatabaseName("ix_orders_open_risk");
        order.HasIndex(o => o.HoldReason).HasFilter("open and hold_reason is not null").HasDatabaseName("ix_orders_open_held");
        order.HasIndex(o => o.Search).HasMethod("gin").HasOperators("gin_trgm_ops").HasDatabaseName("ix_orders_search");
    }
}

internal sealed class EventMapping : IEntityTypeConfiguration<OrderEvent>
{
    public void Configure(EntityTypeBuilder<OrderEvent> happened)
    {
        happened.ToTable("events");
        happened.HasKey(e => e.Id);
        happened.Property(e => e.Id).UseIdentityAlwaysColumn();
        happened.Property(e => e.Crowd).HasDefaultValue(false);
        happened.Property(e => e.DecidedLate).HasDefaultValue(false);
        happened.Property(e => e.Data).HasColumnType("json");
        happened.Property(e => e.OrderBefore).HasColumnType("json");
        happened.Property(e => e.OrderAfter).HasColumnType("json");
        happened.Property(e => e.Tell).AsJsonOrNull();
        happened.Ignore(e => e.DataJson).Ignore(e => e.Before).Ignore(e => e.After);
        happened.HasIndex(e => new { e.Source, e.EventId }).IsUnique();
        happened.HasIndex(e => new { e.OrderNumber, e.Seq }).HasFilter("order_number is not null");
        // Rehearsals read a period. Events grow with time, so a block range index costs next to nothing at intake.
        happened.HasIndex(e => e.Received).HasMethod("brin").HasDatabaseName("ix_events_received");
        happened.HasIndex(e => e.Id).HasFilter("decided_at is null").HasDatabaseName("ix_events_undecided");
        happened.HasIndex(e => e.Id, "ix_events_lone").HasFilter("decided_at is null and not crowd");
        happened.HasIndex(e => e.Subject).HasFilter("decided_at is null and order_number is null").HasDatabaseName("ix_events_undecided_subject");
        happened.HasIndex(e => e.SetAsideAt).HasFilter("set_aside_at is not null").HasDatabaseName("ix_events_aside");
    }
}

internal sealed class StatusMapping : IEntityTypeConfiguration<Status>
{
    public void Configure(EntityTypeBuilder<Status> status)
    {
        status.ToTable("statuses");
        status.Property(s => s.Follows).HasDefaultValueSql("'{}'");
    }
}

internal sealed class EventKindMapping : IEntityTypeConfiguration<EventKind>
{
    public void Configure(EntityTypeBuilder<EventKind> kind)
    {
        kind.ToTable("event_kinds");
        kind.HasKey(k => k.Type);
    }
}

internal sealed class SeenFieldMapping : IEntityTypeConfiguration<SeenField>
{
    public void Configure(EntityTypeBuilder<SeenField> field)
    {
        field.ToTable("seen_fields");
        field.HasKey(f => f.Path);
    }
}
