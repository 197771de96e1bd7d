using System.Text.Json;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;

namespace Sirena.Core.People;

/// <summary>Somebody who is told, over one contact point.</summary>
/// <param name="Person">The person's id, or <see langword="null"/> for an outside address.</param>
/// <param name="Channel">By what.</param>
/// <param name="Contact">The address.</param>
/// <param name="Because">Why: <c>you are in Kitchen</c>, to be read after 'because'.</param>
public sealed record Told(string? Person, Channel Channel, string Contact, string Because);

/// <summary>Somebody who was named and is not told, and why.</summary>
/// <param name="Person">The person's id, or the recipient in words where it is no person.</param>
/// <param name="Because">The reason: <c>no mail address</c>.</param>
public sealed record LeftOut(string Person, string Because);

/// <summary>Who is told and who is left out; nobody who was named is missing from both.</summary>
public sealed record Resolution(IReadOnlyList<Told> Told, IReadOnlyList<LeftOut> Left);

/// <summary>Resolves recipients into contact points.</summary>
/// <param name="directory">Everybody.</param>
/// <param name="facts">The event and its order.</param>
public sealed class WhoIsTold(StaffDirectory directory, Facts facts)
{
    /// <summary>The contact points of all recipients, each person once, each with its reason; and everyone left out with theirs.</summary>
    public Resolution Resolve(IEnumerable<Recipient> recipients, Ways? ways)
    {
        var channels = ways?.Channels ?? [Channel.Mail];
        var told = new List<Told>();
        var left = new List<LeftOut>();
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var (person, because, problem) in recipients.SelectMany(r => People(r, channels, told, seen)))
        {
            if (problem is not null)
            {
                left.Add(new LeftOut(person, problem));
            }
            else if (seen.Add(person))
            {
                Reach(directory.Person(person)!, because, channels, told, left);
            }
        }

        return new Resolution(told, left);
    }

    private static void Reach(Person person, string because, IEnumerable<Channel> channels, List<Told> told, List<LeftOut> left)
    {
        foreach (var channel in channels)
        {
            var points = person.Contacts.Where(c => c.Channel == channel).ToArray();
            var point = points.Where(c => c.BrokenAt is null).OrderByDescending(c => c.Verified).FirstOrDefault();
            if (point is not null)
            {
                told.Add(new Told(person.Id, channel, point.Address, because));
            }
            else
            {
                left.Add(new LeftOut(person.Id, points.Length == 0 ? $"no {RuleSentence.Word(channel)} address" : $"{points[0].Address} is broken: {points[0].BrokenBecause}"));
            }
        }
    }

    private IEnumerable<(string Person, string Because, string? Problem)> People(Recipient recipient, IEnumerable<Channel> channels, List<Told> told, HashSet<string> seen)
    {
        switch (recipient)
        {
            case PersonRecipient p:
                return [Known(p.Person, "you are named in it")];
            case TeamRecipient t when directory.Team(t.Team) is { } team:
                var members = directory.Members(t.Team).Where(m => m.ArchivedAt is null).Select(m => Known(m.Id, $"you are in {team.Name}")).ToArray();
                return members.Length > 0 ? members : [(t.Team, "", $"nobody is in {team.Name}")];
            case TeamRecipient t:
                return [(t.Team, "", "there is no such team")];
            case AddressRecipient a:
                return Address(a, channels, told, seen);
            case RoleRecipient { Role: OrderRole.Salesperson }:
                return [Named("salesperson", "the order's salesperson", "you are the order's salesperson")];
            case RoleRecipient { Role: OrderRole.SiteManager }:
                return [Manager(Facts.Member(facts.Event.After, "site"))];
            case RoleRecipient { Role: OrderRole.LineSiteManager }:
                return facts.Lines.Select(l => Facts.Member(l, "site")).DistinctBy(s => s.ToString()).Select(Manager).DefaultIfEmpty(("the managers of the lines' sites", "", "the order has no lines"));
            default:
                return [(new RuleSentence(directory.NameOf).Of(recipient), "", "Sirena cannot find out yet who that is")];
        }
    }

    private (string Person, string Because, string? Problem) Known(string id, string because) => directory.Person(id) switch
    {
        null => (id, because, "there is no such person"),
        { ArchivedAt: not null } => (id, because, "archived"),
        _ => (id, because, null),
    };

    private (string Person, string Because, string? Problem) Named(string member, string who, string because) =>
        Facts.Member(facts.Event.After, member) is { ValueKind: JsonValueKind.String } id ? Known(id.GetString()!, because) : (who, because, "the order names none");

    private (string Person, string Because, string? Problem) Manager(JsonElement site)
    {
        var id = site.ValueKind == JsonValueKind.String ? site.GetString()! : null;
        return id is null ? ("the manager of the order's site", "", "the order names no site")
            : directory.Site(id) is not { } known ? ($"the manager of {id}", "", "there is no such site")
            : known.Manager is null ? ($"the manager of {known.Name}", "", "the site has no manager")
            : Known(known.Manager, $"you manage {known.Name}");
    }

    private static IEnumerable<(string Person, string Because, string? Problem)> Address(AddressRecipient recipient, IEnumerable<Channel> channels, List<Told> told, HashSet<string> seen)
    {
        if (!recipient.Outside)
        {
            return [(recipient.Address, "", "no permission for outside: the rule does not say 'outside: true'")];
        }

        var fits = recipient.Address.Contains('@', StringComparison.Ordinal) ? Channel.Mail : Channel.Sms;
        if (!channels.Contains(fits))
        {
            return [(recipient.Address, "", $"the address works only by {RuleSentence.Word(fits)}")];
        }

        if (seen.Add(recipient.Address))
        {
            told.Add(new Told(null, fits, recipient.Address, "this address is named in it"));
        }

        return [];
    }
}
