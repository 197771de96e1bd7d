using System.Globalization;
using System.Reflection;
using System.Runtime.CompilerServices;
using NodaTime;
using Sirena.Core.Ladders;

namespace Sirena.Core.Tests;

/// <summary>
/// Every number and span that the core is set to, a line each: what may be how long, how many, how late. Others build on them (the contract names many), and
/// a test of what they bound seldom stands right at the edge.
/// </summary>
public sealed class LimitsTests
{
    private const BindingFlags Own = BindingFlags.Static | BindingFlags.Public | BindingFlags.NonPublic | BindingFlags.DeclaredOnly;

    private static string? Said(object? value) =>
        value switch
        {
            int or long or short or byte or double or decimal => ((IFormattable)value).ToString(null, CultureInfo.InvariantCulture),
            TimeSpan span => Duration.FromTimeSpan(span).ToString("D:hh:mm:ss.FFF", CultureInfo.InvariantCulture),
            Duration span => span.ToString("D:hh:mm:ss.FFF", CultureInfo.InvariantCulture),
            IEnumerable<Duration> spans => string.Join(", ", spans.Select(s => Said(s))),
            _ => null,
        };

    [Fact]
    public void What_the_core_is_set_to_is_what_was_found_good()
    {
        var rows =
            from type in typeof(Alert).Assembly.GetTypes()
            where type.FullName!.StartsWith("Sirena.", StringComparison.Ordinal) && !type.IsEnum && !type.ContainsGenericParameters
            where !type.IsDefined(typeof(CompilerGeneratedAttribute), inherit: false)
            from field in type.GetFields(Own)
            let said = Said(field.GetValue(null))
            where said is not null
            let name = field.Name.StartsWith('<') ? field.Name[1..field.Name.IndexOf('>', StringComparison.Ordinal)] : field.Name
            orderby $"{type.FullName}.{name}"
            select $"{type.FullName!["Sirena.Core.".Length..].Replace('+', '.')}.{name} = {said}";
        Kept.Same("limits", rows);
    }
}
