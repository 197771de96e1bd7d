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

/// <summary>How many deliveries of a day bore a state, kept when the deliveries themselves are no longer.</summary>
public sealed class DailyFigure
{
    /// <summary>The day, UTC.</summary>
    public NodaTime.LocalDate Day { get; init; }

    /// <summary>The rule's id.</summary>
    public required string RuleId { get; init; }

    /// <summary>The channel.</summary>
    public Channel Channel { get; init; }

    /// <summary>Where they stood.</summary>
    public DeliveryState State { get; init; }

    /// <summary>How many.</summary>
    public int Count { get; set; }
}

internal sealed class DailyFigureMapping : IEntityTypeConfiguration<DailyFigure>
{
    public void Configure(EntityTypeBuilder<DailyFigure> figure)
    {
        figure.ToTable("daily_figures");
        figure.HasKey(f => new
        {
            f.Day,
            f.RuleId,
            f.Channel,
            f.State,
        });
    }
}

/// <summary>A message that Sirena sent to itself or to the supervisor to see whether it comes back: a test or an echo.</summary>
public sealed class MarkedMessage
{
    /// <summary>Its id, the delivery's place in return addresses and receipts.</summary>
    public Guid Id { get; init; }

    /// <summary>The gateway's id, or empty for the mail server of the settings.</summary>
    public required string Gateway { get; init; }

    /// <summary>It is an echo, not a test by hand.</summary>
    public bool Echo { get; init; }

    /// <summary>The far end's id of it.</summary>
    public string? FarId { get; set; }

    /// <summary>When it went.</summary>
    public NodaTime.Instant SentAt { get; init; }

    /// <summary>When something was heard of it.</summary>
    public NodaTime.Instant? BackAt { get; set; }

    /// <summary>Whether it arrived, as far as was heard.</summary>
    public bool? Arrived { get; set; }

    /// <summary>The words of that.</summary>
    public string? Words { get; set; }
}

internal sealed class MarkedMessageMapping : IEntityTypeConfiguration<MarkedMessage>
{
    public void Configure(EntityTypeBuilder<MarkedMessage> marked)
    {
        marked.ToTable("marked_messages");
        marked.Property(m => m.Id).ValueGeneratedNever();
        marked.HasIndex(m => m.FarId);
    }
}

/// <summary>A customer's address that is to be told nothing more: unsubscribed by the link of a mail, or STOP as a reply.</summary>
public sealed class CustomerRefusal
{
    /// <summary>The channel.</summary>
    public Channel Channel { get; init; }

    /// <summary>The address, lower case.</summary>
    public required string Address { get; init; }

    /// <summary>Since when.</summary>
    public NodaTime.Instant Since { get; init; }
}

internal sealed class CustomerRefusalMapping : IEntityTypeConfiguration<CustomerRefusal>
{
    public void Configure(EntityTypeBuilder<CustomerRefusal> refusal)
    {
        refusal.ToTable("customer_refusals");
        refusal.HasKey(r => new { r.Channel, r.Address });
    }
}

/// <summary>What went through a gateway in a month, for its budget.</summary>
public sealed class GatewaySpend
{
    /// <summary>The gateway's id.</summary>
    public required string Gateway { get; init; }

    /// <summary>The month's first day, in the business's time zone.</summary>
    public NodaTime.LocalDate Month { get; init; }

    /// <summary>Segments that it took.</summary>
    public int Segments { get; set; }

    /// <summary>What they cost.</summary>
    public decimal Cost { get; set; }

    /// <summary>The warning that little is left was given.</summary>
    public bool Warned { get; set; }
}

internal sealed class GatewaySpendMapping : IEntityTypeConfiguration<GatewaySpend>
{
    public void Configure(EntityTypeBuilder<GatewaySpend> spend)
    {
        spend.ToTable("gateway_spend");
        spend.HasKey(s => new { s.Gateway, s.Month });
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

/// <summary>A receipt that came before the outcome of its message was stored: it waits for it.</summary>
public sealed class EarlyReceipt
{
    /// <summary>Its number.</summary>
    public long Id { get; init; }

    /// <summary>The gateway's id.</summary>
    public required string Gateway { get; init; }

    /// <summary>The id by which it names the message.</summary>
    public required string FarId { get; init; }

    /// <summary>What it says: <c>delivered</c>, <c>read</c> or <c>failed</c>.</summary>
    public required string Kind { get; init; }

    /// <summary>Its words.</summary>
    public required string Words { get; init; }

    /// <summary>When it came.</summary>
    public NodaTime.Instant At { get; init; }
}

internal sealed class EarlyReceiptMapping : IEntityTypeConfiguration<EarlyReceipt>
{
    public void Configure(EntityTypeBuilder<EarlyReceipt> receipt)
    {
        receipt.ToTable("early_receipts");
        receipt.HasIndex(r => r.FarId);
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
