using NodaTime;
using Sirena.Core;
using Sirena.Core.Instructions;

namespace Sirena.Engine.Instructions;

/// <summary>An instruction as it is made.</summary>
internal sealed record InstructionDraft(TakingSource Taking, string Lane, InstructionAsk Ask, Instant Now, string? Because)
{
    public string? Order { get; init; }

    public long OrderSeq { get; init; }

    public string By { get; init; } = "";

    public string? Person { get; init; }

    public string? Rule { get; init; }

    public int? Version { get; init; }

    public Guid? Alert { get; init; }

    public long? Event { get; init; }

    public int Depth { get; init; }

    public Core.Rules.Urgency Urgency { get; init; } = Core.Rules.Urgency.Prompt;

    public TellChoice? Tell { get; init; }

    public InstructionWait? Waits { get; init; }

    public bool Trial { get; init; }

    public string? Dropped { get; init; }

    public Instruction Build(long seq) =>
        new()
        {
            Seq = seq,
            Id = Guid.CreateVersion7(Now.ToDateTimeOffset()),
            OrderNumber = Order,
            OrderSeq = OrderSeq,
            Source = Taking.Source.Id,
            Lane = Lane,
            Kind = Ask.Kind,
            With = Ask.With,
            State = Dropped is null ? InstructionState.Asked : InstructionState.Dropped,
            Words = Dropped,
            EndedAt = Dropped is null ? null : Now,
            Waits = Dropped is null ? Waits : null,
            By = By,
            Person = Person,
            RuleId = Rule,
            RuleVersion = Version,
            AlertId = Alert,
            EventId = Event,
            Depth = Depth,
            Urgency = Urgency,
            Because = Because,
            Tell = Tell,
            Trial = Trial,
            AskedAt = Now.Micros(),
            DueAt = Now.Micros(),
            Deadline = Now + Taking.Patience,
            Sight = Taking.Sight,
            Patience = Taking.Patience,
        };
}
