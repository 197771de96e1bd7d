namespace Sirena.Core.Rules;

/// <summary>
/// Who is to be told. How each kind is read, written, checked, said and offered stands here and in its row of <see cref="RecipientKinds"/>; whom it stands for
/// at a moment is worked out by <see cref="People.WhoIsTold"/>.
/// </summary>
public abstract record Recipient
{
    /// <summary>The member of a document that names it: <c>team</c>.</summary>
    public abstract string Member { get; }

    /// <summary>What that member holds: an id, a role or an address.</summary>
    public abstract string Id { get; }

    /// <summary>The team that it stands for, whole or in part; <see langword="null"/> for none.</summary>
    public virtual string? OfTeam => null;

    /// <summary>It is told also outside the house.</summary>
    public virtual bool Permitted => false;

    /// <summary>As one text: <c>team:kitchen</c>.</summary>
    public string Key => $"{Member}:{Id}";

    /// <summary>In a sentence: <c>everyone in Kitchen</c>.</summary>
    /// <param name="name">The name of an id.</param>
    public abstract string Said(Func<string, string> name);

    /// <summary>Where there is little room: <c>Kitchen</c>.</summary>
    /// <param name="name">The name of an id.</param>
    /// <param name="word">A word in the reader's language.</param>
    public virtual string Brief(Func<string, string> name, Func<string, string> word) => name(Id);

    /// <summary>Reads <c>team:kitchen</c>; <see langword="null"/> for what names nobody.</summary>
    public static Recipient? Parse(string? key) => key?.Split(':', 2) is [var member, { Length: > 0 } id] ? RecipientKinds.Find(member)?.Make(id, false) : null;
}

/// <summary>One person, by id. One who is outside the house is told only where <paramref name="Outside"/> permits it.</summary>
public sealed record PersonRecipient(string Person, bool Outside = false) : Recipient
{
    /// <inheritdoc/>
    public override string Member => "person";

    /// <inheritdoc/>
    public override string Id => Person;

    /// <inheritdoc/>
    public override bool Permitted => Outside;

    /// <inheritdoc/>
    public override string Said(Func<string, string> name) => name(Person);
}

/// <summary>Every member of a team, by the team's id.</summary>
public sealed record TeamRecipient(string Team) : Recipient
{
    /// <inheritdoc/>
    public override string Member => "team";

    /// <inheritdoc/>
    public override string Id => Team;

    /// <inheritdoc/>
    public override string OfTeam => Team;

    /// <inheritdoc/>
    public override string Said(Func<string, string> name) => $"everyone in {name(Team)}";
}

/// <summary>Whoever of a team is on duty.</summary>
public sealed record DutyRecipient(string Team) : Recipient
{
    /// <inheritdoc/>
    public override string Member => "duty";

    /// <inheritdoc/>
    public override string Id => Team;

    /// <inheritdoc/>
    public override string OfTeam => Team;

    /// <inheritdoc/>
    public override string Said(Func<string, string> name) => $"whoever is on duty in {name(Team)}";

    /// <inheritdoc/>
    public override string Brief(Func<string, string> name, Func<string, string> word) => $"{name(Team)} {word("on duty")}";
}

/// <summary>Somebody whom the order names.</summary>
public sealed record RoleRecipient(OrderRole Role) : Recipient
{
    /// <inheritdoc/>
    public override string Member => "role";

    /// <inheritdoc/>
    public override string Id => Role.Name();

    /// <inheritdoc/>
    public override string Said(Func<string, string> name) =>
        Role switch
        {
            OrderRole.Salesperson => "the order's salesperson",
            OrderRole.SiteManager => "the manager of the order's site",
            OrderRole.LineSiteManager => "the managers of the lines' sites",
            OrderRole.LineSiteDuty => "whoever is on duty at the lines' sites",
            _ => "the customer",
        };

    /// <inheritdoc/>
    public override string Brief(Func<string, string> name, Func<string, string> word) => Id.Replace('-', ' ');
}

/// <summary>A mail address or a phone number. It is outside the house, and told only where <paramref name="Outside"/> permits it.</summary>
public sealed record AddressRecipient(string Address, bool Outside) : Recipient
{
    /// <inheritdoc/>
    public override string Member => "address";

    /// <inheritdoc/>
    public override string Id => Address;

    /// <inheritdoc/>
    public override bool Permitted => Outside;

    /// <inheritdoc/>
    public override string Said(Func<string, string> name) => Address;

    /// <inheritdoc/>
    public override string Brief(Func<string, string> name, Func<string, string> word) => Address;
}

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
