using Sirena.Core;

namespace Sirena.Formats.People;

/// <summary>Ids for people who come without one.</summary>
public static class PersonId
{
    /// <summary>The id that a name proposes: <c>first.last</c>.</summary>
    public static string From(string name) => Ids.Free(Rules.RuleReader.IdFrom(name).Replace('-', '.'), Ids.NoPerson.Contains);
}
