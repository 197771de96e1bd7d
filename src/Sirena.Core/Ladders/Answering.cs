namespace Sirena.Core.Ladders;

/// <summary>What became of an answer.</summary>
/// <param name="Problem">Why it was not taken, or <see langword="null"/>.</param>
/// <param name="Conflict">Somebody else has the alert, or it is over.</param>
/// <param name="Noted">It stands among the alert's answers, whether it changed anything or not.</param>
public sealed record Answering(string? Problem, bool Conflict, bool Noted);
