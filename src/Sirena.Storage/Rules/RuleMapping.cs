using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;

namespace Sirena.Storage.Rules;

/// <summary>The one row that says which version of the rule book is in force; a save locks it, intake reads it.</summary>
public sealed class RuleBookVersion
{
    /// <summary>Always 1.</summary>
    public int Id { get; init; } = 1;

    /// <summary>The version in force.</summary>
    public long Version { get; set; }
}

/// <summary>A rule in the editor as somebody left it: kept when the browser closes, until it is put in force or dropped.</summary>
public sealed class KeptDraft
{
    /// <summary>The rule's id; <c>new</c> for one that was never saved.</summary>
    public required string RuleId { get; init; }

    /// <summary>Whose it is, the name that stands at saved versions.</summary>
    public required string By { get; init; }

    /// <summary>The form, JSON: the values by the field's name.</summary>
    public required string Form { get; set; }

    /// <summary>The version that it began from; 0 for none.</summary>
    public int BaseVersion { get; set; }

    /// <summary>When it was last changed.</summary>
    public NodaTime.Instant At { get; set; }
}

internal sealed class KeptDraftMapping : IEntityTypeConfiguration<KeptDraft>
{
    public void Configure(EntityTypeBuilder<KeptDraft> draft)
    {
        draft.ToTable("kept_drafts");
        draft.HasKey(d => new { d.RuleId, d.By });
        draft.Property(d => d.Form).HasColumnType("json");
    }
}

internal sealed class RuleBookMapping : IEntityTypeConfiguration<RuleBookVersion>
{
    public void Configure(EntityTypeBuilder<RuleBookVersion> book)
    {
        book.ToTable("rule_book");
        book.Property(b => b.Id).ValueGeneratedNever();
        book.HasData(new RuleBookVersion());
    }
}

internal sealed class RuleVersionMapping : IEntityTypeConfiguration<RuleVersion>
{
    public void Configure(EntityTypeBuilder<RuleVersion> version)
    {
        version.ToTable("rule_versions");
        version.HasKey(v => new { v.RuleId, v.Version });
        version.Property(v => v.Document).HasColumnType("jsonb");
        version.HasIndex(v => v.RuleId).IsUnique().HasFilter("book_to is null").HasDatabaseName("ix_rule_versions_in_force");
    }
}

internal sealed class MatchMapping : IEntityTypeConfiguration<Match>
{
    public void Configure(EntityTypeBuilder<Match> match)
    {
        match.ToTable("matches");
        match.HasKey(m => new { m.EventId, m.RuleId });
        match.HasOne<OrderEvent>().WithMany().HasForeignKey(m => m.EventId).OnDelete(DeleteBehavior.Restrict);
        match.HasIndex(m => new { m.RuleId, m.At });
        match.HasIndex(m => m.At).HasFilter("outcome = 'too-late' and noticed_at is null").HasDatabaseName("ix_matches_late");
    }
}
