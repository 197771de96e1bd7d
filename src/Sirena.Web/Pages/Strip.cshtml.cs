using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages;

/// <summary>The strip alone, as the page asks for it when something changed.</summary>
public sealed class StripModel : SirenaPage;
