using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;

namespace Sirena.Engine.Decide;

/// <summary>Everything that deciding one event writes.</summary>
public sealed class Raised
{
    public List<Match> Matches { get; } = [];

    public List<Alert> Alerts { get; } = [];

    public List<AlertStep> Steps { get; } = [];

    public List<Delivery> Deliveries { get; } = [];

    public List<Message> Messages { get; } = [];

    public List<AnswerLink> Links { get; } = [];

    public List<ToldAnew> ToldAnew { get; } = [];
}

/// <summary>An alert that was joined and told anew: who was told this time and who was left out, as JSON lists, for its first step.</summary>
public sealed record ToldAnew(Guid Alert, string Told, string Left);
