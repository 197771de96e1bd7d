using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text.Json;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Storage.Access;

namespace Sirena.Engine.Decide;

/// <summary>
/// Decides one event: which alerts are raised or joined, who is told by what, in which words. Reads nothing and writes nothing; the worker and the maker of the demo's
/// history both store what it returns.
/// </summary>
public sealed class EventDecision(Surroundings around, Instant now)
{
    /// <summary>How the reason of a delivery begins while its rule's other alerts for the same reader are gathered into its message.</summary>
    public const string GatheredUntil = "gathered until ";

    /// <summary>JSON in the stored resolutions.</summary>
    public static JsonSerializerOptions Json { get; } =
        new JsonSerializerOptions(JsonSerializerDefaults.Web) { Converters = { new ChannelJson() }, DefaultIgnoreCondition = System.Text.Json.Serialization.JsonIgnoreCondition.WhenWritingNull }.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    private readonly IReadOnlySet<Channel> reachable = around.Reachable;

    /// <summary>Decides.</summary>
    /// <param name="happened">The event.</param>
    /// <param name="book">The rule book that it was stamped with.</param>
    /// <param name="latest">The newest alert of a rule for the event's subject; it is changed where the event joins it.</param>
    /// <param name="gathering">The message of a rule to a reader that is still being gathered; <see langword="null"/> where nothing is gathered.</param>
    public Raised Decide(OrderEvent happened, RuleBook book, Func<string, Alert?> latest, Func<string, (Channel Channel, string Reader), Delivery?>? gathering = null)
    {
        var facts = new Facts(happened, around.Business.Zone, around.Business.Currency);
        var raised = new Raised();
        var telling = new List<(Decision Decision, Alert Alert, Resolution Who, int Step)>();
        foreach (var decision in book.Matches(facts))
        {
            var joining = Joining.Of(decision, happened, happened.Subject is null ? null : latest(decision.Rule.Id), now);
            var alert = joining.Alert ?? (joining.Tells && decision.Case!.Tell.Length > 0 ? Raise(happened, decision) : null);
            raised.Matches.Add(new Match
            {
                EventId = happened.Id,
                RuleId = decision.Rule.Id,
                Version = decision.Version,
                Case = decision.Case!.Name,
                Outcome = joining.Outcome,
                AlertId = alert?.Id,
                At = now,
            });
            if (alert is null)
            {
                continue;
            }

            if (joining.Alert is null)
            {
                raised.Alerts.Add(alert);
                raised.Steps.AddRange(Ahead(happened, decision, alert));
            }

            if (joining.Tells)
            {
                telling.Add((decision, alert, new WhoIsTold(around.Staff, around.Business, facts).Resolve(
                    new TellQuestion(decision.Case.Tell, decision.Case.By, decision.Rule.Urgency, happened.Type, decision.Rule.Id, decision.Rule.MayOptOut, now)), joining.Alert is null ? 0 : -1));
            }
        }

        Tell(facts, telling, raised, gathering);
        return raised;
    }

    /// <summary>Fires a step of an alert's ladder: who is told now, in which words.</summary>
    /// <param name="happened">The event that raised the alert.</param>
    /// <param name="decision">The rule's version, and the case as it was used.</param>
    /// <param name="alert">The alert.</param>
    /// <param name="fired">The step.</param>
    public Raised Fire(OrderEvent happened, Decision decision, Alert alert, AlertStep fired)
    {
        var one = decision.Case!;
        if (fired.Aim is { } aim)
        {
            Recipient to = aim.StartsWith("team:", StringComparison.Ordinal) ? new TeamRecipient(aim["team:".Length..]) : new PersonRecipient(aim["person:".Length..]);
            one = one with { Tell = [to] };
        }
        else
        {
            var step = one.Ladder[fired.Rung - 1];
            one = one with { Tell = step.Tell, By = step.By ?? one.By, Wording = step.Wording ?? one.Wording };
        }

        var facts = new Facts(happened, around.Business.Zone, around.Business.Currency);
        var raised = new Raised();
        var who = new WhoIsTold(around.Staff, around.Business, facts).Resolve(new TellQuestion(one.Tell, one.By, decision.Rule.Urgency, happened.Type, decision.Rule.Id, decision.Rule.MayOptOut, now));
        Tell(facts, [(decision with { Case = one }, alert, who, fired.Index)], raised);
        return raised;
    }

