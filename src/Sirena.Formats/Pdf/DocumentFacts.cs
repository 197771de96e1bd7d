using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;

namespace Sirena.Formats.Pdf;

/// <summary>What a document is made of.</summary>
/// <param name="Kind">Which document.</param>
/// <param name="Event">The event whose order it shows.</param>
/// <param name="Business">The business's name.</param>
/// <param name="Footer">Its last lines, or empty.</param>
/// <param name="Language">The language.</param>
/// <param name="Zone">The business's time zone.</param>
/// <param name="Currency">For amounts that name none.</param>
/// <param name="NameOf">Names a site by its id.</param>
/// <param name="Sites">The sites of a picking list, each on a page of its own; all of the order's where empty.</param>
public sealed record DocumentFacts(
    DocumentKind Kind,
    OrderEvent Event,
    string Business,
    string Footer,
    TextLanguage Language,
    DateTimeZone Zone,
    string Currency,
    Func<string, string> NameOf,
    IReadOnlyList<string> Sites
)
{
    /// <summary>Fields of the business's own that it shows.</summary>
    public IReadOnlyList<OwnField> Own { get; init; } = [];

    /// <summary>A text of the order, cleaned; empty where it has none.</summary>
    internal string Text(params ReadOnlySpan<string> path) => FieldValue.Clean(Facts.Text(Event.After, path) ?? "");
}
