using System.Text.Json;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Core.Insight;

/// <summary>How a rule stands to a person for one event.</summary>
public enum Standing
{
    /// <summary>It told them.</summary>
    Told,

    /// <summary>It named them, and they were left out for a reason.</summary>
    LeftOut,

    /// <summary>It told others.</summary>
    Others,

    /// <summary>It fitted and told nobody anew: joined, resting, too late, or a case for nobody.</summary>
    Silent,

    /// <summary>A condition failed.</summary>
    NotMatched,

    /// <summary>It was off.</summary>
    Off,
}

/// <summary>Why a person was told of an event by a rule, or was not.</summary>
/// <param name="Decision">The rule's verdict.</param>
/// <param name="Standing">How it stands to the person.</param>
/// <param name="Names">The rule could tell them: it names them, their team, or a role that they have on this order.</param>
/// <param name="Because">One sentence.</param>
public sealed record Why(Decision Decision, Standing Standing, bool Names, string Because);

/// <summary>Answers 'why was nobody told?' for one event and one person, from the stored verdicts and resolutions.</summary>
/// <param name="staff">Everybody, as they are now.</param>
/// <param name="sentence">Says conditions.</param>
public sealed class WhyNot(StaffDirectory staff, RuleSentence sentence)
{
    /// <summary>The answer for one rule.</summary>
    /// <param name="person">The person's id.</param>
    /// <param name="facts">The event.</param>
    /// <param name="decision">The rule's verdict, with its conditions.</param>
    /// <param name="outcome">What became of it.</param>
    /// <param name="told">Who was told by it, with the words for how; of the alert that it raised or joined.</param>
    /// <param name="left">Who was left out, with the reasons.</param>
    public Why Of(
        string person,
        Facts facts,
        Decision decision,
        Outcome outcome,
        IReadOnlyList<(string Person, string How)> told,
        IReadOnlyList<(string Person, string Because)> left
    )
    {
        var name = staff.NameOf(person);
        var names = decision.Rule.Cases.Any(c => c.Tell.Concat(c.Ladder.SelectMany(s => s.Tell)).Any(r => Names(r, person, facts)));
        Why Say(Standing standing, string because) => new(decision, standing, names, because);
        if (told.FirstOrDefault(t => t.Person == person) is { Person: not null } found)
        {
            return Say(Standing.Told, $"{name} was told {found.How}.");
        }

        return outcome switch
        {
            Outcome.Off => Say(Standing.Off, "The rule was off when this event came in."),
            Outcome.NotMatched => Say(Standing.NotMatched, Failed(decision)),
            Outcome.TooLate => Say(Standing.Silent, "It fitted, and the event came too late to tell anybody."),
            Outcome.Resting => Say(Standing.Silent, "It fitted within the rule's rest period, so nobody was told again."),
            Outcome.Joined when told.Count == 0 => Say(
                Standing.Silent,
                "It fitted while an alert of the same rule was open, and joined it: nobody is told twice."
            ),
            _ when left.FirstOrDefault(l => l.Person == person) is { Person: not null } out1 => Say(Standing.LeftOut, $"{name} was left out: {out1.Because}."),
            _ when decision.Case is { Tell.IsEmpty: true } => Say(Standing.Silent, $"The case '{decision.Case.Name}' fitted, which tells nobody."),
            _ when told.Count > 0 => Say(
                Standing.Others,
                $"It told {string.Join(", ", told.Select(t => staff.NameOf(t.Person)).Distinct())}, and does not name {name} for this order."
            ),
            _ => Say(
                Standing.Silent,
                left.Count > 0
                    ? $"It fitted and reached nobody: {string.Join("; ", left.Select(l => $"{staff.NameOf(l.Person)}, {l.Because}").Distinct())}."
                    : "It fitted, and told nobody."
            ),
        };
    }

    /// <summary>The first condition that failed, with what the order had.</summary>
    public string Failed(Decision decision)
    {
        if (decision.Conditions.FirstOrDefault(c => !c.Holds) is not { } failed)
        {
            return "No case fitted.";
        }

        return $"It did not fit: {(failed.Case is null ? "" : $"case {failed.Case}, ")}{sentence.Of(failed)} – {sentence.Met(failed)}.";
    }

    private bool Names(Recipient recipient, string person, Facts facts) =>
        recipient switch
        {
            PersonRecipient p => p.Person == person,
            { OfTeam: { } team } => InTeam(team, person),
            RoleRecipient { Role: OrderRole.Salesperson } => Facts.Member(facts.Event.After, "salesperson") is { ValueKind: JsonValueKind.String } code
                && staff.ByCode(code.GetString()!)?.Id == person,
            RoleRecipient { Role: OrderRole.SiteManager } => Manages(Facts.Member(facts.Event.After, "site"), person),
            RoleRecipient { Role: OrderRole.LineSiteManager } => facts.Lines.Any(l => Manages(Facts.Member(l, "site"), person)),
            RoleRecipient { Role: OrderRole.LineSiteDuty } => facts.Lines.Any(l =>
                Facts.Member(l, "site") is { ValueKind: JsonValueKind.String } s && staff.Site(s.GetString()!)?.Team is { } there && InTeam(there, person)
            ),
            _ => false,
        };

    private bool InTeam(string team, string person) => staff.Members(team).Any(m => m.Id == person);

    private bool Manages(JsonElement site, string person) => site.ValueKind == JsonValueKind.String && staff.Site(site.GetString()!)?.Manager == person;
}
