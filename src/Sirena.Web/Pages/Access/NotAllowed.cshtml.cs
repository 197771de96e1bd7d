using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Access;

/// <summary>Says that the role does not allow it.</summary>
public sealed class NotAllowedModel : SirenaPage
{
    /// <summary>Says it.</summary>
    public void OnGet() => Response.StatusCode = 403;
}
