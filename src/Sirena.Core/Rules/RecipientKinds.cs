using System.Collections.Immutable;

namespace Sirena.Core.Rules;

/// <summary>What a recipient's member holds.</summary>
public enum RecipientHolds
{
    /// <summary>A person's id.</summary>
    Person,

    /// <summary>A team's id.</summary>
    Team,

    /// <summary>A name of <see cref="OrderRole"/>.</summary>
    Role,

    /// <summary>A mail address or a phone number.</summary>
    Address,
}

/// <summary>A kind of recipient.</summary>
/// <param name="Member">Its member in a document.</param>
/// <param name="Holds">What the member holds.</param>
/// <param name="Group">The heading above its choices in the editor.</param>
/// <param name="Place">The place of that heading.</param>
/// <param name="Make">Makes one from what the member holds, permitted outside the house or not; <see langword="null"/> for a role that there is not.</param>
public sealed record RecipientKind(string Member, RecipientHolds Holds, string Group, int Place, Func<string, bool, Recipient?> Make)
{
    /// <summary>It may stand for somebody outside the house, and says then that this is permitted.</summary>
    public bool MayBeOutside => Holds is RecipientHolds.Person or RecipientHolds.Address;
}

/// <summary>The kinds of recipients: whoever adds one adds its record to <see cref="Recipient"/>, its row here, and whom it stands for.</summary>
public static class RecipientKinds
{
    /// <summary>All of them, in the order in which a document's members are listed.</summary>
    public static ImmutableArray<RecipientKind> All { get; } =
    [
        new("person", RecipientHolds.Person, "People", 4, (id, outside) => new PersonRecipient(id, outside)),
        new("team", RecipientHolds.Team, "Teams", 3, (id, _) => new TeamRecipient(id)),
        new("duty", RecipientHolds.Team, "On duty", 1, (id, _) => new DutyRecipient(id)),
        new("role", RecipientHolds.Role, "On the order", 2, (id, _) => Names.Parse<OrderRole>(id) is { } role ? new RoleRecipient(role) : null),
        new("address", RecipientHolds.Address, "Outside", 5, (address, outside) => new AddressRecipient(address, outside)),
    ];

    /// <summary>The kind of a member, or <see langword="null"/>.</summary>
    public static RecipientKind? Find(string member) => All.FirstOrDefault(k => k.Member == member);
}
