using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Channels;

/// <summary>A message on its way out.</summary>
/// <param name="Id">The delivery; the same on every try, so that the far end can tell a repeat.</param>
/// <param name="To">The address.</param>
/// <param name="OrderNumber">Its order, by which a mail program threads.</param>
/// <param name="Subject">The subject line.</param>
/// <param name="Text">The plain text.</param>
/// <param name="Html">The HTML text, or <see langword="null"/>.</param>
/// <param name="Audience">Whom it is written for; decides from whom it comes.</param>
public sealed record OutgoingMessage(Guid Id, string To, string? OrderNumber, string Subject, string Text, string? Html, Audience Audience = Audience.Staff)
{
    /// <summary>The files that go with it.</summary>
    public IReadOnlyList<MessageFile> Files { get; init; } = [];
}

/// <summary>One configured connection of a channel.</summary>
public interface IGateway : IAsyncDisposable
{
    /// <summary>The channel that it serves.</summary>
    Channel Channel { get; }

    /// <summary>Its name in attempts.</summary>
    string Name { get; }

    /// <summary>How many messages it takes side by side.</summary>
    int Width { get; }

    /// <summary>Hands a message over and says what the far end said. Trouble of the far end or of the line is an outcome, not an exception.</summary>
    /// <exception cref="OperationCanceledException">The node stops; nothing is known of the message then.</exception>
    Task<HandOver> HandOverAsync(OutgoingMessage message, CancellationToken cancel);
}
