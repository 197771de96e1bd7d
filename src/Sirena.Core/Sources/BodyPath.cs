using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.Json;

namespace Sirena.Core.Sources;

/// <summary>One step of a path: a member by its name, an item by its place from 0, or every item.</summary>
/// <param name="Name">The member's name, or <see langword="null"/>.</param>
/// <param name="Index">The item's place, or <see langword="null"/>; both <see langword="null"/> is every item.</param>
public readonly record struct PathStep(string? Name, int? Index)
{
    /// <summary>Every item of a list.</summary>
    public bool IsAll => Name is null && Index is null;
}

/// <summary>
/// Where a value stands in a body: the normalized paths of RFC 9535 (2.7), <c>$['a'][0]</c>, also written <c>$.a[0]</c>, and the wildcard <c>[*]</c>. Nothing
/// else: no filter, no
/// descent, nothing that is executed.
/// </summary>
public sealed class BodyPath : IEquatable<BodyPath>
{
    private const int Longest = 500;

    private string? text;
    private byte[]?[]? names;

    private BodyPath(ImmutableArray<PathStep> steps)
    {
        Steps = steps;
        foreach (var step in steps)
        {
            IsMany |= step.IsAll;
        }
    }

    /// <summary>The body itself.</summary>
    public static BodyPath Root { get; } = new([]);

    /// <summary>Its steps from the root.</summary>
    public ImmutableArray<PathStep> Steps { get; }

    /// <summary>As it is written: <c>$.ord.pos[0]['due date']</c>.</summary>
    public string Text => text ??= Write(Steps);

    /// <summary>It may find several values.</summary>
    public bool IsMany { get; }

    /// <summary>The last member's name, or an empty text for the root.</summary>
    public string LastName => Steps.LastOrDefault(s => s.Name is not null).Name ?? "";

    /// <summary>A path of one member: a column, or a form's field.</summary>
    public static BodyPath Of(string name) => new([new PathStep(name, null)]);

    /// <summary>This path and one more step.</summary>
    public BodyPath Then(PathStep step) => new(Steps.Add(step));

    /// <summary>The first steps of it.</summary>
    public BodyPath First(int steps) => new(Steps[..steps]);

    /// <summary>What is left of it behind another; <see langword="null"/> where it does not begin so.</summary>
    public BodyPath? After(BodyPath begin) =>
        Steps.Length >= begin.Steps.Length && Steps.AsSpan(0, begin.Steps.Length).SequenceEqual(begin.Steps.AsSpan())
            ? new BodyPath(Steps[begin.Steps.Length..])
            : null;

    /// <summary>Reads a path.</summary>
    /// <returns>The path, or one sentence on what is wrong with it.</returns>
    public static (BodyPath? Path, string? Problem) Parse(string text)
    {
        if (text.Length is 0 or > Longest || text[0] != '$')
        {
            return (null, "A path begins with $, such as $.order.number or $['order']['number'], and has at most 500 characters.");
        }

        var steps = ImmutableArray.CreateBuilder<PathStep>();
        for (var at = 1; at < text.Length;)
        {
            var (step, next) = text[at] switch
            {
                '.' => Dotted(text, at + 1),
                '[' => Bracketed(text, at + 1),
                _ => (null, at),
            };
            if (step is not { } found)
            {
                return (null, $"The path cannot be read from place {at + 1} on: .name, ['name'], [0] or [*] is expected there (RFC 9535, 2.7).");
            }

            steps.Add(found);
            at = next;
        }

        return (new BodyPath(steps.ToImmutable()), null);
    }

    /// <summary>The first value that it finds.</summary>
    /// <returns>An undefined element where there is none.</returns>
    public JsonElement FirstIn(JsonElement body)
    {
        // Bodies are UTF-8: the names are kept so, and not written anew for every body.
        names ??= [.. Steps.Select(s => s.Name is { } name ? Encoding.UTF8.GetBytes(name) : null)];
        var at = body;
        for (var i = 0; i < Steps.Length; i++)
        {
            var step = Steps[i];
            at =
                step.IsAll ? (at.ValueKind == JsonValueKind.Array && at.GetArrayLength() > 0 ? at[0] : default)
                : names[i] is { } name ? (at.ValueKind == JsonValueKind.Object && at.TryGetProperty(name, out var member) ? member : default)
                : Into(at, step);
            if (at.ValueKind == JsonValueKind.Undefined)
            {
                return default;
            }
        }

        return at;
    }

    /// <summary>Every value that it finds, each with the path at which it stands.</summary>
    public IReadOnlyList<(JsonElement Value, BodyPath At)> In(JsonElement body)
    {
        var found = new List<(JsonElement Value, BodyPath At)>();
        Collect(body, 0, Root, found);
        return found;
    }

