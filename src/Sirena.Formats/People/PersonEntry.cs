using Sirena.Core.People;

namespace Sirena.Formats.People;

/// <summary>A person as a document gives them.</summary>
/// <param name="Person">The person.</param>
/// <param name="Manages">The ids of the sites that they manage, or <see langword="null"/> where the format does not say.</param>
/// <param name="Given">The members that the document carries; the others stay as they are. <see langword="null"/> for all.</param>
public sealed record PersonEntry(Person Person, IReadOnlyList<string>? Manages, IReadOnlySet<string>? Given = null)
{
    /// <summary>The document names no id of ours: the person is found by a mail address, and the id is a proposal for somebody new.</summary>
    public bool FoundByMail { get; init; }

    /// <summary>Where it begins in the document, from 1; <see langword="null"/> where that is not known.</summary>
    public int? Line { get; init; }

    /// <summary>Whether the document carries a member.</summary>
    public bool Gives(string member) => Given?.Contains(member) ?? true;
}
