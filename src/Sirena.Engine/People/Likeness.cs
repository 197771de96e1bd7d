using Sirena.Core.People;

namespace Sirena.Engine.People;

/// <summary>Somebody of a file who is called like somebody who is there, and shares no address with them.</summary>
/// <param name="Line">Where they stand in the file.</param>
/// <param name="Key">By what the caller names them when it says who is meant.</param>
/// <param name="Name">Their name in the file.</param>
/// <param name="Mails">Their mail addresses in the file.</param>
/// <param name="Known">The person who is there.</param>
public sealed record Likeness(int? Line, string Key, string Name, IReadOnlyList<string> Mails, Person Known)
{
    /// <summary>What is said when they are nobody who is there.</summary>
    public const string Other = "+";

    /// <summary>What is said when they are to be left out.</summary>
    public const string Nobody = "-";
}
