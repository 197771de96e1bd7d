using System.Globalization;
using System.Resources;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.Extensions.Localization;
using Sirena.Core.Wordings;

namespace Sirena.Web.Pages.Shared;

/// <summary>
/// The texts of staff's and customers' pages in their reader's language. The English sentence is its own key; each other language has its file,
/// <c>Resources/Staff.pt.resx</c>.
/// </summary>
/// <param name="language">The reader's language.</param>
public sealed class StaffWords(TextLanguage language) : IStringLocalizer
{
    private static readonly Dictionary<string, ResourceManager> Files = TextLanguage
        .All.Where(l => l != TextLanguage.En)
        .ToDictionary(l => l.Code, l => new ResourceManager($"Sirena.Web.Resources.Staff.{l.Code}", typeof(StaffWords).Assembly));

    /// <summary>English, in which supervisors read.</summary>
    public static StaffWords English { get; } = new(TextLanguage.En);

    /// <summary>The language.</summary>
    public TextLanguage Language => language;

    /// <summary>Those of the page that a view is drawn for, also in its parts.</summary>
    public static StaffWords In(ViewDataDictionary view) => (view[nameof(SirenaPage)] as SirenaPage)?.L ?? English;

    /// <inheritdoc/>
    public LocalizedString this[string name] =>
        Files.GetValueOrDefault(language.Code)?.GetString(name, CultureInfo.InvariantCulture) is { } said
            ? new(name, said)
            : new(name, name, resourceNotFound: language != TextLanguage.En);

    /// <inheritdoc/>
    public LocalizedString this[string name, params object[] arguments]
    {
        get
        {
            var found = this[name];
            return new(name, string.Format(CultureInfo.InvariantCulture, found.Value, arguments), found.ResourceNotFound);
        }
    }

    /// <inheritdoc/>
    public IEnumerable<LocalizedString> GetAllStrings(bool includeParentCultures) =>
        Files
            .GetValueOrDefault(language.Code)
            ?.GetResourceSet(CultureInfo.InvariantCulture, createIfNotExists: true, tryParents: false)
            ?.Cast<System.Collections.DictionaryEntry>()
            .Select(e => new LocalizedString((string)e.Key, (string)e.Value!))
        ?? [];
}
