using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.People;
using Sirena.Engine.Rules;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>Who would be told: a rule or recipients, an order, and a time that can be moved. Nobody is told.</summary>
[Authorize(Policies.SeeAll)]
public sealed class WhoModel(RuleShelf shelf, WhoDesk desk) : PeoplePage
{
    /// <summary>A rule's id, or empty for recipients.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Rule { get; set; }

    /// <summary>The case of the rule, or empty for its first.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Case { get; set; }

    /// <summary>The recipients, as <c>duty:kitchen</c>, <c>team:desk</c>, <c>person:noor.haddad</c>, <c>role:salesperson</c>.</summary>
    [BindProperty(SupportsGet = true)]
    public string[] Tell { get; set; } = [];

    /// <summary>The channels, for recipients.</summary>
    [BindProperty(SupportsGet = true)]
    public string[] By { get; set; } = [];

    /// <summary>The urgency, for recipients.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Urgency { get; set; }

    /// <summary>An order's number, or empty.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Order { get; set; }

    /// <summary>The moment, wall clock; now where it is missing.</summary>
    [BindProperty(SupportsGet = true)]
    public string? At { get; set; }

    /// <summary>The rules that can be asked for.</summary>
    public IReadOnlyList<Rule> Rules { get; private set; } = [];

    /// <summary>The answer.</summary>
    public Resolution? Answer { get; private set; }

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>The moment that is asked for.</summary>
    public Instant Moment { get; private set; }

    /// <summary>The chosen rule.</summary>
    public Rule? Chosen { get; private set; }

    /// <summary>The recipients and the way, in the words of the sentence.</summary>
    public string Sentence { get; private set; } = "";

    /// <summary>The recipients that can be chosen.</summary>
    public IEnumerable<(string Value, string Name)> Recipients =>
        [
            .. from kind in RecipientKinds.All.OrderBy(k => k.Place)
            where kind.Holds is RecipientHolds.Team or RecipientHolds.Role
            from id in kind.Holds == RecipientHolds.Team
                ? Around.Staff.Teams.OrderBy(t => t.Name, StringComparer.Ordinal).Select(t => t.Id)
                : Names.All<OrderRole>()
            let recipient = kind.Make(id, true)
            select (recipient.Key, recipient.Said(Around.NameOf)),
            .. Around.Staff.People.Where(p => p.ArchivedAt is null).OrderBy(p => p.Name, StringComparer.Ordinal).Select(p => ($"person:{p.Id}", p.Name)),
        ];

    /// <summary>Answers.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        Rules =
        [
            .. (await shelf.CurrentAsync(cancel))
                .Rules.Select(r => r.Rule)
                .Where(r => r.Cases.Any(c => c.Tell.Length > 0))
                .OrderBy(r => r.Name, StringComparer.Ordinal),
        ];
        Rule ??= Tell.Length == 0 ? Rules.Select(r => r.Id).FirstOrDefault() : null;
        Moment = Clock.Read(At) ?? Clock.Now;
        At = DeskTime.Field.Format(Moment.InZone(Clock.Zone).LocalDateTime);
        Chosen = Rules.FirstOrDefault(r => r.Id == Rule);
        var (tell, by) = Chosen is { } rule
            ? Of(rule)
            : (
                Tell.Select(Read).OfType<Recipient>().ToArray(),
                By.Select(Names.Parse<Channel>).OfType<Channel>().ToArray() is { Length: > 0 } channels ? Ways.AllAtOnce(channels) : null
            );
        if (tell.Count == 0)
        {
            Problem = "Choose a rule, or at least one recipient.";
            return;
        }

        string? order = null;
        if (!string.IsNullOrWhiteSpace(Order) && (order = await desk.OrderAsync(Order.Trim(), cancel)) is null)
        {
            Problem = $"No event has told of the order '{Order}'. Give another number, or leave it empty.";
            return;
        }

        var words = Around.Sentences;
        Sentence = $"{string.Join(", ", tell.Select(words.Of))}, by {string.Join(", ", (by?.Channels ?? [Channel.Mail]).Select(c => c.Traits().Word))}";
        Answer = await desk.AskAsync(
            new TellQuestion(
                tell,
                by,
                Chosen?.Urgency ?? Names.Parse<Urgency>(Urgency) ?? Core.Rules.Urgency.Prompt,
                Chosen?.When[0] ?? "order.placed",
                Chosen?.Id,
                Chosen?.MayOptOut ?? true,
                Moment
            ),
            order,
            cancel
        );
    }

    /// <summary>A person, team or site by name, a role in the words of the sentence.</summary>
    public string NameOf(string who) => Names.Parse<OrderRole>(who) is { } role ? new RoleRecipient(role).Said(Around.NameOf) : Around.NameOf(who);

    /// <summary>Who that is can only be said for an order, and none is given.</summary>
    public bool DependsOnOrder(string who) => string.IsNullOrWhiteSpace(Order) && Names.Parse<OrderRole>(who) is not null;

    private (IReadOnlyList<Recipient> Tell, Ways? By) Of(Rule rule)
    {
        var one = rule.Case(Case) ?? rule.Cases.First(c => c.Tell.Length > 0);
        Case = one.Name;
        return (one.Tell, one.By);
    }

    private static Recipient? Read(string? text) => text?.Split(':', 2) is [var member, var id] ? RecipientKinds.Find(member)?.Make(id, true) : null;
}
