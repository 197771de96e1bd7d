using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Sources;
using Sirena.Formats.Rules;

namespace Sirena.Engine.Instructions;

/// <summary>A source that takes instructions.</summary>
/// <param name="Source">The source.</param>
/// <param name="Kinds">The kinds that it takes, by name.</param>
public sealed record TakingSource(Source Source, IReadOnlyDictionary<string, InstructionKind> Kinds)
{
    /// <summary>It is called; else it fetches.</summary>
    public bool Pushed => Source.InstructionsTo is not null;

    /// <summary>How long an event may take to show an instruction.</summary>
    public Duration Sight => Source.SightSeconds is { } seconds ? Duration.FromSeconds(seconds) : Instruction.UsualSight;

    /// <summary>How long an instruction is tried.</summary>
    public Duration Patience => Source.TrySeconds is { } seconds ? Duration.FromSeconds(seconds) : Instruction.UsualDeadline;

    /// <summary>A source as it takes them.</summary>
    public static TakingSource Of(Source source) =>
        new(
            source,
            source
                .Takes.Select(name =>
                    InstructionKinds.Find(name)
                    ?? source.OwnInstructions.Find(o => o.Name == name)?.Kind(ConditionReader.Ask(source.OwnInstructions.Find(o => o.Name == name)!.Shows))
                )
                .OfType<InstructionKind>()
                .ToDictionary(k => k.Name)
        );
}
