using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using Sirena.Core;
using Sirena.Core.Deliveries;

namespace Sirena.Storage.Ladders;

/// <summary>Who was told and who was left out, as a step's columns and the trail hold them: JSON, channels by their names.</summary>
public static class Resolved
{
    private static readonly JsonSerializerOptions Options = new JsonSerializerOptions(JsonSerializerDefaults.Web)
    {
        Converters = { new ChannelJson() },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    }.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    /// <summary>Writes them.</summary>
    public static string Write<T>(IReadOnlyList<T> all) => all.Count == 0 ? "[]" : JsonSerializer.Serialize(all, Options);

    internal static void AsResolved<T>(this PropertyBuilder<IReadOnlyList<T>> property) =>
        property
            .HasColumnType("jsonb")
            .HasConversion(
                v => Write(v),
                v => JsonSerializer.Deserialize<T[]>(v, Options)!,
                new ValueComparer<IReadOnlyList<T>>((a, b) => a == b || (a != null && b != null && a.SequenceEqual(b)), v => v.Count, v => v)
            );

    private sealed class ChannelJson : JsonConverter<Channel>
    {
        public override Channel Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            Names.Parse<Channel>(reader.GetString()) ?? throw new JsonException("This is no channel.");

        public override void Write(Utf8JsonWriter writer, Channel value, JsonSerializerOptions options) => writer.WriteStringValue(value.Name());
    }
}
