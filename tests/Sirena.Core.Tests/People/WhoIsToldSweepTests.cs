using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Insight;
using Sirena.Core.People;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.People;

/// <summary>
/// Who is told of many alerts in houses that are drawn by a seed, kept as it was found good: leave and covers, opt-outs, quiet hours, broken and unproved
/// addresses, places, duty, outsiders, customers, and how each meets the others.
/// </summary>
public sealed class WhoIsToldSweepTests
{
    private static readonly string[] Ids = ["ana", "bela", "ciro", "dora", "eli", "filip", "greta", "hugo"];

    private static bool Seldom(Random chance, int one) => chance.Next(one) == 0;

    private static Person Somebody(Random chance, string id, Instant now)
    {
        ContactPoint Way(Channel channel, string address) =>
            new()
            {
                Channel = channel,
                Address = address,
                Verified = !Seldom(chance, 3),
                Pending = Seldom(chance, 4),
                BrokenAt = Seldom(chance, 6) ? now : null,
                BrokenBecause = "550 no such mailbox",
            };
        OptOut Wish() =>
            Seldom(chance, 2)
                ? new OptOut(Any(chance, "order.held", "order.placed"), null, Any<Channel?>(chance, null, Channel.Mail, Channel.Sms))
                : new OptOut(null, Any(chance, "held", "other"), Any<Channel?>(chance, null, Channel.Mail));
        var person = new Person
        {
            Id = id,
            Name = id.ToUpperInvariant(),
            Outside = Seldom(chance, 6),
            ArchivedAt = Seldom(chance, 8) ? now : null,
            Teams = [.. new[] { "kitchen", "desk", "night" }.Where(_ => Seldom(chance, 2))],
            Codes = Seldom(chance, 3) ? [id + "-1"] : [],
            OptOuts = Seldom(chance, 3) ? [Wish(), Wish()] : [],
        };
        if (!Seldom(chance, 5))
        {
            person.Contacts.Add(Way(Channel.Mail, $"{id}@one.example"));
            person.Contacts.Add(Way(Channel.Mail, $"{id}@two.example"));
        }

        if (!Seldom(chance, 3))
        {
            person.Contacts.Add(Way(Channel.Sms, $"+44770090{id.Length}{id[0] - 'a'}12"));
        }

        if (Seldom(chance, 4))
        {
            person.Quiet.Add(new WeeklySpan([], new LocalTime(chance.Next(24), 0), new LocalTime(chance.Next(24), 30)));
        }

        if (Seldom(chance, 3))
        {
            var from = now.Plus(Duration.FromHours(chance.Next(-60, 10)));
            person.Away.Add(new Leave(from, from + Duration.FromHours(chance.Next(2, 400)), Seldom(chance, 3) ? null : Any(chance, [.. Ids, "nobody"]), false));
        }

        if (Seldom(chance, 2))
        {
            person.First[Any(chance, Urgency.Prompt, Urgency.Urgent)] = Any(chance, Channel.Sms, Channel.Screen);
        }

        return person;
    }

    private static Shift Duty(string team, string person, Instant from, int hours, string rest) =>
        new()
        {
            Team = team,
            Uid = person + from,
            People = [person],
            Component =
                $"BEGIN:VEVENT\r\nUID:{person}{from.ToUnixTimeSeconds()}\r\nDTSTART:{from:uuuuMMdd'T'HHmmss'Z'}\r\nDURATION:PT{hours}H\r\n{rest}END:VEVENT\r\n",
        };

    private static StaffDirectory House(Random chance, Instant now) =>
        new(
            [.. Ids.Select(id => Somebody(chance, id, now))],
            [
                new Team { Id = "kitchen", Name = "Kitchen" },
                new Team
                {
                    Id = "desk",
                    Name = "Desk",
                    MayOptOut = false,
                },
                new Team { Id = "night", Name = "Night watch" },
            ],
            [
                new Site
                {
                    Id = "galley",
                    Name = "Galley",
                    Manager = Any(chance, Ids),
                    Team = "kitchen",
                },
                new Site
                {
                    Id = "dock",
                    Name = "Dry dock",
                    Team = Any(chance, null, "night", "gone"),
                },
            ],
            new Rota(
                [
                    .. Enumerable
                        .Range(0, 6)
                        .Select(_ =>
                            Duty(
                                Any(chance, "kitchen", "night"),
                                Any(chance, Ids),
                                now.Plus(Duration.FromHours(chance.Next(-30, 40))),
                                chance.Next(2, 14),
                                Any(chance, "", "LOCATION:Galley\r\n", "RRULE:FREQ=DAILY\r\n", "RRULE:FREQ=WEEKLY\r\n")
                            )
                        ),
                ],
                Lisbon
            )
        )
        {
            Refused = Seldom(chance, 4) ? new HashSet<string> { "mail purser@corvane.example" } : [],
        };