    /// <summary>The ladder from its first step anew, for an alert that was passed on at this moment: first whom it goes to, then the case's steps counted from now.</summary>
    /// <param name="happened">The event that raised the alert.</param>
    /// <param name="ladder">The case's ladder.</param>
    /// <param name="alert">The alert.</param>
    /// <param name="aim"><c>person:</c> or <c>team:</c> and an id.</param>
    /// <param name="from">The first index that is free.</param>
    public IEnumerable<AlertStep> Anew(OrderEvent happened, IReadOnlyList<LadderStep> ladder, Alert alert, string aim, int from)
    {
        var hours = WorkingHours.Usual(around.Business.Zone);
        var due = DueAt(happened);
        yield return new AlertStep { AlertId = alert.Id, Index = from, Rung = 0, Aim = aim, DueAt = now, Told = "[]", Left = "[]" };
        for (var i = 0; i < ladder.Count; i++)
        {
            if (LadderClock.Due(ladder[i], now, due, hours) is { } at)
            {
                yield return new AlertStep { AlertId = alert.Id, Index = from + i + 1, Rung = i + 1, DueAt = at, Told = "[]", Left = "[]" };
            }
        }
    }

    /// <summary>One line to those who were told of an alert that the order's progress has made needless, over the channels by which they were told. Customers read nothing of it.</summary>
    /// <param name="alert">The alert.</param>
    /// <param name="told">Its deliveries so far.</param>
    /// <param name="status">The status that ended it.</param>
    /// <param name="raised">Where the messages go.</param>
    public void Withdraw(Alert alert, IEnumerable<Delivery> told, string status, Raised raised)
    {
        var line = $"{alert.OrderNumber}: nothing more to do, the order is {around.NameOf(status)}";
        foreach (var d in told.Where(d => d.Audience != Audience.Customer && d.Channel != Channel.Ticket && d.State is DeliveryState.HandedOver or DeliveryState.Landed).DistinctBy(d => (d.Channel, d.To)))
        {
            var id = Guid.CreateVersion7(now.ToDateTimeOffset());
            raised.Deliveries.Add(new Delivery
            {
                Id = id,
                AlertId = alert.Id,
                OrderNumber = alert.OrderNumber,
                RuleId = alert.RuleId,
                Step = d.Step,
                Person = d.Person,
                Audience = d.Audience,
                Channel = d.Channel,
                To = d.To,
                State = d.Channel == Channel.Screen ? DeliveryState.HandedOver : DeliveryState.Waiting,
                Reason = "tells that the alert is withdrawn",
                CreatedAt = now,
                DueAt = now,
                HandedOverAt = d.Channel == Channel.Screen ? now : null,
                Deadline = now + Urgency.Prompt.Deadline(),
            });
            raised.Messages.Add(new Message { DeliveryId = id, Subject = line, Text = $"{line}. (Rule '{around.RuleName(alert.RuleId)}')" });
        }
    }

    private static Instant? DueAt(OrderEvent happened) => Facts.Member(happened.After, "dueAt") is { ValueKind: JsonValueKind.String } at ? Facts.Time(at.GetString()) : null;

    // The steps that wait; one whose time never comes is not among them.
    private IEnumerable<AlertStep> Ahead(OrderEvent happened, Decision decision, Alert alert)
    {
        var hours = WorkingHours.Usual(around.Business.Zone);
        var due = DueAt(happened);
        return decision.Case!.Ladder.Select((step, i) => (Index: i + 1, Due: LadderClock.Due(step, alert.RaisedAt, due, hours))).Where(s => s.Due is not null)
            .Select(s => new AlertStep { AlertId = alert.Id, Index = s.Index, Rung = s.Index, DueAt = s.Due!.Value, Told = "[]", Left = "[]" });
    }

    private Alert Raise(OrderEvent happened, Decision decision) => new()
    {
        Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
        EventId = happened.Id,
        OrderNumber = happened.OrderNumber,
        Subject = happened.Subject,
        RuleId = decision.Rule.Id,
        Version = decision.Version,
        Case = decision.Case!.Name,
        Urgency = decision.Rule.Urgency,
        State = AlertState.Open,
        RaisedAt = now,
    };

