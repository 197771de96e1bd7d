using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core;

namespace Sirena.Storage;

internal sealed class BusinessMapping : IEntityTypeConfiguration<Business>
{
    public void Configure(EntityTypeBuilder<Business> business)
    {
        business.ToTable("business");
        business.Ignore(b => b.Zone);
        business.Property(b => b.Id).ValueGeneratedNever();
        business.Property(b => b.Quiet).AsJson();
        business.Property(b => b.Hours).AsJson();
        business.Property(b => b.Holidays).AsJson();
        business.Property(b => b.OwnFields).AsJson();
        business.Property(b => b.InstructionRights).AsJson();
        business.HasData(new Business());
    }
}
