using Sirena.Core.Ladders;

namespace Sirena.Engine.Ladders;

/// <summary>An alert that a pause holds back, with how many messages wait.</summary>
public sealed record HeldAlert(Alert Alert, int Messages);
