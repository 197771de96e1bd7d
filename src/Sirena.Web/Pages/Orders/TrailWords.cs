using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Engine.Trail;
using static Sirena.Web.Pages.Shared.Draw;

namespace Sirena.Web.Pages.Orders;

/// <summary>What stands beside a trail's rules and deliveries: in its drawing, and in its list on a phone.</summary>
public sealed class TrailWords(Surroundings around)
{
    private readonly RuleSentence sentence = around.Sentences;

    /// <summary>A rule that was fitted, or joined the alert that was open.</summary>
    public static bool Fits(RuleTrail rule) => rule.Outcome is Outcome.Matched or Outcome.Joined;

    /// <summary>Why a rule fitted, or why it did not.</summary>
    public string Of(RuleTrail rule) =>
        rule.Outcome switch
        {
            Outcome.Joined => "joined the alert that was open",
            Outcome.Matched => rule.Decision.Rule.Cases.Length > 1 ? $"case {rule.Decision.Case?.Name}" : First(rule.Decision),
            Outcome.Off => "the rule was off",
            Outcome.Resting => "fits, but the rule rests for this order",
            Outcome.TooLate => "fits, but the event was too old to tell",
            _ => rule.Decision.Conditions.FirstOrDefault(c => !c.Holds) is { } c ? c.Problem ?? $"{sentence.Of(c)}: {sentence.Met(c)}" : "no case fits",
        };

    /// <summary>How far a delivery came: when, and in words.</summary>
    public static (Instant At, string Words) Of(DeliveryTrail one)
    {
        var d = one.Delivery;
        return (
            d.State == DeliveryState.Landed ? d.LandedAt ?? d.CreatedAt : d.HandedOverAt ?? one.LastAttempt?.At ?? d.CreatedAt,
            d.State switch
            {
                DeliveryState.Landed => d.Answered ? "answered by its link" : one.LastReceipt?.Text ?? "landed",
                DeliveryState.HandedOver when d.Channel == Channel.Screen => "on their own list, not looked at yet",
                DeliveryState.HandedOver =>
                    $"{(d.Channel == Channel.Mail ? "mail server" : "gateway")} accepted, {one.LastAttempt?.Code} {d.Evidence}".TrimEnd(),
                _ => d.Reason ?? MarkOf(d.State, d.Answered).Word,
            }
        );
    }

    private string First(Decision decision) =>
        decision.Conditions.Count == 0 ? "no conditions, always fits"
        : decision.Conditions[0] is var c
            ? $"{FieldCatalogue.Find(c.Field)?.Name ?? c.Field} was "
                + $"{sentence.Found(c)}{(decision.Conditions.Count > 1 ? $", {decision.Conditions.Count} conditions" : "")}"
        : "";
}
