using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.Wordings;

namespace Sirena.Storage.Rules;

internal sealed class WordingMapping : IEntityTypeConfiguration<StoredWording>
{
    public void Configure(EntityTypeBuilder<StoredWording> wording)
    {
        wording.ToTable("wordings");
        wording.Property(w => w.Texts).AsJson();
    }
}
