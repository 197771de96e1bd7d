using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;

namespace Sirena.Storage;

/// <summary>A value that is read and written whole, as one JSON column.</summary>
public static class JsonColumn
{
    private static readonly JsonSerializerOptions Options = new JsonSerializerOptions(JsonSerializerDefaults.Web).ConfigureForNodaTime(
        DateTimeZoneProviders.Tzdb
    );

    /// <summary>A value as its column holds it, for statements of one's own.</summary>
    public static string Write<T>(T value) => JsonSerializer.Serialize(value, Options);

    /// <summary>Maps the property as <c>jsonb</c>; two values are the same when their JSON is.</summary>
    public static void AsJson<T>(this PropertyBuilder<T> property)
        where T : class, new() =>
        property
            .HasColumnType("jsonb")
            .HasDefaultValueSql(new T() is System.Collections.IDictionary ? "'{}'" : "'[]'")
            .HasConversion(
                v => JsonSerializer.Serialize(v, Options),
                v => JsonSerializer.Deserialize<T>(v, Options) ?? new T(),
                new ValueComparer<T>(
                    (a, b) => JsonSerializer.Serialize(a, Options) == JsonSerializer.Serialize(b, Options),
                    v => JsonSerializer.Serialize(v, Options).GetHashCode(StringComparison.Ordinal),
                    v => JsonSerializer.Deserialize<T>(JsonSerializer.Serialize(v, Options), Options)!
                )
            );

    /// <summary>Maps a property that may be missing as <c>jsonb</c>.</summary>
    public static void AsJsonOrNull<T>(this PropertyBuilder<T?> property)
        where T : class =>
        property
            .HasColumnType("jsonb")
            .HasConversion(
                v => JsonSerializer.Serialize(v, Options),
                v => JsonSerializer.Deserialize<T>(v, Options),
                new ValueComparer<T?>(
                    (a, b) => JsonSerializer.Serialize(a, Options) == JsonSerializer.Serialize(b, Options),
                    v => JsonSerializer.Serialize(v, Options).GetHashCode(StringComparison.Ordinal),
                    v => JsonSerializer.Deserialize<T>(JsonSerializer.Serialize(v, Options), Options)
                )
            );
}
