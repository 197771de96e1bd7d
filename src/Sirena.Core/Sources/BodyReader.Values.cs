using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Sources;

public sealed partial class BodyReader
{
    private sealed partial class OneItem
    {
        // The node, and whether the member is there at all.
        private (JsonNode? Node, bool There) Node(JsonElement found, Spot place, ValueReading value, ReadAs how)
        {
            if (found.ValueKind == JsonValueKind.Null)
            {
                return (null, true);
            }

            if (found.ValueKind == JsonValueKind.Undefined || (found.ValueKind == JsonValueKind.String && IsBlank(found)))
            {
                return (null, false);
            }

            how =
                how != ReadAs.Any ? how
                : value.Forms.Count > 0 || value.Zone is not null ? ReadAs.Time
                : value.Decimal is not null || value.Minor > 0 ? ReadAs.Number
                : value.Yes.Count > 0 ? ReadAs.YesNo
                : value.Words is not null || (value.Trim && found.ValueKind == JsonValueKind.String) ? ReadAs.Text
                : ReadAs.Any;
            JsonNode? node = how switch
            {
                ReadAs.Time => Time(found, place, value) is { } time ? JsonValue.Create(InstantPattern.ExtendedIso.Format(time)) : null,
                ReadAs.Number => Number(found, place, value) is { } number ? JsonValue.Create(number) : null,
                ReadAs.YesNo => YesNo(found, place, value) is { } yes ? JsonValue.Create(yes) : null,
                ReadAs.List => ListOf(found, value),
                ReadAs.Currency => Currency(found, place, value) is { } currency ? JsonValue.Create(currency) : null,
                ReadAs.Any => Whole(found),
                _ => Words((found, place), value, "text") is { } text ? JsonValue.Create(text) : null,
            };
            return (node, node is not null);
        }

        // Looked at without making a text of it: most values are there.
        private static bool IsBlank(JsonElement text)
        {
            var raw = System.Runtime.InteropServices.JsonMarshal.GetRawUtf8Value(text)[1..^1];
            return !raw.ContainsAnyExcept((byte)' ') || (raw[0] is (byte)'\\' or (byte)' ' or > 127 && string.IsNullOrWhiteSpace(text.GetString()));
        }

        private string? Words((JsonElement Found, Spot Place) at, ValueReading value, string wanted)
        {
            if (Scalar(at.Found) is not { } text)
            {
                if (at.Found.ValueKind is JsonValueKind.Object or JsonValueKind.Array)
                {
                    Wrong(at.Place, Quote(at.Found), $"{wanted}, not {(at.Found.ValueKind == JsonValueKind.Array ? "a list" : "an object")}");
                }

                return null;
            }

            text = value.Trim ? text.Trim() : text;
            if (value.Words is not { } words)
            {
                return text;
            }

            if ((Mapped(words, text.Trim()) ?? value.Else) is { } meant)
            {
                return meant;
            }

            Wrong(at.Place, text, $"one of the words {string.Join(", ", words.Keys.Order(StringComparer.Ordinal).Take(12))}");
            return null;
        }

        private string? Currency(JsonElement found, Spot place, ValueReading value)
        {
            var text = Words((found, place), value, "a currency")?.Trim().ToUpperInvariant();
            if (text is null || Money.IsCurrency(text))
            {
                return text;
            }

            Wrong(place, text, "a code of ISO 4217, such as EUR");
            return null;
        }

        private Instant? Time(JsonElement found, Spot place, ValueReading value)
        {
            var text = Scalar(found)?.Trim() ?? "";
            var here = value.Zone ?? reader.Zone;
            var time =
                value.Forms.Count > 0
                    ? value.Forms.Select(f => f.Read(text, here)).FirstOrDefault(t => t is not null)
                    : Facts.Time(text) ?? (value.Zone is null ? null : Wall(text, here));
            if (time is null)
            {
                Wrong(
                    place,
                    Quote(found),
                    value.Forms.Count > 0
                        ? $"a time of the form {string.Join(" or ", value.Forms.Select(f => f.Text))}, from 1970 to 2199"
                        : $"a time in RFC 3339, such as 2026-11-24T15:30:00Z{(value.Zone is null ? "; another needs its form" : ", or without its offset")}"
                );
            }

            return time;
        }

        private static Instant? Wall(string text, DateTimeZone zone) => TimeForms.Wall.Select(f => f.Read(text, zone)).FirstOrDefault(t => t is not null);

        private decimal? Number(JsonElement found, Spot place, ValueReading value)
        {
            decimal? number =
                found.ValueKind == JsonValueKind.Number ? Orders.Fields.Facts.Decimal(found) : DecimalText.Read(Scalar(found) ?? "", value.Decimal);
            if (number is { } whole && value.Minor > 0 && decimal.Truncate(whole) != whole)
            {
                Wrong(place, Quote(found), $"a whole number, of which the last {value.Minor} digits are decimals");
                return null;
            }

            if (number is null)
            {
                Wrong(
                    place,
                    Quote(found),
                    value.Decimal is { } point ? $"a number with '{point}' before its decimals" : "a number; one with groups or a comma needs 'decimal'"
                );
            }

            for (var i = 0; i < value.Minor && number is not null; i++)
            {
                number /= 10;
            }

            return number;
        }

        private bool? YesNo(JsonElement found, Spot place, ValueReading value)
        {
            var text = Scalar(found)?.Trim() ?? "";
            bool? yes =
                value.Yes.Count > 0 ? value.Yes.Any(y => y.Equals(text, StringComparison.OrdinalIgnoreCase))
                : bool.TryParse(text, out var plain) ? plain
                : null;
            if (yes is null)
            {
                Wrong(place, Quote(found), "true or false; other words need 'yes'");
            }

            return yes;
        }

        private static JsonArray ListOf(JsonElement found, ValueReading value)
        {
            var items =
                found.ValueKind == JsonValueKind.Array
                    ? found.EnumerateArray().Select(Scalar)
                    : (Scalar(found) ?? "").Split([',', ';', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
            return
            [
                .. items
                    .OfType<string>()
                    .Select(t => value.Words is { } words ? Mapped(words, t.Trim()) ?? value.Else ?? t : t)
                    .Select(t => JsonValue.Create(t)),
            ];
        }

        private void Wrong(Spot place, string? found, string wanted) =>
            problems.Add(new BodyProblem(place.Text, found is null ? null : FarText.Clean(found, 120), wanted));
    }
}
