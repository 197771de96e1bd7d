using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using Sirena.Core.Sources;

namespace Sirena.Storage.Sources;

internal sealed class SourceMapping : IEntityTypeConfiguration<Source>
{
    public void Configure(EntityTypeBuilder<Source> source)
    {
        source.ToTable("sources");
        source.Property(s => s.Prefix).HasDefaultValue("");
        source.Property(s => s.Limit).HasDefaultValue(100);
        source.Property(s => s.Proof).AsJson();
        source.Property(s => s.Proof).HasDefaultValueSql("'{}'");
        source.Property(s => s.Silence).AsJson();
        source.Property(s => s.Silence).HasDefaultValueSql("'{}'");
        source.Property(s => s.Reading).HasColumnType("json");
        source.Property(s => s.ReadingVersion).HasDefaultValue(0);
        source.Property(s => s.FetchFailures).HasDefaultValue(0);
        source.Property(s => s.On).HasDefaultValue(true).HasSentinel(true);
        source
            .Property(s => s.Listing)
            .HasColumnType("jsonb")
            .HasConversion(
                v => JsonSerializer.Serialize(v, JsonSerializerOptions.Web),
                v => JsonSerializer.Deserialize<ListingPlan>(v, JsonSerializerOptions.Web)!
            );
        source.Property(s => s.Takes).HasDefaultValueSql("'{}'");
        source.Property(s => s.OwnInstructions).AsJson();
        source.Property(s => s.IntakeHours).AsJsonOrNull();
        source.Property(s => s.IntakeClosed).HasDefaultValue(false);
        source.Ignore(s => s.EventSource);
    }
}

internal sealed class ReadingVersionMapping : IEntityTypeConfiguration<ReadingVersion>
{
    public void Configure(EntityTypeBuilder<ReadingVersion> reading)
    {
        reading.ToTable("reading_versions");
        reading.HasKey(r => new { r.Source, r.Version });
        reading.Property(r => r.Document).HasColumnType("json");
    }
}

internal sealed class ArrivalMapping : IEntityTypeConfiguration<ArrivedBody>
{
    public void Configure(EntityTypeBuilder<ArrivedBody> body)
    {
        body.ToTable("arrivals");
        body.HasKey(b => b.Id);
        body.Property(b => b.Id).UseIdentityAlwaysColumn();
        body.Property(b => b.Headers).AsJson();
        body.Property(b => b.Problem)
            .HasColumnType("jsonb")
            .HasConversion(
                v => JsonSerializer.Serialize(v, JsonSerializerOptions.Web),
                v => JsonSerializer.Deserialize<BodyProblem>(v, JsonSerializerOptions.Web)!
            );
        body.Property(b => b.Events).HasDefaultValueSql("'{}'");
        body.Property(b => b.ReadingVersion).HasDefaultValue(0);
        body.Property(b => b.Again).HasDefaultValue(false);
        body.HasIndex(b => new { b.Source, b.Id });
        body.HasIndex(b => new { b.Source, b.Id }, "ix_arrivals_waiting").HasFilter("state = 'waiting'");
        body.HasIndex(
            b => new
            {
                b.Source,
                b.State,
                b.Id,
            },
            "ix_arrivals_state"
        );
        body.HasIndex(b => new { b.Source, b.Hash }).HasFilter("hash is not null");
        body.HasIndex(b => b.Id, "ix_arrivals_not_understood").HasFilter("state = 'not-understood'");
        body.HasIndex(b => b.At).HasMethod("brin");
    }
}

/// <summary>How many events came from a source in an hour.</summary>
public sealed class SourceHour
{
    /// <summary>The source.</summary>
    public required string Source { get; init; }

    /// <summary>The hour's begin.</summary>
    public Instant Hour { get; init; }

    /// <summary>How many.</summary>
    public int Events { get; set; }
}

internal sealed class SourceHourMapping : IEntityTypeConfiguration<SourceHour>
{
    public void Configure(EntityTypeBuilder<SourceHour> hour)
    {
        hour.ToTable("source_hours");
        hour.HasKey(h => new { h.Source, h.Hour });
    }
}

/// <summary>A row of a list as its last run left it.</summary>
public sealed class ListingRowKept
{
    /// <summary>The source.</summary>
    public required string Source { get; init; }

    /// <summary>What tells it from others.</summary>
    public required string Key { get; init; }

    /// <summary>Its cells by column, JSON.</summary>
    public required string Cells { get; set; }

    /// <summary>The first 64 bits of SHA-256 over its cells.</summary>
    public long Digest { get; set; }
}

internal sealed class ListingRowMapping : IEntityTypeConfiguration<ListingRowKept>
{
    public void Configure(EntityTypeBuilder<ListingRowKept> row)
    {
        row.ToTable("listing_rows");
        row.HasKey(r => new { r.Source, r.Key });
        row.Property(r => r.Cells).HasColumnType("json");
    }
}

internal sealed class ListingRunMapping : IEntityTypeConfiguration<ListingRun>
{
    public void Configure(EntityTypeBuilder<ListingRun> run)
    {
        run.ToTable("listing_runs");
        run.Property(r => r.Edits).AsJson();
        run.Property(r => r.Edits).HasDefaultValueSql("'{}'");
        run.Property(r => r.Shown).AsJsonOrNull();
        run.HasIndex(r => new { r.Source, r.At });
        run.HasIndex(r => r.At, "ix_listing_runs_waits").HasFilter("state = 'waits'");
    }
}

internal sealed class MissedOrderMapping : IEntityTypeConfiguration<MissedOrder>
{
    public void Configure(EntityTypeBuilder<MissedOrder> missed)
    {
        missed.ToTable("missed_orders");
        missed.HasKey(m => new { m.Source, m.Order });
        missed.Property(m => m.Row).HasColumnType("json");
        missed.Ignore(m => m.Event);
        missed.HasIndex(m => m.Counts).HasFilter("counts and aside is null").HasDatabaseName("ix_missed_orders_open");
    }
}
