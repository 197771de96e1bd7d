namespace Sirena.Core.Ladders;

/// <summary>What a person does with an alert.</summary>
public enum AnswerKind
{
    /// <summary>I have it.</summary>
    Taken,

    /// <summary>Somebody else should.</summary>
    Passed,

    /// <summary>I cannot.</summary>
    Declined,

    /// <summary>It is seen to.</summary>
    Done,

    /// <summary>I have it, and see to it at a later time.</summary>
    Later,
}
