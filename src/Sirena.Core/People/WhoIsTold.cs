using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;

namespace Sirena.Core.People;

/// <summary>
/// Resolves recipients into contact points at an instant: teams, duty, leave and cover, opt-outs, quiet hours, broken addresses. A person is told once however
/// often they are named.
/// </summary>
/// <param name="directory">Everybody, and the rota.</param>
/// <param name="business">Its time zone and its quiet hours.</param>
/// <param name="facts">The event and its order.</param>
public sealed partial class WhoIsTold(StaffDirectory directory, Business business, Facts facts)
{
    private const int LongestChain = 20;
    private readonly DateTimeZone zone = business.Zone;

    /// <summary>The answer: everyone told with their contact points and reasons, everyone left out with theirs.</summary>
    public Resolution Resolve(TellQuestion question)
    {
        var asked = new Asked(question, question.By?.Channels.ToArray() ?? [Channel.Mail]);
        foreach (var recipient in question.Tell)
        {
            var named = Named(recipient, question.At).ToArray();
            var before = asked.Left.Count;
            var reached = false;
            foreach (var one in named)
            {
                reached |=
                    one.Contact is { } contact ? Reach(asked, one, contact)
                    : one.Problem is { } problem ? Leave(asked, one.Who, problem, one.OffDuty)
                    : Reach(asked, one);
            }

            if (!reached)
            {
                // The recipient itself is recorded, so that it is never silent that it stands for nobody.
                var (who, why) =
                    named.Length == 1 && asked.Left.Count > before
                        ? (named[0].Who, asked.Left[^1].Because)
                        : (recipient.Id, "reaches nobody of those it stands for");
                var own = asked.Left.FindLastIndex(l => l.Person == who && (l.Because == why || (named.Length > 1 && !l.Nobody)));
                if (own >= before)
                {
                    why = asked.Left[own].Because;
                    asked.Left.RemoveAt(own);
                }

                asked.Left.Add(new LeftOut(who, why, Nobody: true));
            }
        }

        var told = asked.Told.Where(t => t.HeldUntil is null).ToList();
        asked.Left.RemoveAll(l => (l.OffDuty && asked.Told.Exists(t => t.Person == l.Person)) || (l.OtherWay && asked.Told.Exists(t => t.Customer)));
        return new Resolution(told, [.. asked.Told.Where(t => t.HeldUntil is not null)], [.. asked.Left.Distinct()]);
    }

    // ---- whom a recipient names ----

    private IEnumerable<Candidate> Named(Recipient recipient, Instant at)
    {
        switch (recipient)
        {
            case PersonRecipient p:
                return [Person(p.Person, "you are named in it") with { Permitted = p.Outside }];
            case TeamRecipient t when directory.Team(t.Team) is { } team:
                var members = directory
                    .Members(t.Team)
                    .Where(m => m.ArchivedAt is null)
                    .Select(m => new Candidate(m.Id, $"you are in {team.Name}", Team: team))
                    .ToArray();
                return members.Length > 0 ? members : [new Candidate(t.Team, "", $"nobody is in {team.Name}")];
            case DutyRecipient d when directory.Team(d.Team) is { } team:
                return Duty(team, at, null, d.Team);
            case { OfTeam: { } id }:
                return [new Candidate(id, "", "there is no such team")];
            case AddressRecipient a:
                return [Address(a)];
            default:
                return OfRole(((RoleRecipient)recipient).Role, at);
        }
    }

    private IEnumerable<Candidate> Duty(Team team, Instant at, Site? place, string id)
    {
        // Asked again at the end: what cannot be worked out is seen only when it is looked for.
        Candidate? Unreadable() =>
            directory.Rota.Fault(team.Id) is { } fault ? new Candidate(id, "", $"the rota of {team.Name} cannot be read: {fault.TrimEnd('.')}") : null;
        if (Unreadable() is { } broken)
        {
            yield return broken;
            yield break;
        }

        var where = place is null ? team.Name : $"{team.Name} at {place.Name}";
        var on = directory.Rota.OnDuty(team.Id, at, place).Select(d => d.Person).Distinct().ToArray();
        foreach (var person in on)
        {
            yield return Person(person, $"you are on duty for {where}") with
            {
                Team = team,
            };
        }

        foreach (var member in directory.Members(team.Id).Where(m => m.ArchivedAt is null && !on.Contains(m.Id)))
        {
            yield return new Candidate(
                member.Id,
                "",
                directory.Rota.Next(team.Id, at, member.Id) is { } next ? $"off duty until {Moment(next.From, at)}" : "off duty",
                OffDuty: true
            );
        }

        if (Unreadable() is { } late)
        {
            yield return late;
        }
        else if (on.Length == 0)
        {
            yield return new Candidate(
                id,
                "",
                directory.Rota.Next(team.Id, at) is { } next ? $"nobody of {where} is on duty until {Moment(next.From, at)}"
                    : directory.Rota.Has(team.Id) ? $"nobody of {where} is on duty"
                    : $"{team.Name} has no rota"
            );
        }
    }

