using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Notices;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Intake;
using Sirena.Engine.People;
using Sirena.Engine.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Notices;

/// <summary>
/// Keeps notices and sends them when they are due. A notice goes out as an event of its own, whose id is the notice's: it goes once, whichever node sends it.
/// </summary>
public sealed class NoticeDesk(IDbContextFactory<SirenaDb> factory, RuleDesk rules, WhoDesk people, IntakeDesk intake, Signals signals, IClock clock)
{
    /// <summary>Makes one.</summary>
    /// <param name="headline">Its headline.</param>
    /// <param name="text">Its text; may be empty.</param>
    /// <param name="telling">The recipients and channels as in a rule document, JSON.</param>
    /// <param name="urgency">Its urgency.</param>
    /// <param name="at">When it goes; <see langword="null"/> for now.</param>
    /// <param name="by">Who makes it.</param>
    /// <returns>The notice, or the mistakes.</returns>
    public async Task<(Notice? Made, IReadOnlyList<DocumentError> Errors)> MakeAsync(
        string headline,
        string text,
        JsonObject telling,
        Urgency urgency,
        Instant? at,
        string by,
        CancellationToken cancel
    )
    {
        var now = clock.GetCurrentInstant();
        var errors = new List<DocumentError>();
        void Wrong(string path, string problem) => errors.Add(new DocumentError(path, null, null, problem));
        if (!NameText.Fits(headline, 120))
        {
            Wrong("headline", "Say in one line what it is about, 120 characters at most.");
        }

        if (text.Length > 2000)
        {
            Wrong("text", "The text is longer than 2,000 characters.");
        }

        if (at <= now)
        {
            Wrong("at", "This time is over. Choose one that lies ahead, or send it now.");
        }
        else if (at > now + Duration.FromDays(366))
        {
            Wrong("at", "This is more than a year ahead.");
        }

        if (DocumentText.Read(telling.ToJsonString(), yaml: false).Node is MapNode map)
        {
            var (tell, _, mistakes) = TellingReader.ReadTelling(map, await rules.NamesAsync(cancel));
            errors.AddRange(mistakes);
            if (mistakes.Count == 0 && tell.Count == 0)
            {
                Wrong("tell", "Choose at least one recipient.");
            }

            if (tell.Any(t => t is RoleRecipient))
            {
                Wrong("tell", "A notice is about no order, so it cannot go to somebody by their part in one.");
            }
        }

        if (errors.Count > 0)
        {
            return (null, errors);
        }

        var notice = new Notice
        {
            Id = Guid.CreateVersion7(),
            Headline = headline.Trim(),
            Text = text.Trim(),
            Telling = telling.ToJsonString(),
            Urgency = urgency,
            At = at ?? now,
            By = by,
            MadeAt = now,
        };
        await using (var db = await factory.CreateDbContextAsync(cancel))
        {
            db.Notices.Add(notice);
            db.Audit.Add(
                new AuditEntry
                {
                    At = now,
                    By = by,
                    What = $"{(at is null ? "Sent" : "Planned")} the notice '{notice.Headline}'.",
                }
            );
            await db.SaveChangesAsync(cancel);
        }

        await SendDueAsync(cancel);
        return (notice, []);
    }

    /// <summary>Calls one off that has not gone yet.</summary>
    /// <returns>Whether it was in time.</returns>
    public async Task<bool> CallOffAsync(Guid id, string by, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var done =
            await db
                .Notices.Where(n => n.Id == id && n.SentAt == null && n.CalledOffAt == null)
                .ExecuteUpdateAsync(s => s.SetProperty(n => n.CalledOffAt, now), cancel) == 1;
        if (done)
        {
            db.Audit.Add(
                new AuditEntry
                {
                    At = now,
                    By = by,
                    What = $"Called off the notice {id}.",
                }
            );
            await db.SaveChangesAsync(cancel);
            signals.Raise(Topic.Pages);
        }

        return done;
    }

    /// <summary>
    /// Sends what is due, to whom it resolves at that moment. The events are stored first, under ids that hold each to one; a node that dies before it notes
    /// that sends nothing twice.
    /// </summary>
    public async Task SendDueAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var due = await db.Notices.Where(n => n.SentAt == null && n.CalledOffAt == null && n.At <= now).OrderBy(n => n.At).Take(50).ToListAsync(cancel);
        foreach (var notice in due)
        {
            var who = await WhoAsync(notice, now, cancel);
            await intake.TakeAsync(
                [.. who.Told.Concat(who.Held).Select(t => t.Person ?? t.Contact).Distinct().Select(reader => Event(notice, reader, now))],
                cancel
            );
            notice.SentAt = now;
        }

        if (due.Count > 0)
        {
            await db.SaveChangesAsync(cancel);
            signals.Raise(Topic.Pages);
        }
    }

    /// <summary>Who would be told of a notice at a moment.</summary>
    public Task<Resolution> WhoAsync(Notice notice, Instant at, CancellationToken cancel)
    {
        var (tell, by, _) = TellingReader.ReadTelling(notice.Telling);
        return people.AskAsync(
            new TellQuestion(tell, by ?? OwnRules.EveryChannel, notice.Urgency, EventTypes.NoticeSent, OwnRules.Notice, false, at),
            null,
            cancel
        );
    }

    /// <summary>The subject of a notice's events.</summary>
    public static string Subject(Notice notice) => $"notice-{notice.Id.ToString("N")[^10..]}";

    // An event for each reader: each has an alert and an answer of their own.
    private static Arrival Event(Notice notice, string reader, Instant now)
    {
        var told = (JsonObject)JsonNode.Parse(notice.Telling)!;
        var address = reader.Contains('@', StringComparison.Ordinal) || reader.StartsWith('+');
        told["tell"] = new JsonArray(
            address ? new JsonObject { ["address"] = reader, ["outside"] = true } : new JsonObject { ["person"] = reader, ["outside"] = true }
        );
        (told["headline"], told["text"], told["from"], told["urgency"]) = (notice.Headline, notice.Text, notice.By, notice.Urgency.Name());
        return OwnEvents.Make($"notice-{notice.Id}-{reader}", EventTypes.NoticeSent, Subject(notice), new JsonObject { ["notice"] = told }, now);
    }
}
