using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Engine.Instructions;

public sealed partial class InstructionDesk
{
    /// <summary>An order as it is known.</summary>
    public static InstructionSight Sight(Order order, Surroundings around) =>
        new(
            new Facts(
                new OrderEvent
                {
                    EventId = "",
                    Source = "",
                    Type = "",
                    OrderNumber = order.Number,
                    Time = order.ChangedAt,
                    Received = order.ChangedAt,
                    Data = "{}",
                    OrderAfter = order.Document,
                },
                around.Business.Zone,
                around.Business.Currency
            ),
            around.Statuses
        );

    /// <summary>Whether somebody may use a kind: by their role or team, or, where the settings say nothing of it, because a rule offered it to them.</summary>
    public static bool May(Asker asker, InstructionKind kind, Surroundings around, bool offered) =>
        (offered && around.Business.InstructionRights.TrueForAll(r => r.Kind != kind.Name)) || Holds(asker, around.Business.RightOf(kind), around);

    private static bool Holds(Asker asker, InstructionRight right, Surroundings around) =>
        asker.Role != "reader"
        && right.Permits(asker.Role, asker.Person is { } id && around.Staff.Person(id) is { ArchivedAt: null } person ? person.Teams : []);
}
