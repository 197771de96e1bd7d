using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Rules;

namespace Sirena.Core.People;

/// <summary>What is asked: who would be told of this, by these, at that moment.</summary>
/// <param name="Tell">The recipients.</param>
/// <param name="By">By what; mail where it is <see langword="null"/>.</param>
/// <param name="Urgency">Decides whether quiet hours hold, and whose first channel counts.</param>
/// <param name="Event">The event's type, for opt-outs.</param>
/// <param name="Rule">The rule's id, for opt-outs, or <see langword="null"/>.</param>
/// <param name="MayOptOut">The rule lets people opt out.</param>
/// <param name="At">The moment.</param>
public sealed record TellQuestion(IReadOnlyList<Recipient> Tell, Ways? By, Urgency Urgency, string Event, string? Rule, bool MayOptOut, Instant At);

/// <summary>Somebody who is told, over one contact point.</summary>
/// <param name="Person">The person's id, or <see langword="null"/> for an outside address.</param>
/// <param name="Channel">By what.</param>
/// <param name="Contact">The address.</param>
/// <param name="Because">Why: <c>you are in Kitchen</c>, to be read after 'because'.</param>
/// <param name="Verified">The contact point is known to reach them.</param>
/// <param name="HeldUntil">Quiet hours hold the message until then; <see langword="null"/> when it goes at once.</param>
/// <param name="Customer">It is the order's customer, who gets other words than staff.</param>
public sealed record Told(
    string? Person,
    Channel Channel,
    string Contact,
    string Because,
    bool Verified = true,
    Instant? HeldUntil = null,
    bool Customer = false
)
{
    /// <summary>Whom one message reaches: the same for two that would tell the same reader by the same channel.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public (Channel Channel, string Reader) Reader => (Channel, Person ?? Contact.ToLowerInvariant());

    /// <summary>Who reads it: decides the words, and what they may tell.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public Audience Audience =>
        Customer ? Audience.Customer
        : Person is null ? Audience.Outside
        : Audience.Staff;
}

/// <summary>Somebody who was named and is not told, and why.</summary>
/// <param name="Person">The person's id, or the recipient where it is no person.</param>
/// <param name="Because">The reason: <c>no mail address</c>.</param>
/// <param name="Nobody">It stands for a whole recipient that resolves to nobody, not for one of several.</param>
public sealed record LeftOut(string Person, string Because, bool Nobody = false)
{
    /// <summary>They are of the team and off duty: that alone is no fault of reaching them.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool OffDuty { get; init; }

    /// <summary>It is one of a customer's addresses, by a channel that was not asked for: no fault where another of theirs is told.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool OtherWay { get; init; }

    /// <inheritdoc/>
    public bool Equals(LeftOut? other) => other is not null && (Person, Because, Nobody) == (other.Person, other.Because, other.Nobody);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Person, Because, Nobody);
}

/// <summary>
/// Who is told and who is left out; nobody who was named is missing from both. Those whom quiet hours hold stand in both until they are told.
/// </summary>
/// <param name="Told">Who is told at once.</param>
/// <param name="Held">Who is told when quiet hours end.</param>
/// <param name="Left">Who is not told, with the reasons.</param>
public sealed record Resolution(IReadOnlyList<Told> Told, IReadOnlyList<Told> Held, IReadOnlyList<LeftOut> Left)
{
    /// <summary>How many recipients resolve to nobody.</summary>
    public int Unreached => Left.Count(l => l.Nobody);

    /// <summary>The same without some, who are left out with the reason.</summary>
    /// <param name="others">The reasons, by a person's id or the address of somebody outside.</param>
    public Resolution Without(IReadOnlyDictionary<string, string> others)
    {
        static string Key(Told t) => t.Person ?? t.Contact.ToLowerInvariant();
        bool Out(Told t) => others.ContainsKey(Key(t));
        var gone = Told.Concat(Held).Where(Out).DistinctBy(Key).Select(t => new LeftOut(t.Person ?? t.Contact, others[Key(t)])).ToArray();
        Told[] told = [.. Told.Where(t => !Out(t))],
            held = [.. Held.Where(t => !Out(t))];
        return gone.Length == 0 ? this : new Resolution(told, held, [.. Left, .. gone]);
    }

    /// <summary>The same without those whom somebody chose not to tell. That nobody of the staff is found is no fault where none is to be told.</summary>
    /// <param name="choice">The choice, or <see langword="null"/> for none.</param>
    public Resolution Chosen(Instructions.TellChoice? choice)
    {
        if (choice is null or { All: true })
        {
            return this;
        }

        var gone = Told.Concat(Held)
            .Select(t => (Who: t.Person ?? t.Contact, Why: choice.Leaves(t.Customer)))
            .Where(g => g.Why is not null)
            .Select(g => new LeftOut(g.Who, g.Why!))
            .Distinct();
        var left = choice.Staff ? Left : Left.Select(l => l with { Nobody = false });
        return new Resolution(
            [.. Told.Where(t => choice.Leaves(t.Customer) is null)],
            [.. Held.Where(t => choice.Leaves(t.Customer) is null)],
            [.. left, .. gone]
        );
    }
}
