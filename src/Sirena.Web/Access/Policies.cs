using System.Security.Claims;

namespace Sirena.Web.Access;

/// <summary>Who may do what.</summary>
public static class Policies
{
    /// <summary>Changes rules, settings and people: supervisors.</summary>
    public const string Change = "change";

    /// <summary>Sees everything: supervisors and readers. Staff see orders and what concerns themselves.</summary>
    public const string SeeAll = "see-all";

    /// <summary>The name of whoever is signed in.</summary>
    public static string Name(this ClaimsPrincipal user) => user.FindFirstValue(ClaimTypes.Name) ?? "somebody";

    /// <summary>Whether they may change things.</summary>
    public static bool MayChange(this ClaimsPrincipal user) => user.IsInRole("supervisor");

    /// <summary>Whether they see everything.</summary>
    public static bool SeesAll(this ClaimsPrincipal user) => user.IsInRole("supervisor") || user.IsInRole("reader");
}
