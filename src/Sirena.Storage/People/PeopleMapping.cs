using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Storage.People;

/// <summary>A code that was sent to an address and is to come back. Only its hash is kept.</summary>
public sealed class ContactCode
{
    /// <summary>Its number.</summary>
    public long Id { get; init; }

    /// <summary>The person's id.</summary>
    public required string Person { get; init; }

    /// <summary>The channel of the contact point.</summary>
    public Channel Channel { get; init; }

    /// <summary>Its address.</summary>
    public required string Address { get; init; }

    /// <summary>SHA-256 of the code, the person and the address.</summary>
    public required byte[] Hash { get; init; }

    /// <summary>Until when it works.</summary>
    public Instant ExpiresAt { get; init; }

    /// <summary>How often a wrong one was entered; five end it.</summary>
    public int Wrong { get; set; }
}

internal sealed class PersonMapping : IEntityTypeConfiguration<Person>
{
    public void Configure(EntityTypeBuilder<Person> person)
    {
        person.ToTable("people");
        person.Property(p => p.Codes).HasDefaultValueSql("'{}'");
        person.Property(p => p.OptOuts).AsJson();
        person.Property(p => p.Quiet).AsJson();
        person.Property(p => p.Away).AsJson();
        person.Property(p => p.First).AsJson();
        person.OwnsMany(
            p => p.Contacts,
            contact =>
            {
                contact.ToTable("contact_points");
                contact.WithOwner().HasForeignKey("person_id");
                contact.Property<int>("id");
                contact.HasKey("id");
                contact.Ignore(c => c.Usable);
                contact.HasIndex(c => c.Address);
            }
        );
    }
}

internal sealed class TeamMapping : IEntityTypeConfiguration<Team>
{
    public void Configure(EntityTypeBuilder<Team> team)
    {
        team.ToTable("teams");
        team.Property(t => t.MayOptOut).HasDefaultValue(true).HasSentinel(true);
        team.Property(t => t.Hours).AsJson();
    }
}

internal sealed class SiteMapping : IEntityTypeConfiguration<Site>
{
    public void Configure(EntityTypeBuilder<Site> site) => site.ToTable("sites");
}

internal sealed class ShiftMapping : IEntityTypeConfiguration<Shift>
{
    public void Configure(EntityTypeBuilder<Shift> shift)
    {
        shift.ToTable("shifts");
        shift.Property(s => s.Id).ValueGeneratedNever();
        shift.HasIndex(s => new { s.Team, s.Uid });
    }
}

internal sealed class ContactCodeMapping : IEntityTypeConfiguration<ContactCode>
{
    public void Configure(EntityTypeBuilder<ContactCode> code)
    {
        code.ToTable("contact_codes");
        code.HasIndex(c => c.Person);
    }
}
