namespace Sirena.Core.Rules;

/// <summary>Who is to be told.</summary>
public abstract record Recipient;

/// <summary>One person, by id. One who is outside the house is told only where <paramref name="Outside"/> permits it.</summary>
public sealed record PersonRecipient(string Person, bool Outside = false) : Recipient;

/// <summary>Every member of a team, by the team's id.</summary>
public sealed record TeamRecipient(string Team) : Recipient;

/// <summary>Whoever of a team is on duty.</summary>
public sealed record DutyRecipient(string Team) : Recipient;

/// <summary>Somebody whom the order names.</summary>
public sealed record RoleRecipient(OrderRole Role) : Recipient;

/// <summary>A mail address or a phone number. It is outside the house, and told only where <paramref name="Outside"/> permits it.</summary>
public sealed record AddressRecipient(string Address, bool Outside) : Recipient;

/// <summary>The people whom an order names.</summary>
public enum OrderRole
{
    /// <summary>The order's salesperson.</summary>
    Salesperson,

    /// <summary>The manager of the order's site.</summary>
    SiteManager,

    /// <summary>The managers of the lines' sites.</summary>
    LineSiteManager,

    /// <summary>Whoever is on duty at the lines' sites.</summary>
    LineSiteDuty,

    /// <summary>The customer.</summary>
    Customer,
}