    private static Recipient Somewhere(Random chance) =>
        chance.Next(9) switch
        {
            0 or 1 => new PersonRecipient(Any(chance, [.. Ids, "nobody"]), Seldom(chance, 3)),
            2 => new TeamRecipient(Any(chance, "kitchen", "desk", "night", "gone")),
            3 or 4 => new DutyRecipient(Any(chance, "kitchen", "night", "desk")),
            5 => new AddressRecipient(Any(chance, "harbour@office.example", "+351212345678"), !Seldom(chance, 3)),
            _ => new RoleRecipient(Any(chance, Enum.GetValues<OrderRole>())),
        };

    [Fact]
    public void Many_alerts_in_many_houses_reach_whom_they_reached()
    {
        var chance = new Random(1_852);
        var told = new List<string>();
        for (var n = 1; n <= 300; n++)
        {
            var now = Noon.Plus(Duration.FromMinutes(chance.Next(0, 7 * 24 * 60)));
            var house = House(chance, now);
            var order = Any(
                chance,
                "{}",
                """{"salesperson":"ana-1","site":"galley"}""",
                """{"salesperson":"bela","site":"dock","customer":{"name":"Corvane","email":"purser@corvane.example","phone":"+447700900123"}}""",
                """{"salesperson":"nobody","site":"gone","lines":[{"site":"galley"},{"site":"dock"},{"site":"galley"}]}""",
                """{"customer":{"email":"purser@corvane.example"},"lines":[{"sku":"A"},{"site":"dock"}]}"""
            );
            Recipient[] tell = [.. Enumerable.Range(0, chance.Next(1, 4)).Select(_ => Somewhere(chance))];
            var by = Any(
                chance,
                null,
                Ways.AllAtOnce(Channel.Mail, Channel.Sms),
                Ways.AllAtOnce(Channel.Screen),
                new Ways([Channel.Mail, Channel.Sms, Channel.Screen], true, Ways.UsualWait)
            );
            var question = new TellQuestion(tell, by, Any(chance, Enum.GetValues<Urgency>()), "order.held", "held", !Seldom(chance, 4), now);
            var facts = Facts(order);
            var business = new Business { Quiet = Seldom(chance, 5) ? [new WeeklySpan([], new LocalTime(22, 0), new LocalTime(6, 0))] : [] };
            var who = new WhoIsTold(house, business, facts).Resolve(question);
            told.Add(
                $"{n}: {now}, {question.Urgency}{(question.MayOptOut ? "" : ", no opting out")}: {string.Join(" + ", tell.Select(t => t.ToString()))} of {order}"
            );
            told.AddRange(
                who.Told.Select(t => $"  {t.Person ?? "-"} by {t.Channel} at {t.Contact}{(t.Verified ? "" : " (unproved)")}: {t.Because} [{t.Audience}]")
            );
            told.AddRange(who.Held.Select(t => $"  {t.Person} by {t.Channel} held until {t.HeldUntil}"));
            told.AddRange(who.Left.Select(l => $"  not {l.Person}{(l.Nobody ? " at all" : "")}: {l.Because}"));
            var rule = Rule("held", null, cases: new RuleCase { Name = "always", Tell = [.. tell] });
            var decision = new CompiledRule(rule, 1).Explain(facts);
            var why = new WhyNot(house, new RuleSentence(id => id));
            told.Add($"  names {string.Join(' ', Ids.Where(id => why.Of(id, facts, decision, decision.Outcome, [], []).Names))}");
        }

        Kept.Same("who-is-told", told);
    }
}
