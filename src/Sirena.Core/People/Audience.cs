namespace Sirena.Core.People;

/// <summary>Whom a message is written for; decides what it may say and from whom it comes.</summary>
public enum Audience
{
    /// <summary>Somebody of the business.</summary>
    Staff,

    /// <summary>The order's customer: reads nothing internal.</summary>
    Customer,

    /// <summary>An address outside the business.</summary>
    Outside,
}