    /// <inheritdoc/>
    public bool Equals(BodyPath? other) => other is not null && other.Text == Text;

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as BodyPath);

    /// <inheritdoc/>
    public override int GetHashCode() => Text.GetHashCode(StringComparison.Ordinal);

    /// <inheritdoc/>
    public override string ToString() => Text;

    private void Collect(JsonElement value, int from, BodyPath at, List<(JsonElement Value, BodyPath At)> found)
    {
        if (from == Steps.Length)
        {
            found.Add((value, at));
            return;
        }

        var step = Steps[from];
        if (!step.IsAll)
        {
            if (Into(value, step) is { ValueKind: not JsonValueKind.Undefined } inner)
            {
                Collect(inner, from + 1, at.Then(step), found);
            }
        }
        else if (value.ValueKind == JsonValueKind.Array)
        {
            var index = 0;
            foreach (var item in value.EnumerateArray())
            {
                Collect(item, from + 1, at.Then(new PathStep(null, index++)), found);
            }
        }
        else if (value.ValueKind == JsonValueKind.Object)
        {
            // Some systems write a list of one as the one itself.
            Collect(value, from + 1, at, found);
        }
    }

    private static JsonElement Into(JsonElement value, PathStep step) =>
        step switch
        {
            { Name: { } name } when value.ValueKind == JsonValueKind.Object && value.TryGetProperty(name, out var member) => member,
            { Index: { } index } when value.ValueKind == JsonValueKind.Array && index < value.GetArrayLength() => value[index],
            _ => default,
        };

    private static (PathStep? Step, int Next) Dotted(string text, int from)
    {
        var to = from;
        while (to < text.Length && text[to] is not ('.' or '[' or ']' or '\'' or '"' or ' '))
        {
            to++;
        }

        return to == from ? (null, from)
            : text[from..to] == "*" ? (new PathStep(null, null), to)
            : (new PathStep(text[from..to], null), to);
    }

    private static (PathStep? Step, int Next) Bracketed(string text, int from)
    {
        if (from < text.Length && text[from] is '\'' or '"')
        {
            return Quoted(text, from);
        }

        var to = text.IndexOf(']', from);
        return to < 0 ? (null, from)
            : text[from..to] is "*" ? (new PathStep(null, null), to + 1)
            : to - from is > 0 and < 7 && int.TryParse(text.AsSpan(from, to - from), NumberStyles.None, CultureInfo.InvariantCulture, out var index)
                ? (new PathStep(null, index), to + 1)
            : (null, from);
    }

    private static (PathStep? Step, int Next) Quoted(string text, int from)
    {
        var name = new StringBuilder();
        for (var at = from + 1; at < text.Length; at++)
        {
            if (text[at] == '\\' && at + 1 < text.Length)
            {
                if (Escaped(text, at + 1) is not var (letter, last))
                {
                    return (null, at);
                }

                name.Append(letter);
                at = last;
            }
            else if (text[at] == text[from])
            {
                return at + 1 < text.Length && text[at + 1] == ']' ? (new PathStep(name.ToString(), null), at + 2) : (null, from);
            }
            else
            {
                name.Append(text[at]);
            }
        }

        return (null, from);
    }

    // The escapes of RFC 9535 (2.3.1.1); any other sign stands for itself.
    private static (char Letter, int Last)? Escaped(string text, int at) =>
        text[at] switch
        {
            'u' => at + 4 < text.Length && ushort.TryParse(text.AsSpan(at + 1, 4), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var code)
                ? ((char)code, at + 4)
                : null,
            'b' => ('\b', at),
            't' => ('\t', at),
            'n' => ('\n', at),
            'f' => ('\f', at),
            'r' => ('\r', at),
            var sign => (sign, at),
        };

    private static string Write(ImmutableArray<PathStep> steps)
    {
        var text = new StringBuilder("$");
        foreach (var step in steps)
        {
            _ = step switch
            {
                { Index: { } index } => text.Append('[').Append(index).Append(']'),
                { Name: { } name } when name.Length > 0 && name.All(c => char.IsLetterOrDigit(c) || c is '_' or '-') => text.Append('.').Append(name),
                { Name: { } name } => text.Append("['").AppendJoin("", name.Select(Escape)).Append("']"),
                _ => text.Append("[*]"),
            };
        }

        return text.ToString();
    }

    private static string Escape(char sign) =>
        sign switch
        {
            '\\' or '\'' => $"\\{sign}",
            '\b' => "\\b",
            '\t' => "\\t",
            '\n' => "\\n",
            '\f' => "\\f",
            '\r' => "\\r",
            < ' ' => $"\\u{(int)sign:x4}",
            _ => sign.ToString(),
        };
}
