namespace Sirena.Core.Instructions;

/// <summary>Whom the event is to tell that shows an instruction.</summary>
/// <param name="Customer">The customer is told.</param>
/// <param name="Staff">The department is told.</param>
/// <param name="By">Who chose it.</param>
public sealed record TellChoice(bool Customer, bool Staff, string By)
{
    /// <summary>Everybody is told.</summary>
    public bool All => Customer && Staff;

    /// <summary>Why somebody is left out by it, or <see langword="null"/>.</summary>
    /// <param name="customer">They are the order's customer.</param>
    public string? Leaves(bool customer) => (customer ? Customer : Staff) ? null : $"{NotToBeTold}, chosen by {By}";

    /// <summary>How the reason of whoever is left out by a choice begins.</summary>
    public const string NotToBeTold = "not to be told";
}
