using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;

namespace Sirena.Storage.Ladders;

internal sealed class AlertMapping : IEntityTypeConfiguration<Alert>
{
    public void Configure(EntityTypeBuilder<Alert> alert)
    {
        alert.ToTable("alerts");
        alert.Property(a => a.Unreached).HasDefaultValue(0);
        alert.Property(a => a.Stood).HasDefaultValueSql("interval '0'");
        alert.Property(a => a.PutOff).HasDefaultValue(0);
        alert.Property(a => a.Id).ValueGeneratedNever();
        alert.HasOne<OrderEvent>().WithMany().HasForeignKey(a => a.EventId).OnDelete(DeleteBehavior.Restrict);
        alert.HasIndex(a => new { a.OrderNumber, a.RaisedAt });
        alert.HasIndex(a => new
        {
            a.Subject,
            a.RuleId,
            a.RaisedAt,
        });
        alert.HasIndex(a => new { a.State, a.RaisedAt }).HasFilter("state in ('open','taken','lapsed')").HasDatabaseName("ix_alerts_burning");
        alert.HasIndex(a => a.OrderNumber).HasFilter("state = 'open'").HasDatabaseName("ix_alerts_open_order");
        alert.HasIndex(a => a.EndedAt).HasFilter("state = 'lapsed'").HasDatabaseName("ix_alerts_lapsed");
        alert.HasIndex(a => new { a.RuleId, a.RaisedAt });
        alert.HasIndex(a => new { a.RaisedAt, a.Id });
        alert.HasIndex(a => a.WaitsUntil).HasFilter("state = 'open'").HasDatabaseName("ix_alerts_waits");
        alert.HasIndex(a => a.DoneBy).HasFilter("state = 'taken' and done_by is not null").HasDatabaseName("ix_alerts_done_by");
        alert.HasIndex(a => a.PausedBy).HasFilter("paused_by is not null");
        alert.HasIndex(a => a.RaisedAt).HasFilter("unreached > 0").HasDatabaseName("ix_alerts_unreached");
    }
}

internal sealed class AlertStepMapping : IEntityTypeConfiguration<AlertStep>
{
    public void Configure(EntityTypeBuilder<AlertStep> step)
    {
        step.ToTable("alert_steps");
        step.Property(s => s.Rung).HasDefaultValue(0);
        step.HasKey(s => new { s.AlertId, s.Index });
        step.Property(s => s.Aim).HasConversion(a => a!.Key, key => Recipient.Parse(key));
        step.Property(s => s.Told).AsResolved();
        step.Property(s => s.Left).AsResolved();
        // The ladder: what is due and has not fired.
        step.HasIndex(s => s.DueAt).HasFilter("fired_at is null").HasDatabaseName("ix_alert_steps_due");
        step.HasOne<Alert>().WithMany().HasForeignKey(s => s.AlertId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class AnswerMapping : IEntityTypeConfiguration<Answer>
{
    public void Configure(EntityTypeBuilder<Answer> answer)
    {
        answer.ToTable("answers");
        answer.HasOne<Alert>().WithMany().HasForeignKey(a => a.AlertId).OnDelete(DeleteBehavior.Restrict);
        answer.HasIndex(a => a.AlertId);
        answer.HasIndex(a => a.At);
    }
}