    // The decisions come most urgent first, so whoever is named twice gets the most urgent alert's message.
    private void Tell(Facts facts, List<(Decision Decision, Alert Alert, Resolution Who, int Step)> telling, Raised raised, Func<string, (Channel Channel, string Reader), Delivery?>? gathering = null)
    {
        var wording = new ShippedWording(facts, around.Staff, around.Business.BaseAddress, around.Business.Name, around.NameOf);
        var chains = new Dictionary<(Guid, string), (Guid Chain, int Place)>();
        var carriers = new Dictionary<(Channel, string), (Delivery Delivery, Rule Rule)>();
        foreach (var (decision, alert, who, step) in telling)
        {
            var gathers = gathering is not null && step == 0 && decision.Rule.Gather > Duration.Zero && decision.Rule.Urgency != Urgency.Urgent;
            var release = gathers || who.Held.Count > 0 ? ReleaseBy(facts.Event, raised, alert, decision.Case!) : Instant.MaxValue;
            var soonest = Instant.MaxValue;
            foreach (var told in who.Told.Concat(who.Held))
            {
                var reader = told.Reader;
                var turn = decision.Case!.By is { FirstThatLands: true } first ? (Chain: chains.TryGetValue((alert.Id, told.Person ?? told.Contact), out var known) ? known.Chain : Guid.NewGuid(), known.Place, first.Wait) : default;
                var together = gathers && told.Channel is Channel.Mail or Channel.Sms or Channel.Chat or Channel.Push && gathers;
                var into = together && !carriers.ContainsKey(reader) ? gathering!(decision.Rule.Id, reader) : null;
                var delivery = Make(facts.Event, decision, alert, told, carriers.GetValueOrDefault(reader), turn, Math.Max(0, step), together ? decision.Rule.Gather : Duration.Zero, into, release);
                soonest = Instant.Min(soonest, into?.DueAt ?? (delivery.CarriedBy is null ? delivery.DueAt : now));
                if (turn.Chain != default && delivery.State == DeliveryState.Waiting)
                {
                    chains[(alert.Id, told.Person ?? told.Contact)] = (turn.Chain, turn.Place + 1);
                }

                raised.Deliveries.Add(delivery);
                alert.ReachesSomebody |= delivery.State is DeliveryState.Waiting or DeliveryState.HandedOver || delivery.CarriedBy is not null;
                if (into is not null)
                {
                    raised.Gathered.Add(new GatheredLine(into.Id, wording.For(decision.Rule, told, []).Subject));
                }

                if (delivery.CarriedBy is not null || delivery.State is not (DeliveryState.Waiting or DeliveryState.HandedOver))
                {
                    continue;
                }

                carriers[reader] = (delivery, decision.Rule);
                string[] others = [.. telling.Where(t => t.Alert != alert && t.Who.Told.Concat(t.Who.Held).Any(o => o.Reader == reader)).Select(t => t.Decision.Rule.Name)];
                var (link, key) = Link(alert, delivery, told);
                if (link is not null)
                {
                    raised.Links.Add(link);
                }

                var text = wording.For(decision.Rule, told, others, key is null ? null : new AnswerWays($"{around.Business.BaseAddress}/a/{key}", link!.Code));
                raised.Messages.Add(new Message { DeliveryId = delivery.Id, Subject = text.Subject, Text = text.Text, Html = text.Html });
            }

            if (step == 0 && soonest > now && soonest < Instant.MaxValue)
            {
                // All are held: the clock stands still until the first is released.
                foreach (var ahead in raised.Steps.Where(s => s.AlertId == alert.Id && s.Index > 0 && decision.Case!.Ladder[s.Rung - 1].Clock != StepClock.BeforeDue))
                {
                    ahead.DueAt += soonest - now;
                }
            }

            alert.Unreached += who.Unreached;
            if (step == 0)
            {
                raised.Steps.Add(new AlertStep
                {
                    AlertId = alert.Id,
                    Index = 0,
                    DueAt = alert.RaisedAt,
                    FiredAt = now,
                    Told = JsonSerializer.Serialize(who.Told, Json),
                    Left = JsonSerializer.Serialize(who.Left, Json),
                });
            }
            else if (step > 0)
            {
                raised.Steps.Add(new AlertStep { AlertId = alert.Id, Index = step, FiredAt = now, Told = JsonSerializer.Serialize(who.Told, Json), Left = JsonSerializer.Serialize(who.Left, Json) });
                continue;
            }
            else
            {
                raised.ToldAnew.Add(new ToldAnew(alert.Id, JsonSerializer.Serialize(who.Told, Json), JsonSerializer.Serialize(who.Left, Json)));
            }

            alert.Case = decision.Case!.Name;
            alert.Version = decision.Version;
            alert.Urgency = decision.Rule.Urgency > alert.Urgency ? decision.Rule.Urgency : alert.Urgency;
        }
    }

