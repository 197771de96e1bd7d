using System.Text.Json;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Wordings;

namespace Sirena.Core.Orders;

/// <summary>
/// A field of orders that is the business's own, such as a harbour's berth: where it stands, what people call it, and where it is shown. Nothing else in
/// Sirena knows the words of a trade.
/// </summary>
/// <param name="Path">Where it stands: <c>order.extra.berth</c>.</param>
/// <param name="Name">What people call it, 1 to 40 characters: <c>Berth</c>.</param>
public sealed record OwnField(string Path, string Name)
{
    /// <summary>The field that stands in texts for all of them together.</summary>
    public const string All = "order.own";

    /// <summary>How many a business may choose.</summary>
    public const int Most = 8;

    /// <summary>How many of them may stand in lists.</summary>
    public const int MostInLists = 3;

    /// <summary>How long a name may be, in characters.</summary>
    public const int LongestName = 40;

    /// <summary>What it is called in languages other than English, by their code.</summary>
    public Dictionary<string, string> Names { get; init; } = [];

    /// <summary>Lists of orders show it beside the customer.</summary>
    public bool InLists { get; init; }

    /// <summary>Messages to the staff and to outside readers, and documents, show it among their facts.</summary>
    public bool InMessages { get; init; }

    /// <summary>Texts of one line, such as an SMS, say it too.</summary>
    public bool InShort { get; init; }

    /// <summary>Customers may read it.</summary>
    public bool ForCustomers { get; init; }

    /// <summary>It is shown somewhere.</summary>
    public bool Shown => InLists || InMessages || InShort || ForCustomers;

    /// <summary>Its name in a language; the English one where it has none there.</summary>
    public string NameIn(TextLanguage language) => Names.GetValueOrDefault(language.Code) is { Length: > 0 } own ? own : Name;

    /// <summary>The name as it stands inside a sentence: <c>berth</c>. An abbreviation such as <c>PO number</c> stays as it is.</summary>
    public static string Inside(string name) => name.Length > 1 && char.IsUpper(name[0]) && char.IsLower(name[1]) ? Sentences.Small(name) : name;

    /// <summary>The fields that an order has, with their values in words for the desk, in the order in which the business put them.</summary>
    /// <param name="order">The order, as in the contract.</param>
    /// <param name="fields">The fields.</param>
    public static IEnumerable<(OwnField Field, string Value)> Of(JsonElement order, IEnumerable<OwnField> fields) =>
        fields
            .Select(f => (Field: f, Value: FieldCatalogue.Find(f.Path) is { } field ? Facts.Extra(order, field) : default))
            .Where(f => f.Value.ValueKind is not (JsonValueKind.Undefined or JsonValueKind.Object))
            .Select(f => (f.Field, FieldValue.CleanLine(Facts.InWords(f.Value))))
            .Where(f => f.Item2.Length > 0);

    /// <summary>What is wrong with a choice of fields, in a sentence that names the field; <see langword="null"/> for nothing.</summary>
    public static string? Problem(IReadOnlyList<OwnField> fields)
    {
        foreach (var field in fields)
        {
            if (!FieldCatalogue.IsOrderExtra(field.Path) || FieldCatalogue.Find(field.Path) is null)
            {
                return $"'{field.Path}' is no field of your own: write order.extra. and the name that the order system gives it, such as order.extra.gate.";
            }

            if (fields.Count(f => f.Path == field.Path) > 1)
            {
                return $"'{field.Path}' stands here twice. Keep one of the two.";
            }

            if (field.Names.Values.Prepend(field.Name).FirstOrDefault(n => n.Length > LongestName || n.Any(char.IsControl)) is { } name)
            {
                return $"'{Quoting.Cut(name, 20)}' cannot be the name of {field.Path}: a name is one line of 1 to {LongestName} characters.";
            }

            if (field.ForCustomers && WordingFields.IsInternal(field.Path))
            {
                return $"{field.Path} is internal by its name; customers may not read it.";
            }

            if (field.Name.Trim().Length == 0)
            {
                return $"{field.Path} needs a name, such as Gate.";
            }
        }

        return fields.Count > Most ? $"At most {Most} fields can be chosen; here are {fields.Count}. Leave some out."
            : fields.Count(f => f.InLists) > MostInLists ? $"Lists have room for {MostInLists} fields of your own; here are {fields.Count(f => f.InLists)}."
            : null;
    }
}
