using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Engine;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Orders;

/// <summary>One order of the list, as it is drawn.</summary>
public sealed record OrderRow(Order Order, IReadOnlyList<(Alert Alert, Delivery[] Deliveries)> Alerts, Surroundings Around, DeskTime Clock)
{
    /// <summary>The tone of the due time: flare within the hour, brass when it is over.</summary>
    public string DueTone =>
        !Order.Open || Order.DueAt is not { } due ? ""
        : due < Clock.Now ? "brass"
        : due - Clock.Now < Duration.FromHours(1) ? "flare"
        : "";

    /// <summary>The risk: bars and the word.</summary>
    public string Risk =>
        Order.Risk switch
        {
            RiskLevel.None => "",
            RiskLevel.Low => "<span class=\"muted\">low</span>",
            RiskLevel.Medium =>
                $"<span class=\"rk medium\"><i></i><i></i><i class=\"o\"></i></span><b>medium</b> <span class=\"muted\">{Order.RiskScore:0}</span>",
            _ => $"<span class=\"rk high\"><i></i><i></i><i></i></span><b>high</b> <span class=\"muted\">{Order.RiskScore:0}</span>",
        };

    /// <summary>The alert that matters most: an open one before a taken one, else the newest.</summary>
    public (Alert Alert, Delivery[] Deliveries)? First =>
        Alerts.Count == 0
            ? null
            : Alerts
                .OrderBy(a =>
                    a.Alert.State switch
                    {
                        AlertState.Open => 0,
                        AlertState.Taken => 1,
                        _ => 2,
                    }
                )
                .ThenByDescending(a => a.Alert.RaisedAt)
                .First();

    /// <summary>Marks, surnames, and where the alert stands.</summary>
    public string Told
    {
        get
        {
            if (First is not { } first)
            {
                return $"<span class=\"who muted\">{Draw.Mark(DeliveryState.Skipped, false, "s12")} no rule fits</span>";
            }

            var (alert, deliveries) = first;
            var marks = string.Concat(deliveries.Take(5).Select(d => Draw.Mark(d.State, d.Answered, "s12").Value));
            var names = string.Join(", ", deliveries.Select(d => d.Person is { } p ? Surname(Around.NameOf(p)) : d.To).Distinct());
            return deliveries.Length == 0
                ? $"<span class=\"who flare\">{Draw.Mark(DeliveryState.Skipped, false, "s12")} nobody told</span><a class=\"nx\" "
                    + $"href=\"/orders/{Uri.EscapeDataString(Order.Number)}\">why?</a>"
                : $"<span class=\"who\" title=\"{Draw.E(names)}\"><span class=\"mks\">{marks}</span>{Draw.E(Few(names))}</span>{Standing(alert)}";
        }
    }

    private static string Few(string names) => names.Split(", ") is { Length: > 2 } many ? $"{many[0]} and {many.Length - 1} more" : names;

    /// <summary>Where an alert stands, in a coloured word or three.</summary>
    public string Standing(Alert alert) =>
        alert.State switch
        {
            AlertState.Open => $"<b class=\"nx {(Clock.Now - alert.RaisedAt > Duration.FromMinutes(30) ? "flare" : "brass")}\">open "
                + $"{(Clock.Now - alert.RaisedAt).InWords()}</b>",
            AlertState.Taken =>
                $"<b class=\"nx glass\">{Draw.Mark(DeliveryState.Landed, true, "s12")} {Draw.E(Surname(Around.NameOf(alert.TakenBy ?? "")))} has it</b>",
            AlertState.Done => $"<b class=\"nx glass\">{Draw.Mark(DeliveryState.Landed, true, "s12")} done {Clock.Short(alert.EndedAt!.Value)}</b>",
            AlertState.Lapsed => "<b class=\"nx flare\">nobody answered</b>",
            _ => "<span class=\"nx muted\">ended with the order</span>",
        };

    /// <summary>The last word of a name.</summary>
    public static string Surname(string name) => name[(name.LastIndexOf(' ') + 1)..];
}