    // Held at the latest until the first step before the order is due, else until it is due; an order that is over its time holds nothing up.
    private Instant ReleaseBy(OrderEvent happened, Raised raised, Alert alert, RuleCase one)
    {
        var before = raised.Steps.Where(s => s.AlertId == alert.Id && s.Index > 0 && one.Ladder[s.Rung - 1].Clock == StepClock.BeforeDue).Select(s => (Instant?)s.DueAt).Min();
        return (before ?? DueAt(happened)) is { } at && at > now ? at : Instant.MaxValue;
    }

    // Customers and printers do not answer. The key goes into the message, only its hash is kept.
    private static (AnswerLink? Link, string? Key) Link(Alert alert, Delivery delivery, Told told)
    {
        if (told.Customer || told.Channel is Channel.Ticket or Channel.Screen)
        {
            return (null, null);
        }

        var key = Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(16));
        return (new AnswerLink
        {
            Hash = Secrets.Hash(key),
            AlertId = alert.Id,
            DeliveryId = delivery.Id,
            Person = told.Person,
            Contact = told.Contact,
            Code = RandomNumberGenerator.GetInt32(1000, 10_000).ToString(System.Globalization.CultureInfo.InvariantCulture),
            ExpiresAt = delivery.DueAt + AnswerLink.Lifetime,
        }, key);
    }

    private Delivery Make(OrderEvent happened, Decision decision, Alert alert, Told told, (Delivery Delivery, Rule Rule) carrier, (Guid Chain, int Place, Duration Wait) turn, int step, Duration gather, Delivery? into, Instant release)
    {
        var from = Instant.Max(now, Instant.Min(release, Instant.Max(told.HeldUntil ?? now, now + gather)));
        string At(Instant at) => at.InZone(around.Business.Zone).ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture);
        var reason = into is not null ? $"gathered into the message that goes at {At(into.DueAt)}" : carrier.Delivery is not null ? $"told by rule {carrier.Rule.Name}" : reachable.Contains(told.Channel) ? null : $"no {RuleSentence.Word(told.Channel)} gateway is set up";
        return new Delivery
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            AlertId = alert.Id,
            OrderNumber = happened.OrderNumber,
            RuleId = decision.Rule.Id,
            Step = step,
            Person = told.Person,
            Audience = told.Customer ? Audience.Customer : told.Person is null ? Audience.Outside : Audience.Staff,
            Channel = told.Channel,
            To = told.Contact,
            State = reason is not null ? DeliveryState.Skipped : told.Channel == Channel.Screen ? DeliveryState.HandedOver : DeliveryState.Waiting,
            Reason = reason ?? (told.HeldUntil is { } quiet ? $"held by quiet hours until {quiet.InZone(around.Business.Zone).ToString("ddd HH:mm", System.Globalization.CultureInfo.InvariantCulture)}" : gather > Duration.Zero ? GatheredUntil + At(from) : null),
            CreatedAt = now,
            DueAt = reason is null ? from + (turn.Wait * turn.Place) : now,
            HandedOverAt = reason is null && told.Channel == Channel.Screen ? now : null,
            Chain = turn.Chain == default ? null : turn.Chain,
            Deadline = from + decision.Rule.Urgency.Deadline(),
            CarriedBy = into?.Id ?? carrier.Delivery?.Id,
        };
    }

    /// <summary>A channel by its outside name.</summary>
    private sealed class ChannelJson : System.Text.Json.Serialization.JsonConverter<Channel>
    {
        public override Channel Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            Names.Parse<Channel>(reader.GetString()) ?? throw new JsonException("This is no channel.");

        public override void Write(Utf8JsonWriter writer, Channel value, JsonSerializerOptions options) => writer.WriteStringValue(value.Name());
    }
}
