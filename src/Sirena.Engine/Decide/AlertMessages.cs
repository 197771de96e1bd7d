using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Engine.Ladders;

namespace Sirena.Engine.Decide;

/// <summary>Makes the deliveries and messages of the alerts of one event: one message a reader, gathered, held or paused as the rules and pauses say.</summary>
public sealed partial class AlertMessages(
    Surroundings around,
    Instant now,
    Facts facts,
    Raised raised,
    Func<string, (Channel Channel, string Reader), Delivery?>? gathering
)
{
    private readonly IReadOnlySet<Channel> reachable = around.Reachable;

    /// <summary>Writes them. They come most urgent first, so whoever is named twice gets the most urgent alert's message.</summary>
    public void Tell(IReadOnlyList<Telling> telling)
    {
        var about = new MessageFacts(facts, around.TextNames, now, around.Business.Name, around.Business.BaseAddress, around.Branding);
        var chains = new Dictionary<(Guid, string), (Guid Chain, int Place)>();
        var carriers = new Dictionary<(Channel, string), (Delivery Delivery, Rule Rule)>();
        foreach (var (decision, alert, who, step, storm) in telling)
        {
            var paused = alert.PausedBy is not null;
            var span =
                storm ? decision.Rule.Storm!.Within
                : decision.Rule.Urgency != Urgency.Urgent ? decision.Rule.Gather
                : Duration.Zero;
            var gathers = gathering is not null && step == 0 && span > Duration.Zero && !paused;
            var release = gathers || who.Held.Count > 0 ? ReleaseBy(facts.Event, raised, alert, decision.Case!) : Instant.MaxValue;
            var soonest = Instant.MaxValue;
            foreach (var told in who.Told.Concat(who.Held))
            {
                var reader = told.Reader;
                var turn = decision.Case!.By is { FirstThatLands: true } first
                    ? (
                        Chain: chains.TryGetValue((alert.Id, told.Person ?? told.Contact), out var known) ? known.Chain : Guid.NewGuid(),
                        known.Place,
                        first.Wait
                    )
                    : default;
                var together = gathers && told.Channel.Traits().Gathers;
                var into = together && !carriers.ContainsKey(reader) ? gathering!(decision.Rule.Id, reader) : null;
                var delivery = Make(
                    facts.Event,
                    decision,
                    alert,
                    told,
                    paused ? default : carriers.GetValueOrDefault(reader),
                    turn,
                    Math.Max(0, step),
                    together ? span : Duration.Zero,
                    into,
                    release
                );
                soonest = Instant.Min(soonest, into?.DueAt ?? (delivery.CarriedBy is null ? delivery.DueAt : now));
                if (turn.Chain != default && delivery.State == DeliveryState.Waiting)
                {
                    chains[(alert.Id, told.Person ?? told.Contact)] = (turn.Chain, turn.Place + 1);
                }

                raised.Deliveries.Add(delivery);
                alert.ReachesSomebody |= delivery.State is DeliveryState.Waiting or DeliveryState.HandedOver || delivery.CarriedBy is not null;
                if (into is not null)
                {
                    raised.Gathered.Add(new GatheredLine(into.Id, Write(about, decision, told, [], null, null, null).Subject));
                }

                if (delivery.CarriedBy is not null || delivery.State is not (DeliveryState.Waiting or DeliveryState.HandedOver))
                {
                    continue;
                }

                if (!paused)
                {
                    carriers[reader] = (delivery, decision.Rule);
                }

                string[] others = paused
                    ? []
                    :
                    [
                        .. telling
                            .Where(t => t.Alert != alert && t.Alert.PausedBy is null && t.Who.Told.Concat(t.Who.Held).Any(o => o.Reader == reader))
                            .Select(t => t.Decision.Rule.Name),
                    ];
                var (link, key) = decision.Case!.Name == OwnRules.Tells ? (null, null) : Link(alert, delivery, told);
                if (link is not null)
                {
                    raised.Links.Add(link);
                }

                var text = Write(
                    about,
                    decision,
                    told,
                    others,
                    key is null ? null : new AnswerWays($"{around.Business.BaseAddress}/a/{key}", link!.Code),
                    NextOf(alert, decision.Case!),
                    delivery.Id
                );
                if (storm && together)
                {
                    text = Stormy(text, decision.Rule);
                }

                raised.Messages.Add(
                    new Message
                    {
                        DeliveryId = delivery.Id,
                        Subject = text.Subject,
                        Text = text.Text,
                        Html = text.Html,
                        Attach = told.Channel == Channel.Mail ? Packing.Of(decision.Rule, told, facts, around) : null,
                    }
                );
            }

            // When all are held, the clock stands still until the first is released.
            Instant? held = !paused && soonest > now && soonest < Instant.MaxValue ? soonest : null;
            if (held is { } until)
            {
                raised.Held[alert.Id] = until;
            }

            alert.Unreached += who.Unreached;
            if (step == 0)
            {
                var first = new AlertStep
                {
                    AlertId = alert.Id,
                    Index = 0,
                    DueAt = alert.RaisedAt,
                    Told = who.Told,
                    Left = who.Left,
                };
                List<AlertStep> steps = [.. raised.Steps.Where(s => s.AlertId == alert.Id), first];
                raised.Steps.RemoveAll(s => s.AlertId == alert.Id);
                alert.Fired([(first, held)], steps, AlertLives.FactsOf(around, decision.Rule, decision.Case, DueTime.Of(facts.Event)), now);
                raised.Steps.AddRange(steps);
            }
            else if (step > 0)
            {
                raised.Steps.Add(
                    new AlertStep
                    {
                        AlertId = alert.Id,
                        Index = step,
                        FiredAt = now,
                        Told = who.Told,
                        Left = who.Left,
                    }
                );
                continue;
            }
            else
            {
                raised.ToldAnew.Add(new ToldAnew(alert.Id, who.Told, who.Left));
            }

            alert.Case = decision.Case!.Name;
            alert.Version = decision.Version;
            alert.Urgency = decision.Rule.Urgency > alert.Urgency ? decision.Rule.Urgency : alert.Urgency;
        }
    }

    private FinishedText Write(
        MessageFacts about,
        Decision decision,
        Told told,
        IReadOnlyList<string> others,
        AnswerWays? answer,
        (string Who, Instant At)? next,
        Guid? delivery
    )
    {
        var person = told.Person is { } id ? around.Staff.Person(id) : null;
        var language = Surroundings.LanguageOf(told.Audience, person, facts);
        var parts = around.TextsFor(decision.Case!.Wording, facts.Event.Type, told.Audience, language);
        return new Composer(
            about with
            {
                Audience = told.Audience,
                Language = TextLanguage.Of(language),
                Reader = person?.Name ?? told.Contact,
                ReaderId = told.Person,
                Rule = decision.Rule.Name,
                Case = decision.Case.Name,
                Urgency = decision.Rule.Urgency.Name(),
                Because = told.Because,
                Others = others,
                Answer = answer,
                Next = next,
                Delivery = delivery,
            }
        ).For(told.Channel, parts);
    }

    // Who is told next while nobody answers, as the steps stand now.
    private (string Who, Instant At)? NextOf(Alert alert, RuleCase one)
    {
        var next = raised.Steps.Where(s => s.AlertId == alert.Id && s.FiredAt is null).MinBy(s => s.DueAt);
        return next is null || next.Rung < 1 || next.Rung > one.Ladder.Length
            ? null
            : (string.Join(", ", one.Ladder[next.Rung - 1].Tell.Select(around.Sentences.Of)), next.DueAt);
    }

    // The message into which the rest is gathered says why it is one.
    private static FinishedText Stormy(FinishedText text, Rule rule)
    {
        var why = $"More than {rule.Storm!.Alerts} alerts of '{rule.Name}' within {rule.Storm.Within.InWords()}: this one and the next are gathered here.";
        return text with
        {
            Subject = text.Subject.Length > 0 ? $"Many alerts: {text.Subject}" : "",
            Text = $"{why}\n{text.Text}",
            Html = text.Html?.Replace("<h1", $"<p><b>{System.Net.WebUtility.HtmlEncode(why)}</b></p><h1", StringComparison.Ordinal),
        };
    }

    // Held at the latest until the first step before the order is due, else until it is due; an order that is over its time holds nothing up.
    private Instant ReleaseBy(OrderEvent happened, Raised raised, Alert alert, RuleCase one)
    {
        var before = raised
            .Steps.Where(s => s.AlertId == alert.Id && s.Index > 0 && one.Ladder[s.Rung - 1].Clock == StepClock.BeforeDue)
            .Select(s => (Instant?)s.DueAt)
            .Min();
        return (before ?? DueTime.Of(happened)) is { } at && at > now ? at : Instant.MaxValue;
    }
}
