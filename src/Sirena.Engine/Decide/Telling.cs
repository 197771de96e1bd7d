using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Engine.Decide;

/// <summary>An alert that tells somebody now.</summary>
/// <param name="Decision">The rule's version and its case, as they are used.</param>
/// <param name="Alert">The alert.</param>
/// <param name="Who">Who is told, and who is left out.</param>
/// <param name="Step">The step, 0 for the first telling, -1 for a join that tells anew.</param>
/// <param name="Storm">The rule raised more alerts than its storm guard lets through one by one.</param>
public sealed record Telling(Decision Decision, Alert Alert, Resolution Who, int Step, bool Storm = false);
