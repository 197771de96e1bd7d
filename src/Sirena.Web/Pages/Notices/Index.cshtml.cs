using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Notices;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Notices;
using Sirena.Engine.People;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Rules;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Notices;

/// <summary>An earlier notice with what became of it.</summary>
/// <param name="Notice">The notice.</param>
/// <param name="Told">To how many it went.</param>
/// <param name="Read">How many answered that they read it.</param>
/// <param name="Median">The median time to that.</param>
public sealed record PastNotice(Notice Notice, int Told, int Read, Duration? Median);

/// <summary>
/// A message that a supervisor sends once: to people, teams or whoever is on duty, now or at a time. Whom it reaches is shown as it is written.
/// </summary>
[Authorize(Policies.Change)]
public sealed class IndexModel(SirenaDb db, NoticeDesk desk, WhoDesk who) : SirenaPage, IRecipientSheet
{
    private static readonly int[] Delays = [5, 10, 20, 30, 60];
    private static readonly string[] InTurn = ["push", "chat", "sms", "mail"];
    private static readonly string[] AtOnce = ["screen", .. InTurn];

    /// <inheritdoc/>
    public string Self => "/people/notices";

    /// <inheritdoc/>
    public bool OnOrder => false;

    /// <summary>A notice to begin from.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid? From { get; set; }

    /// <summary>The headline.</summary>
    public string Headline { get; private set; } = "";

    /// <summary>The text.</summary>
    public string Text { get; private set; } = "";

    /// <summary>The recipients.</summary>
    public JsonArray Tell { get; private set; } = [new JsonObject()];

    /// <summary><c>first</c>, <c>all</c> or <c>only</c>.</summary>
    public string By { get; private set; } = "first";

    /// <summary>The channels where only some are used.</summary>
    public IReadOnlyList<string> Only { get; private set; } = ["mail"];

    /// <summary>It goes at a time.</summary>
    public bool Later { get; private set; }

    /// <summary>That time.</summary>
    public string At { get; private set; } = "";

    /// <summary>It passes quiet hours.</summary>
    public bool Passes { get; private set; }

    /// <summary>Each one is asked to answer.</summary>
    public bool Ask { get; private set; } = true;

    /// <summary>After how many minutes without an answer that person is told once more; 0 for never.</summary>
    public int Remind { get; private set; } = 10;

    /// <summary>Who would be told.</summary>
    public Resolution? Who { get; private set; }

    /// <summary>The moment for which that is worked out.</summary>
    public Instant For { get; private set; }

    /// <summary>The mistakes.</summary>
    public IReadOnlyList<DocumentError> Errors { get; private set; } = [];

    /// <summary>Earlier ones, and those that wait for their time.</summary>
    public IReadOnlyList<PastNotice> Past { get; private set; } = [];

    /// <summary>The delays that can be chosen.</summary>
    public IReadOnlyList<int> Minutes => Delays;

    /// <summary>The mistakes at a place.</summary>
    public IEnumerable<string> AtPlace(string path) => Errors.Where(e => e.Path.Split('[', '.')[0] == path).Select(e => e.Problem);

    /// <summary>The readers: each with the channels by which they are told.</summary>
    public IEnumerable<(string Name, string Because, Told[] Ways, Instant? Held)> Readers =>
        (Who is null ? [] : Who.Told.Concat(Who.Held))
            .GroupBy(t => t.Person ?? t.Contact)
            .Select(g => (Around.NameOf(g.Key), Sentences.OfAnother(g.First().Because), g.ToArray(), g.Min(t => t.HeldUntil)));

    /// <summary>Those who were named and would not hear of it by any way; who is off duty was not meant.</summary>
    public IReadOnlyList<LeftOut> Missed
    {
        get
        {
            var told = (Who is null ? [] : Who.Told.Concat(Who.Held)).Select(t => t.Person).ToHashSet();
            return Who is null
                ? []
                :
                [
                    .. Who
                        .Left.Where(l => !l.OffDuty && !told.Contains(l.Person))
                        .GroupBy(l => l.Person)
                        .Select(g => g.First() with { Because = string.Join(", ", g.Select(l => l.Because).Distinct()) }),
                ];
        }
    }

    /// <summary>How an SMS of it would be counted.</summary>
    public SmsText Sms => SmsText.Of($"{Headline.Trim()}. {Text.Trim()}");

