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
            Instant at => NodaTime.Text.InstantPattern.ExtendedIso.Format(at),
            LocalTime time => NodaTime.Text.LocalTimePattern.ExtendedIso.Format(time),
            IEnumerable<Duration> spans => string.Join(", ", spans.Select(s => Said(s))),
            _ => null,
        };

    private static IEnumerable<Type> Types() =>
        from type in typeof(Alert).Assembly.GetTypes()
        where type.FullName!.StartsWith("Sirena.", StringComparison.Ordinal) && !type.IsEnum && !type.ContainsGenericParameters
        where !type.IsDefined(typeof(CompilerGeneratedAttribute), inherit: false)
        select type;

    private static string Name(Type type) => type.FullName!["Sirena.Core.".Length..].Replace('+', '.');

    [Fact]
    public void What_the_core_is_set_to_is_what_was_found_good()
    {
        var rows =
            from type in Types()
            from field in type.GetFields(Own)
            let said = Said(field.GetValue(null))
            where said is not null
            let name = field.Name.StartsWith('<') ? field.Name[1..field.Name.IndexOf('>', StringComparison.Ordinal)] : field.Name
            orderby $"{type.FullName}.{name}"
            select $"{Name(type)}.{name} = {said}";
        Kept.Same("limits", rows);
    }

    // What is nothing, zero or no is not told of.
    [Fact]
    public void What_holds_until_somebody_says_otherwise_is_what_was_found_good()
    {
        static string? Default(object? value) =>
            value switch
            {
                null or "" => null,
                ValueType plain when plain.Equals(Activator.CreateInstance(plain.GetType())) => null,
                true => "true",
                string text => $"'{text}'",
                Enum word => word.ToString(),
                _ => Said(value),
            };
        var members =
            from type in Types()
            where type is { IsClass: true, IsAbstract: false } && !type.IsAssignableTo(typeof(Exception)) && type.GetConstructor(Type.EmptyTypes) is not null
            let one = Activator.CreateInstance(type)
            from property in type.GetProperties(BindingFlags.Instance | BindingFlags.Public)
            where property.CanWrite && property.GetIndexParameters().Length == 0
            let said = Default(property.GetValue(one))
            where said is not null
            select $"{Name(type)}.{property.Name} = {said}";
        var parameters =
            from type in Types()
            from method in type.GetMembers(Own | BindingFlags.Instance).OfType<MethodBase>()
            from parameter in method.GetParameters()
            where parameter.HasDefaultValue && !method.IsDefined(typeof(CompilerGeneratedAttribute), inherit: false)
            let said = Default(parameter.DefaultValue)
            where said is not null
            select $"{Name(type)}{(method.IsConstructor ? "" : "." + method.Name)}, {parameter.Name} = {said}";
        Kept.Same("defaults", members.Concat(parameters).Distinct().Order(StringComparer.Ordinal));
    }
}
