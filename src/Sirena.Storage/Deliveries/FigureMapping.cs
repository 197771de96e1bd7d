using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;

namespace Sirena.Storage.Deliveries;

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
