using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.Ladders;
using Sirena.Core.Notices;

namespace Sirena.Storage.Ladders;

internal sealed class PauseMapping : IEntityTypeConfiguration<Pause>
{
    public void Configure(EntityTypeBuilder<Pause> pause)
    {
        pause.ToTable("pauses");
        pause.Property(p => p.Scope).HasConversion(s => s.Key, key => PauseScope.Parse(key) ?? PauseScope.All);
        pause.HasIndex(p => p.Until).HasFilter("ended_at is null");
    }
}

internal sealed class SharedLadderMapping : IEntityTypeConfiguration<SharedLadder>
{
    public void Configure(EntityTypeBuilder<SharedLadder> ladder)
    {
        ladder.ToTable("ladders");
        ladder.Property(l => l.Steps).HasColumnType("json");
    }
}

internal sealed class NoticeMapping : IEntityTypeConfiguration<Notice>
{
    public void Configure(EntityTypeBuilder<Notice> notice)
    {
        notice.ToTable("notices");
        notice.Property(n => n.Id).ValueGeneratedNever();
        notice.Property(n => n.Telling).HasColumnType("json");
        notice.HasIndex(n => n.At).HasFilter("sent_at is null and called_off_at is null");
        notice.HasIndex(n => n.MadeAt);
    }
}

internal sealed class NotePictureMapping : IEntityTypeConfiguration<NotePicture>
{
    public void Configure(EntityTypeBuilder<NotePicture> picture)
    {
        picture.ToTable("note_pictures");
        picture.Property(p => p.Id).ValueGeneratedNever();
    }
}
