using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Sirena.Core.People;

namespace Sirena.Storage.People;

internal sealed class PersonMapping : IEntityTypeConfiguration<Person>
{
    public void Configure(EntityTypeBuilder<Person> person)
    {
        person.ToTable("people");
        person.OwnsMany(p => p.Contacts, contact =>
        {
            contact.ToTable("contact_points");
            contact.WithOwner().HasForeignKey("person_id");
            contact.Property<int>("id");
            contact.HasKey("id");
        });
    }
}

internal sealed class TeamMapping : IEntityTypeConfiguration<Team>
{
    public void Configure(EntityTypeBuilder<Team> team) => team.ToTable("teams");
}

internal sealed class SiteMapping : IEntityTypeConfiguration<Site>
{
    public void Configure(EntityTypeBuilder<Site> site) => site.ToTable("sites");
}
