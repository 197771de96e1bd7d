using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace Sirena.Storage.Access;

internal sealed class UserMapping : IEntityTypeConfiguration<User>
{
    public void Configure(EntityTypeBuilder<User> user) => user.ToTable("users");
}

internal sealed class SourceKeyMapping : IEntityTypeConfiguration<SourceKey>
{
    public void Configure(EntityTypeBuilder<SourceKey> key)
    {
        key.ToTable("source_keys");
        key.HasIndex(k => k.Hash).IsUnique();
    }
}

internal sealed class ApiTokenMapping : IEntityTypeConfiguration<ApiToken>
{
    public void Configure(EntityTypeBuilder<ApiToken> token)
    {
        token.ToTable("api_tokens");
        token.HasIndex(t => t.Hash).IsUnique();
        token.HasOne<User>().WithMany().HasForeignKey(t => t.UserId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class SessionMapping : IEntityTypeConfiguration<Session>
{
    public void Configure(EntityTypeBuilder<Session> session)
    {
        session.ToTable("sessions");
        session.HasKey(s => s.Hash);
        session.HasIndex(s => s.UserId);
        session.HasIndex(s => s.ExpiresAt);
    }
}

internal sealed class OneTimeLinkMapping : IEntityTypeConfiguration<OneTimeLink>
{
    public void Configure(EntityTypeBuilder<OneTimeLink> link)
    {
        link.ToTable("one_time_links");
        link.HasKey(l => l.Hash);
    }
}

internal sealed class AuditMapping : IEntityTypeConfiguration<AuditEntry>
{
    public void Configure(EntityTypeBuilder<AuditEntry> entry)
    {
        entry.ToTable("audit");
        entry.HasIndex(e => e.At);
        entry.HasIndex(e => new { e.Thing, e.Id });
    }
}
