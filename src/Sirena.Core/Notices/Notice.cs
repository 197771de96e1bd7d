using NodaTime;
using Sirena.Core.Rules;

namespace Sirena.Core.Notices;

/// <summary>
/// A message that a supervisor sends once, to people, teams or whoever is on duty, now or at a time. It goes out as an event of its own, with the same proof
/// and answers as any alert.
/// </summary>
public sealed class Notice
{
    /// <summary>Its id.</summary>
    public Guid Id { get; init; }

    /// <summary>Its headline; at most 120 characters.</summary>
    public required string Headline { get; set; }

    /// <summary>Its text; at most 2,000 characters.</summary>
    public required string Text { get; set; }

    /// <summary>The recipients and channels, JSON as in a rule document: <c>{ "tell": […], "by": {…} }</c>.</summary>
    public required string Telling { get; set; }

    /// <summary>Its urgency.</summary>
    public Urgency Urgency { get; set; }

    /// <summary>When it goes.</summary>
    public Instant At { get; set; }

    /// <summary>Who made it.</summary>
    public required string By { get; init; }

    /// <summary>When it was made.</summary>
    public Instant MadeAt { get; init; }

    /// <summary>When it went, or <see langword="null"/>.</summary>
    public Instant? SentAt { get; set; }

    /// <summary>When it was called off before it went, or <see langword="null"/>.</summary>
    public Instant? CalledOffAt { get; set; }
}

/// <summary>A picture that was pasted into a note: decoded and written anew, so that it carries nothing but its pixels.</summary>
public sealed class NotePicture
{
    /// <summary>The most bytes of a picture as it is given: 8 MB.</summary>
    public const int MostBytes = 8 << 20;

    /// <summary>Its id.</summary>
    public Guid Id { get; init; }

    /// <summary>The order that the note is on.</summary>
    public required string OrderNumber { get; init; }

    /// <summary>The picture, a JPEG.</summary>
    public required byte[] Jpeg { get; init; }

    /// <summary>Its width in pixels.</summary>
    public int Width { get; init; }

    /// <summary>Its height in pixels.</summary>
    public int Height { get; init; }

    /// <summary>When it came.</summary>
    public Instant At { get; init; }
}
