namespace Sirena.Core.Deliveries;

/// <summary>By what a message goes.</summary>
public enum Channel
{
    /// <summary>Mail, SMTP.</summary>
    Mail,

    /// <summary>Text message to a phone.</summary>
    Sms,

    /// <summary>A team's chat room.</summary>
    Chat,

    /// <summary>Browser push.</summary>
    Push,

    /// <summary>The person's own list on the screen.</summary>
    Screen,

    /// <summary>A ticket printer.</summary>
    Ticket,
}
