namespace Sirena.Core.Deliveries;

/// <summary>What is done with a message after a try.</summary>
public enum Course
{
    /// <summary>As its verdict says: taken, or tried again later.</summary>
    Usual,

    /// <summary>It is refused for good.</summary>
    Refused,

    /// <summary>This gateway will not send it: the next one is asked, and this one not again.</summary>
    Next,

    /// <summary>The gateway does not work: the next one takes over at once.</summary>
    Over,

    /// <summary>It is too large: once more without its documents.</summary>
    Bare,
}

/// <summary>Decides the course.</summary>
public static class Courses
{
    extension(Course)
    {
        /// <summary>What is done after a try.</summary>
        /// <param name="result">What the far end said.</param>
        /// <param name="bare">It went without documents, or has none.</param>
        /// <param name="believed">A refused address is believed at this gateway.</param>
        /// <param name="othersLeft">Another gateway is set up that has not refused to send it.</param>
        /// <param name="othersWork">Another gateway works.</param>
        public static Course After(HandOver result, bool bare, bool believed, bool othersLeft, bool othersWork) =>
            result.Blame switch
            {
                _ when result.Outcome == AttemptOutcome.Accepted => Course.Usual,
                Blame.Size => bare ? Course.Refused : Course.Bare,
                Blame.Policy => othersLeft ? Course.Next : Course.Refused,
                Blame.Address when result.Outcome == AttemptOutcome.Permanent => !believed && othersLeft && othersWork ? Course.Next : Course.Refused,
                Blame.Content => Course.Refused,
                Blame.Gateway => othersWork ? Course.Over : Course.Usual,
                _ when result.RetryAfter is not null => othersWork ? Course.Over : Course.Usual,
                _ => Course.Usual,
            };
    }
}
