using Sirena.Core.Instructions;
using Sirena.Formats.Documents;

namespace Sirena.Engine.Instructions;

/// <summary>Who asks.</summary>
/// <param name="Person">The person's id, or <see langword="null"/> for a user who is none.</param>
/// <param name="Name">The name, as it reads.</param>
/// <param name="Role">The role.</param>
public sealed record Asker(string? Person, string Name, string Role);

/// <summary>What somebody asks for.</summary>
/// <param name="Kind">The kind's name.</param>
/// <param name="Members">Its members, and perhaps others that belong to the call.</param>
/// <param name="Others">The names of those others.</param>
/// <param name="By">Who asks.</param>
public sealed record InstructionWish(string Kind, MapNode Members, string[] Others, Asker By)
{
    /// <summary>The order's number; <see langword="null"/> for what goes to a source.</summary>
    public string? Order { get; init; }

    /// <summary>The source, where the wish names one.</summary>
    public string? Source { get; init; }

    /// <summary>Whom the event that shows it is to tell.</summary>
    public TellChoice? Tell { get; init; }

    /// <summary>Why.</summary>
    public string? Because { get; init; }

    /// <summary>The alert from which it is asked.</summary>
    public Guid? Alert { get; init; }

    /// <summary>The alert's rule offered it to whoever asks.</summary>
    public bool Offered { get; init; }
}

/// <summary>How a wish ended.</summary>
/// <param name="Instruction">The instruction; that which is under way already where the status is 409 for it.</param>
/// <param name="Status">201, 403, 404, 409 or 422.</param>
/// <param name="Problem">What is wrong, in a sentence.</param>
/// <param name="Errors">Mistakes with their places.</param>
public sealed record WishEnd(Instruction? Instruction, int Status, string? Problem, IReadOnlyList<DocumentError> Errors)
{
    /// <summary>What is wrong, in words for whoever asked: each mistake, or the problem.</summary>
    public string? Words => Errors.Count > 0 ? string.Join(" ", Errors.Select(e => e.Problem)) : Problem;

    internal static WishEnd No(int status, string problem, Instruction? instruction = null) => new(instruction, status, problem, []);
}
