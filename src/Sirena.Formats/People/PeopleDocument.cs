using Sirena.Formats.Documents;

namespace Sirena.Formats.People;

/// <summary>What a people document holds.</summary>
/// <param name="Good">The people without a mistake.</param>
/// <param name="Errors">Every mistake with its place.</param>
/// <param name="Bad">How many people have one.</param>
public sealed record PeopleDocument(IReadOnlyList<PersonEntry> Good, IReadOnlyList<DocumentError> Errors, int Bad);
