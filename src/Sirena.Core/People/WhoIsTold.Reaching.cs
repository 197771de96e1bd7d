using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Core.People;

public sealed partial class WhoIsTold
{
    private static bool Leave(Asked asked, string who, string because, bool offDuty = false)
    {
        asked.Left.Add(new LeftOut(who, because) { OffDuty = offDuty });
        return false;
    }

    private static bool Reach(Asked asked, Candidate one, Contact contact)
    {
        if (!asked.Channels.Contains(contact.Channel))
        {
            asked.Left.Add(new LeftOut(one.Who, $"{contact.Address} works only by {contact.Channel.Traits().Word}") { OtherWay = one.Customer });
            return false;
        }

        if (asked.Seen.Add($"{contact.Channel} {contact.Address}"))
        {
            asked.Told.Add(new Told(null, contact.Channel, contact.Address, one.Because, Customer: one.Customer));
        }

        return true;
    }

    private bool Reach(Asked asked, Candidate one)
    {
        var (person, because) = Standing(asked, one);
        if (person is null)
        {
            return false;
        }

        if (person.Outside && !one.Permitted)
        {
            return Leave(asked, person.Id, "no permission for outside: the rule does not say 'outside: true'");
        }

        if (!asked.Seen.Add(person.Id))
        {
            return asked.Told.Exists(t => t.Person == person.Id);
        }

        var reached = false;
        foreach (var channel in Order(person, asked))
        {
            reached |= Reach(asked, person, channel, because, mayOptOut: asked.Question.MayOptOut && (one.Team?.MayOptOut ?? true));
        }

        return reached;
    }

    private bool Reach(Asked asked, Person person, Channel channel, string because, bool mayOptOut)
    {
        var question = asked.Question;
        if (mayOptOut && person.OptOuts.Find(o => o.Covers(question.Event, question.Rule, channel)) is { } wish)
        {
            return Leave(
                asked,
                person.Id,
                $"opted out of {(wish.Event is not null ? wish.Event : "this rule")}{(wish.Channel is { } only ? $" by {only.Traits().Word}" : "")}"
            );
        }

        if (Point(person, channel) is not { } point)
        {
            return Leave(asked, person.Id, Why(person, channel));
        }

        // Urgent passes quiet hours, not opt-outs.
        var until = question.Urgency >= business.QuietPasses ? null : WeeklySpan.Until([.. person.Quiet, .. business.Quiet], question.At, zone);
        asked.Told.Add(new Told(person.Id, channel, point.Address, because, point.Verified, until));
        if (until is { } end)
        {
            Leave(asked, person.Id, $"quiet until {Moment(end, question.At)}");
        }

        return true;
    }

    // Leave sends to the cover, and covers chain; a circle is an answer, not a hang.
    private (Person? Person, string Because) Standing(Asked asked, Candidate one)
    {
        var (person, because, chain) = (directory.Person(one.Who)!, one.Because, new List<string>());
        while (true)
        {
            if (person.ArchivedAt is not null)
            {
                Leave(asked, person.Id, "archived");
                return default;
            }

            if (person.Away.Find(a => a.Holds(asked.Question.At)) is not { } leave)
            {
                return (person, because);
            }

            chain.Add(person.Id);
            if (leave.Cover is null || directory.Person(leave.Cover) is not { } cover)
            {
                Leave(asked, person.Id, $"away until {Moment(leave.To, asked.Question.At)}, nobody covers");
                return default;
            }

            if (chain.Contains(cover.Id) || chain.Count > LongestChain)
            {
                Leave(asked, person.Id, $"away, and the covers go in a circle: {string.Join(" → ", [.. chain.Select(directory.NameOf), cover.Name])}");
                return default;
            }

            Leave(asked, person.Id, $"away until {Moment(leave.To, asked.Question.At)}, {cover.Name} covers");
            (because, person) = (
                $"you cover for {directory.NameOf(chain[0])}{(chain.Count > 1 ? $", for whom {directory.NameOf(chain[^1])} would" : "")}: "
                    + $"{Theirs(one.Because)}",
                cover
            );
        }
    }

    // 'you are in Kitchen' becomes 'they are in Kitchen'.
    private static string Theirs(string because) => because.StartsWith("you ", StringComparison.Ordinal) ? $"they {because[4..]}" : because;

    private static IEnumerable<Channel> Order(Person person, Asked asked) =>
        asked.Question.By is { FirstThatLands: true } && person.First.TryGetValue(asked.Question.Urgency, out var first)
            ? asked.Channels.OrderByDescending(c => c == first)
            : asked.Channels;

    private static ContactPoint? Point(Person person, Channel channel)
    {
        if (channel.Traits().OnSight)
        {
            // Whoever is of the house has a list of their own on the screen.
            return person.Outside
                ? null
                : new ContactPoint
                {
                    Channel = channel,
                    Address = person.Id,
                    Verified = true,
                };
        }

        ContactPoint? usable = null;
        foreach (var point in person.Contacts)
        {
            if (point.Channel == channel && point.Usable)
            {
                if (point.Verified)
                {
                    return point;
                }

                usable ??= point;
            }
        }

        return usable;
    }

    private static string Why(Person person, Channel channel)
    {
        var points = person.Contacts.Where(c => c.Channel == channel).ToArray();
        return points.FirstOrDefault(p => p.BrokenAt is not null) is { } broken ? $"{broken.Address} is broken: {broken.BrokenBecause}"
            : points.Length > 0 ? $"{points[0].Address} is not used until its code was sent back"
            : channel.Traits().Lacking;
    }

    private string Moment(Instant then, Instant now)
    {
        var (local, today) = (then.InZone(zone), now.InZone(zone).Date);
        var days = Period.DaysBetween(today, local.Date);
        return local.ToString(
            days == 0 ? "HH:mm"
                : days < 7 ? "ddd HH:mm"
                : "d MMM HH:mm",
            System.Globalization.CultureInfo.InvariantCulture
        );
    }
}
