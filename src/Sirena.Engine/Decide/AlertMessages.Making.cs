using System.Buffers.Text;
using System.Globalization;
using System.Security.Cryptography;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Storage.Access;

namespace Sirena.Engine.Decide;

public sealed partial class AlertMessages
{
    // Customers and printers do not answer. The key goes into the message, only its hash is kept.
    private static (AnswerLink? Link, string? Key) Link(Alert alert, Delivery delivery, Told told)
    {
        if (told.Customer || !told.Channel.Traits().CanAnswer)
        {
            return (null, null);
        }

        var key = Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(16));
        return (
            new AnswerLink
            {
                Hash = Secrets.Hash(key),
                AlertId = alert.Id,
                DeliveryId = delivery.Id,
                Person = told.Person,
                Contact = told.Contact,
                Code = RandomNumberGenerator.GetInt32(1000, 10_000).ToString(System.Globalization.CultureInfo.InvariantCulture),
                ExpiresAt = delivery.PausedBy is null ? delivery.DueAt + AnswerLink.Lifetime : delivery.Deadline,
            },
            key
        );
    }

    private Delivery Make(
        OrderEvent happened,
        Decision decision,
        Alert alert,
        Told told,
        (Delivery Delivery, Rule Rule) carrier,
        (Guid Chain, int Place, Duration Wait) turn,
        int step,
        Duration gather,
        Delivery? into,
        Instant release
    )
    {
        var paused = alert.PausedBy is null ? null : around.Pauses.FirstOrDefault(p => p.Id == alert.PausedBy);
        var from = Instant.Max(now, Instant.Min(release, Instant.Max(told.HeldUntil ?? now, now + gather)));
        string At(Instant at) => at.InZone(around.Business.Zone).ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture);
        var reason =
            into is not null ? $"gathered into the message that goes at {At(into.DueAt)}"
            : carrier.Delivery is not null ? $"told by rule {carrier.Rule.Name}"
            : reachable.Contains(told.Channel) ? null
            : $"no {told.Channel.Traits().Word} gateway is set up";
        var held = reason is null && alert.PausedBy is not null;
        return new Delivery
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            AlertId = alert.Id,
            OrderNumber = happened.OrderNumber,
            RuleId = decision.Rule.Id,
            Step = step,
            Person = told.Person,
            Audience = told.Audience,
            Channel = told.Channel,
            Urgent = decision.Rule.Urgency == Urgency.Urgent,
            To = told.Contact,
            State =
                reason is not null ? DeliveryState.Skipped
                : told.Channel.Traits().OnSight && !held ? DeliveryState.HandedOver
                : DeliveryState.Waiting,
            PausedBy = held ? alert.PausedBy : null,
            Reason = reason
                ?? (
                    held ? $"held back by a pause{(paused is null ? "" : $" until {At(paused.Until)}: {paused.Reason}")}"
                    : told.HeldUntil is { } quiet
                        ? $"held by quiet hours until {quiet.InZone(around.Business.Zone).ToString("ddd HH:mm", CultureInfo.InvariantCulture)}"
                    : gather > Duration.Zero ? "gathered until " + At(from)
                    : null
                ),
            CreatedAt = now,
            DueAt =
                held ? Pause.Held
                : reason is null ? from + (turn.Wait * turn.Place)
                : now,
            HandedOverAt = reason is null && !held && told.Channel.Traits().OnSight ? now : null,
            Chain = turn.Chain == default ? null : turn.Chain,
            Deadline = held ? Pause.Held : from + decision.Rule.Urgency.Deadline(),
            GathersUntil = reason is null && gather > Duration.Zero ? from : null,
            CarriedBy = into?.Id ?? carrier.Delivery?.Id,
        };
    }
}
