using Sirena.Channels;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Rules;

namespace Sirena.Engine.Dispatch;

/// <summary>A message of a trial.</summary>
/// <param name="Rule">The rule that tells.</param>
/// <param name="Meant">Whom it would have reached: the person's id, or an address outside.</param>
/// <param name="MeantBy">By which channel.</param>
/// <param name="By">By which channel it comes to whoever tries; <see langword="null"/> where they have no address by any.</param>
/// <param name="To">Their address.</param>
/// <param name="Subject">Its subject.</param>
/// <param name="Text">Its text, headed as a trial.</param>
public sealed record TrialMessage(string Rule, string Meant, Channel MeantBy, Channel? By, string? To, string Subject, string Text)
{
    /// <summary>What became of it; <see langword="null"/> before it was sent.</summary>
    public string? Outcome { get; init; }

    /// <summary>It was taken.</summary>
    public bool Taken { get; init; }
}

/// <summary>
/// Sends what an event would make to one person alone: through the rules in force, the real words and the real gateways, headed by whom it would have reached.
/// Nothing is stored or counted, nobody else is asked
/// anything, and the links in it lead nowhere.
/// </summary>
public sealed class MyTrial(SurroundingsCache surroundings, RuleShelf shelf, Gateways gateways, NodaTime.IClock clock)
{
    /// <summary>How many messages a trial sends at most.</summary>
    public const int Most = 12;

    /// <summary>What the event would make.</summary>
    /// <param name="happened">The event, as it is stored.</param>
    /// <param name="me">Whoever tries, or <see langword="null"/> for somebody who is none of the people.</param>
    /// <param name="mail">Their mail address, for what goes by a channel of which they have none.</param>
    /// <param name="cancel">Breaks it off.</param>
    public async Task<IReadOnlyList<TrialMessage>> LookAsync(OrderEvent happened, Person? me, string? mail, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var raised = new EventDecision(around, clock.GetCurrentInstant()).Decide(happened, await shelf.CurrentAsync(cancel), _ => null);
        var texts = raised.Messages.ToDictionary(m => m.DeliveryId);
        return
        [
            .. raised
                .Deliveries.Where(d => d.State != DeliveryState.Skipped && texts.ContainsKey(d.Id))
                .Take(Most)
                .Select(d =>
                {
                    var (by, to) = Address(d.Channel, me, mail);
                    var meant = d.Person ?? d.To;
                    var head =
                        $"A trial. It would have reached {around.NameOf(meant)} by {d.Channel.Traits().Word}, by the rule "
                        + $"'{around.RuleName(d.RuleId)}'. Nobody else is told, and its links lead nowhere.";
                    var text = texts[d.Id];
                    return new TrialMessage(d.RuleId, meant, d.Channel, by, to, $"Trial: {text.Subject}", $"{head}\n\n{text.Text}");
                }),
        ];
    }

    /// <summary>Sends it to whoever tries.</summary>
    /// <returns>The messages with what became of each.</returns>
    public async Task<IReadOnlyList<TrialMessage>> SendAsync(IReadOnlyList<TrialMessage> messages, CancellationToken cancel)
    {
        var sent = new List<TrialMessage>();
        foreach (var message in messages)
        {
            if (message.By is not { } by || message.To is not { } to)
            {
                sent.Add(message with { Outcome = $"you have no address by {message.MeantBy.Traits().Word}, and none by mail" });
            }
            else if (await gateways.PickAsync(by, cancel) is not { } line)
            {
                sent.Add(message with { Outcome = $"no {by.Traits().Word} gateway works right now" });
            }
            else
            {
                // The text alone: its HTML would carry buttons that answer.
                var result = await line.Gateway.HandOverAsync(
                    new OutgoingMessage(Guid.CreateVersion7(), to, null, message.Subject, message.Text, null),
                    cancel
                );
                sent.Add(
                    message with
                    {
                        Taken = result.Outcome == AttemptOutcome.Accepted,
                        Outcome = result.Outcome == AttemptOutcome.Accepted ? $"sent to {to}" : $"it did not go to {to}: {result.Reply}",
                    }
                );
            }
        }

        return sent;
    }

    // By the channel itself where they have an address by it, else by mail.
    private static (Channel? By, string? To) Address(Channel channel, Person? me, string? mail) =>
        channel.Traits().ByGateway && me?.Contacts.FirstOrDefault(c => c.Channel == channel)?.Address is { } own ? (channel, own)
        : (me?.Contacts.FirstOrDefault(c => c.Channel == Channel.Mail)?.Address ?? mail) is { } address ? (Channel.Mail, address)
        : (null, null);
}