    private IEnumerable<Candidate> OfRole(OrderRole role, Instant at)
    {
        var sites = facts.Lines.Select(l => Facts.Text(l, "site")).OfType<string>().Distinct().ToArray();
        switch (role)
        {
            case OrderRole.Salesperson:
                return [Salesperson()];
            case OrderRole.SiteManager:
                return [Manager(Facts.Text(facts.Event.After, "site"))];
            case OrderRole.LineSiteManager:
                return sites.Select(Manager).DefaultIfEmpty(new Candidate("line-site-manager", "", "no line of the order names a site"));
            case OrderRole.LineSiteDuty:
                return sites.SelectMany(s => OnDutyAt(s, at)).DefaultIfEmpty(new Candidate("line-site-duty", "", "no line of the order names a site"));
            default:
                return Customer();
        }
    }

    private Candidate Salesperson() =>
        Facts.Text(facts.Event.After, "salesperson") is not { } code ? new Candidate("salesperson", "", "the order names no salesperson")
        : directory.ByCode(code) is { } person ? Person(person.Id, "you are the order's salesperson")
        : new Candidate(code, "", $"nobody is known by the salesperson code '{code}'");

    private Candidate Manager(string? site) =>
        site is null ? new Candidate("site-manager", "", "the order names no site")
        : directory.Site(site) is not { } known ? new Candidate(site, "", $"there is no site '{site}'")
        : known.Manager is null ? new Candidate(site, "", $"{known.Name} has no manager")
        : Person(known.Manager, $"you manage {known.Name}");

    private IEnumerable<Candidate> OnDutyAt(string site, Instant at) =>
        directory.Site(site) is not { } known ? [new Candidate(site, "", $"there is no site '{site}'")]
        : known.Team is null || directory.Team(known.Team) is not { } team ? [new Candidate(site, "", $"no team works at {known.Name}")]
        : Duty(team, at, known, site);

    private IEnumerable<Candidate> Customer()
    {
        var order = facts.Event.After;
        var name = Facts.Text(order, "customer", "name") ?? "customer";
        Contact?[] contacts = [Point(Channel.Mail, Facts.Text(order, "customer", "email")), Point(Channel.Sms, Facts.Text(order, "customer", "phone"))];
        var good = contacts.OfType<Contact>().ToArray();
        return good.Length == 0
            ? [new Candidate(name, "", "the order has no address of the customer")]
            : good.Select(c =>
                directory.Refused.Contains($"{c.Channel.Name()} {c.Address.ToLowerInvariant()}")
                    ? new Candidate(name, "", $"the customer wants nothing more by {c.Channel.Traits().Word} at {c.Address}")
                    : new Candidate(name, "you are the order's customer", Contact: c, Customer: true)
            );

        static Contact? Point(Channel channel, string? text) =>
            text is not null && Addresses.Read(channel, text).Good is [var address, ..] ? new Contact(channel, address) : null;
    }

    private static Candidate Address(AddressRecipient recipient) =>
        recipient.Outside
            ? new Candidate(
                recipient.Address,
                "this address is named in it",
                Contact: new Contact(recipient.Address.Contains('@', StringComparison.Ordinal) ? Channel.Mail : Channel.Sms, recipient.Address)
            )
            : new Candidate(recipient.Address, "", "no permission for outside: the rule does not say 'outside: true'");

    private Candidate Person(string id, string because) =>
        directory.Person(id) is null ? new Candidate(id, "", "there is no such person") : new Candidate(id, because);

    // ---- whether they can be reached ----

    private sealed record Contact(Channel Channel, string Address);

    /// <summary>Somebody whom a recipient names, or the reason why it names nobody.</summary>
    private sealed record Candidate(
        string Who,
        string Because,
        string? Problem = null,
        Contact? Contact = null,
        Team? Team = null,
        bool Permitted = false,
        bool Customer = false,
        bool OffDuty = false
    );

    private sealed class Asked(TellQuestion question, Channel[] channels)
    {
        public TellQuestion Question => question;

        public Channel[] Channels => channels;

        public List<Told> Told { get; } = [];

        public List<LeftOut> Left { get; } = [];

        public HashSet<string> Seen { get; } = new(StringComparer.OrdinalIgnoreCase);
    }
}