    /// <summary>Shows the form.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        if (
            From is { } id
            && await db.Notices.AsNoTracking().FirstOrDefaultAsync(n => n.Id == id, cancel) is { } old
            && JsonNode.Parse(old.Telling) is JsonObject map
        )
        {
            (Headline, Text) = (old.Headline, old.Text);
            Tell = map["tell"]?.DeepClone() as JsonArray ?? [];
            (Ask, Remind, Passes) = ((bool?)map["ask"] ?? true, (int?)map["remindMinutes"] ?? 0, old.Urgency == Urgency.Urgent);
            if (map["by"]?["allAtOnce"] is JsonArray all)
            {
                string[] ways = [.. all.Select(c => (string)c!)];
                (By, Only) = ways.SequenceEqual(AtOnce) ? ("all", Only) : ("only", ways);
            }
        }

        await LoadAsync(cancel);
    }

    /// <summary>Draws anew, sends to oneself, or sends.</summary>
    public async Task<IActionResult> OnPostAsync(string? act, CancellationToken cancel)
    {
        var form = await Request.ReadFormAsync(cancel);
        (Headline, Text, By, At) = (
            form["headline"].ToString(),
            form["text"].ToString(),
            form["by"].ToString() is { Length: > 0 } by ? by : "first",
            form["at"].ToString()
        );
        (Later, Passes, Ask) = (form["when"].ToString() == "at", form["passes"].ToString() == "true", form["ask"].ToString() != "no");
        Remind = int.TryParse(form["remind"], out var minutes) && Delays.Contains(minutes) ? minutes : 0;
        Only = [.. form["only"].OfType<string>()];
        Tell = DraftRecipient.Read(form, "n");
        var (what, where) = (act ?? "").Split(':', 2) is [var w, var p] ? (w, p) : (act ?? "", "");
        switch (what)
        {
            case "recipient":
                Tell.Add(new JsonObject());
                break;
            case "drop-recipient" when int.TryParse(where.Split('.')[^1], out var n) && n >= 0 && n < Tell.Count:
                Tell.RemoveAt(n);
                break;
            case "call-off" when Guid.TryParse(where, out var id):
                Said = await desk.CallOffAsync(id, User.Name(), cancel) ? "It is called off, nobody is told." : "It has gone already.";
                return Redirect(Self);
            case "me" or "send":
                if (await SendAsync(what == "me", cancel) is { } done)
                {
                    return done;
                }

                break;
        }

        await LoadAsync(cancel);
        return Page();
    }

    private async Task<IActionResult?> SendAsync(bool me, CancellationToken cancel)
    {
        var telling = Telling();
        if (me)
        {
            telling["tell"] = new JsonArray(
                User.FindFirst("person")?.Value is { } person
                    ? new JsonObject { ["person"] = person }
                    : new JsonObject { ["address"] = User.Identity!.Name, ["outside"] = true }
            );
            telling.Remove("remindMinutes");
        }

        var (made, errors) = await desk.MakeAsync(
            Headline,
            Text,
            telling,
            Passes ? Urgency.Urgent : Urgency.Prompt,
            me || !Later ? null : Clock.Read(At) ?? Instant.MinValue,
            User.Name(),
            cancel
        );
        if (made is null)
        {
            Errors = errors;
            Response.StatusCode = 422;
            return null;
        }

        if (me)
        {
            SaidHere = $"'{made.Headline}' is on its way to you alone. It stands here as it was, to be sent.";
            return null;
        }

        Said = Later ? $"Planned for {Clock.Short(made.At)}. It is told to whoever is there then." : $"'{made.Headline}' is on its way.";
        return Redirect(Self);
    }

    private JsonObject Telling()
    {
        var telling = new JsonObject
        {
            ["tell"] = DraftRecipient.Chosen(Tell),
            ["by"] =
                By == "first"
                    ? new JsonObject { ["firstThatLands"] = List(InTurn), ["wait"] = "PT2M" }
                    : new JsonObject { ["allAtOnce"] = List(By == "only" ? Only : AtOnce) },
            ["ask"] = Ask,
        };
        if (Ask && Remind > 0)
        {
            telling["remindMinutes"] = Remind;
            telling["then"] = User.FindFirst("person")?.Value ?? "";
        }

        return telling;
        static JsonArray List(IEnumerable<string> texts) => new([.. texts.Select(t => (JsonNode)t)]);
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        For = (Later ? Clock.Read(At) : null) ?? Clock.Now;
        var (tell, by, _) = TellingReader.ReadTelling(Telling().ToJsonString());
        if (tell.Count > 0)
        {
            Who = await who.AskAsync(
                new TellQuestion(
                    tell,
                    by ?? OwnRules.EveryChannel,
                    Passes ? Urgency.Urgent : Urgency.Prompt,
                    EventTypes.NoticeSent,
                    OwnRules.Notice,
                    false,
                    For
                ),
                null,
                cancel
            );
        }

        var notices = await db.Notices.AsNoTracking().OrderByDescending(n => n.MadeAt).Take(8).ToListAsync(cancel);
        string[] subjects = [.. notices.Select(NoticeDesk.Subject)];
        var alerts = (await db.Alerts.AsNoTracking().Where(a => subjects.Contains(a.Subject!) && a.RuleId == OwnRules.Notice).ToListAsync(cancel)).ToLookup(a =>
            a.Subject!
        );
        Past =
        [
            .. notices.Select(n =>
            {
                var told = alerts[NoticeDesk.Subject(n)].ToArray();
                Duration[] read = [.. told.Where(a => a is { State: AlertState.Done, TakenAt: not null }).Select(a => a.EndedAt!.Value - a.RaisedAt).Order()];
                return new PastNotice(n, told.Length, read.Length, read.Length == 0 ? null : read[read.Length / 2]);
            }),
        ];
    }
}
