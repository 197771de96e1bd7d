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

namespace Sirena.Engine.Decide;

/// <summary>
/// Decides one event: which alerts are raised or joined, who is told by what, in which words. Reads nothing and writes nothing; the worker and the maker of the demo's
/// history both store what it returns.
/// </summary>
public sealed class EventDecision(Surroundings around, Instant now)
{
    /// <summary>JSON in the stored resolutions.</summary>
    public static JsonSerializerOptions Json { get; } =
        new JsonSerializerOptions(JsonSerializerDefaults.Web) { Converters = { new ChannelJson() }, DefaultIgnoreCondition = System.Text.Json.Serialization.JsonIgnoreCondition.WhenWritingNull }.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    private static readonly Channel[] Reachable = [Channel.Mail];

    /// <summary>Decides.</summary>
    /// <param name="happened">The event.</param>
    /// <param name="book">The rule book that it was stamped with.</param>
    /// <param name="latest">The newest alert of a rule for the event's subject; it is changed where the event joins it.</param>
    public Raised Decide(OrderEvent happened, RuleBook book, Func<string, Alert?> latest)
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
            }

            if (joining.Tells)
            {
                telling.Add((decision, alert, new WhoIsTold(around.Staff, around.Business, facts).Resolve(
                    new TellQuestion(decision.Case.Tell, decision.Case.By, decision.Rule.Urgency, happened.Type, decision.Rule.Id, decision.Rule.MayOptOut, now)), joining.Alert is null ? 0 : -1));
            }
        }

        Tell(facts, telling, raised);
        return raised;
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
    private void Tell(Facts facts, List<(Decision Decision, Alert Alert, Resolution Who, int Step)> telling, Raised raised)
    {
        var wording = new ShippedWording(facts, around.Staff, around.Business.BaseAddress, around.Business.Name);
        var carriers = new Dictionary<(Channel, string), (Delivery Delivery, Rule Rule)>();
        foreach (var (decision, alert, who, step) in telling)
        {
            foreach (var told in who.Told.Concat(who.Held))
            {
                var reader = told.Reader;
                var delivery = Make(facts.Event, decision, alert, told, carriers.GetValueOrDefault(reader));
                raised.Deliveries.Add(delivery);
                alert.ReachesSomebody |= delivery.State == DeliveryState.Waiting || delivery.CarriedBy is not null;
                if (delivery.CarriedBy is not null || delivery.State != DeliveryState.Waiting)
                {
                    continue;
                }

                carriers[reader] = (delivery, decision.Rule);
                string[] others = [.. telling.Where(t => t.Alert != alert && t.Who.Told.Concat(t.Who.Held).Any(o => o.Reader == reader)).Select(t => t.Decision.Rule.Name)];
                var text = wording.For(decision.Rule, told, others);
                raised.Messages.Add(new Message { DeliveryId = delivery.Id, Subject = text.Subject, Text = text.Text, Html = text.Html });
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
            else
            {
                raised.ToldAnew.Add(new ToldAnew(alert.Id, JsonSerializer.Serialize(who.Told, Json), JsonSerializer.Serialize(who.Left, Json)));
            }

            alert.Case = decision.Case!.Name;
            alert.Version = decision.Version;
            alert.Urgency = decision.Rule.Urgency > alert.Urgency ? decision.Rule.Urgency : alert.Urgency;
        }
    }

    private Delivery Make(OrderEvent happened, Decision decision, Alert alert, Told told, (Delivery Delivery, Rule Rule) carrier)
    {
        var reason = carrier.Delivery is not null ? $"told by rule {carrier.Rule.Name}" : Reachable.Contains(told.Channel) ? null : $"no {RuleSentence.Word(told.Channel)} gateway is set up";
        return new Delivery
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            AlertId = alert.Id,
            OrderNumber = happened.OrderNumber,
            RuleId = decision.Rule.Id,
            Step = 0,
            Person = told.Person,
            Channel = told.Channel,
            To = told.Contact,
            State = reason is null ? DeliveryState.Waiting : DeliveryState.Skipped,
            Reason = reason ?? (told.HeldUntil is { } quiet ? $"held by quiet hours until {quiet.InZone(around.Business.Zone).ToString("ddd HH:mm", System.Globalization.CultureInfo.InvariantCulture)}" : null),
            CreatedAt = now,
            DueAt = reason is null ? told.HeldUntil ?? now : now,
            Deadline = (told.HeldUntil ?? now) + decision.Rule.Urgency.Deadline(),
            CarriedBy = carrier.Delivery?.Id,
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
