using Sirena.Core.Insight;
using Sirena.Engine.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>A rehearsal as the panel shows it.</summary>
/// <param name="Run">The run.</param>
/// <param name="Found">What it found; <see langword="null"/> while it goes on.</param>
/// <param name="Unanswered">By person: how many of their alerts of the period nobody answered, and how many they had.</param>
public sealed record RehearsalView(RunningRehearsal Run, Rehearsal? Found, IReadOnlyDictionary<string, (int Unanswered, int Of)> Unanswered);
