using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.Instructions;

namespace Sirena.Storage.Instructions;

internal sealed class InstructionMapping : IEntityTypeConfiguration<Instruction>
{
    public void Configure(EntityTypeBuilder<Instruction> instruction)
    {
        instruction.ToTable("instructions");
        instruction.Property(i => i.Id).ValueGeneratedNever();
        instruction.Property(i => i.Seq).ValueGeneratedNever();
        instruction.Property(i => i.With).HasColumnType("json");
        instruction.Property(i => i.Tell).AsJsonOrNull();
        instruction.Ignore(i => i.Members).Ignore(i => i.UnderWay).Ignore(i => i.SightUntil).Ignore(i => i.News);

        // The queue: what is due, and what of the same lane is under way before it.
        instruction.HasIndex(i => i.DueAt).HasFilter("state = 'asked'").HasDatabaseName("ix_instructions_due");
        instruction.HasIndex(i => new { i.Lane, i.Seq }).HasFilter("state in ('asked', 'taken')").HasDatabaseName("ix_instructions_under_way");

        // What an event may still show.
        instruction.HasIndex(i => i.Lane).HasFilter("state in ('asked', 'taken', 'unseen', 'failed')").HasDatabaseName("ix_instructions_to_see");
        instruction.HasIndex(i => i.TakenAt).HasFilter("state = 'taken'").HasDatabaseName("ix_instructions_taken");
        instruction
            .HasIndex(i => i.AskedAt, "ix_instructions_news")
            .HasFilter("not trial and told is distinct from state and state in ('refused', 'unseen', 'failed', 'dropped')");
        instruction.HasIndex(i => i.AskedAt, "ix_instructions_waits").HasFilter("waits is not null and state = 'asked'");
        instruction.HasIndex(i => i.AskedAt, "ix_instructions_not_done").HasFilter("not trial and state in ('refused', 'unseen', 'failed')");
        instruction.HasIndex(i => new { i.OrderNumber, i.Seq });
        instruction.HasIndex(i => new { i.AskedAt, i.Id }, "ix_instructions_newest");
        instruction.HasIndex(i => new { i.RuleId, i.AskedAt }).HasFilter("rule_id is not null");
    }
}

internal sealed class InstructionAttemptMapping : IEntityTypeConfiguration<InstructionAttempt>
{
    public void Configure(EntityTypeBuilder<InstructionAttempt> attempt)
    {
        attempt.ToTable("instruction_attempts");
        attempt.HasKey(a => new { a.InstructionId, a.Number });
        attempt.HasOne<Instruction>().WithMany().HasForeignKey(a => a.InstructionId).OnDelete(DeleteBehavior.Restrict);
    }
}
