using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Engine.Wordings;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Statuses;

/// <summary>What a customer is written when an order goes to a status.</summary>
/// <param name="Rule">The rule that writes.</param>
/// <param name="Language">In which language, by its own name.</param>
/// <param name="Subject">The mail's subject.</param>
/// <param name="Begins">How it begins.</param>
/// <param name="Address">The page of its wording.</param>
public sealed record CustomerLetter(string Rule, string Language, string Subject, string Begins, string Address);

/// <summary>The statuses: how orders move through them, what each means, and the one in edit.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(StatusDesk desk, StatusFlows flows, RuleShelf shelf, WordingDesk wordings) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => Id is null ? null : $"status:{Id}";

    private const int Days = 30;

    /// <summary>The status in edit.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Id { get; set; }

    /// <summary>One is being made. It has no word in place of its id: many an order system calls a status <c>new</c>.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Add { get; set; }

    /// <summary>A word that the new status is for.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Word { get; set; }

    /// <summary>What moved in 30 days.</summary>
    public StatusFlow Flow { get; private set; } = null!;

    /// <summary>How many orders stand in each status now.</summary>
    public IReadOnlyDictionary<string, int> Standing { get; private set; } = new Dictionary<string, int>();

    /// <summary>How many of these stand longer than allowed.</summary>
    public IReadOnlyDictionary<string, int> Over { get; private set; } = new Dictionary<string, int>();

    /// <summary>Words that came and belong to no status, with how many orders stand under them.</summary>
    public IReadOnlyList<(string Word, int Orders)> Strange { get; private set; } = [];

    /// <summary>The rules that entering a status may set off, those that are off with them.</summary>
    public ILookup<string, Rule> SetOff { get; private set; } = null!;

    /// <summary>What stands in the form; <see langword="null"/> when nothing is in edit.</summary>
    public StatusEdit? Edit { get; private set; }

    /// <summary>The mistakes by the member that they concern.</summary>
    public IReadOnlyDictionary<string, string> Problems { get; private set; } = new Dictionary<string, string>();

    /// <summary>A mistake that concerns none of the fields.</summary>
    public string? Problem { get; private set; }

    /// <summary>The begin of the period.</summary>
    public Instant Since => Clock.Zone.AtStartOfDay(Clock.Today.PlusDays(-Days)).ToInstant();

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        await LoadAsync(cancel);
        Edit =
            !User.MayChange() ? null
            : Add
                ? new StatusEdit(
                    null,
                    Sentences.Capital(Word ?? "").Replace('-', ' '),
                    StatusDesk.Marks.FirstOrDefault(m => Around.Statuses.All(s => s.Mark != m)),
                    "open",
                    Word,
                    "",
                    ""
                )
            : Around.Status(Id) is { } s
                ? new StatusEdit(
                    s.Id,
                    s.Name,
                    s.Mark,
                    s.Kind.Name(),
                    string.Join(", ", s.Words),
                    s.CustomerSees,
                    s.AllowedMinutes?.ToString(System.Globalization.CultureInfo.InvariantCulture),
                    s.BacklogLimit?.ToString(System.Globalization.CultureInfo.InvariantCulture)
                )
                {
                    Follows = s.Follows,
                    Tone = s.Tone ?? "",
                }
            : null;
        if (Edit?.Id is { } status)
        {
            await WriteLettersAsync(status, cancel);
        }
    }

    /// <summary>The moves of the last while that a status does not allow: how often, and why not.</summary>
    public IEnumerable<(string From, string To, int Count, string Why)> Against =>
        Flow
            .Moves.Select(m => (From: Around.Status(m.Key.From), To: Around.Status(m.Key.To), m.Value))
            .Where(m => m.From is not null && m.To is not null && m.From.WhyNot(m.To) is not null)
            .Select(m => (m.From!.Name, m.To!.Name, m.Value, m.From.WhyNot(m.To)!));

    /// <summary>What a rule does when an order enters the status in edit, for its people or for the customer.</summary>
    /// <param name="rule">The rule.</param>
    /// <param name="customer">What the customer is told, instead of the staff.</param>
    /// <returns>Whom, and how, a case a sentence; empty where it tells nobody of them.</returns>
    public IEnumerable<string> Tells(Rule rule, bool customer)
    {
        var words = Around.Sentences;
        foreach (var one in rule.Cases)
        {
            string[] told = [.. one.Tell.Where(r => IsCustomer(r) == customer).Select(words.Of)];
            string[] later = [.. one.Ladder.SelectMany(s => s.Tell).Where(r => IsCustomer(r) == customer).Select(words.Of).Distinct().Except(told)];
            if (told.Length + later.Length > 0)
            {
                yield return $"{string.Join(", ", told)}{(told.Length > 0 ? " " + RuleSentence.Of(one.By) : "")}"
                    + $"{(later.Length > 0 ? $"{(told.Length > 0 ? ", " : "")}then {string.Join(", ", later)}" : "")}";
            }
        }
    }

    /// <summary>
    /// What the customer is written when an order goes to the status in edit, by the rule that writes: the message as it would be for an order that stands
    /// there, in each language that ships.
    /// </summary>
    public ILookup<string, CustomerLetter> Letters { get; private set; } = Array.Empty<CustomerLetter>().ToLookup(l => l.Rule);

    private async Task WriteLettersAsync(string status, CancellationToken cancel)
    {
        var facts = await wordings.FactsOfStatusAsync(status, cancel);
        var letters = new List<CustomerLetter>();
        foreach (var rule in SetOff[status].DistinctBy(r => r.Id).Where(r => r.Cases.Any(c => c.Tell.Any(IsCustomer))))
        {
            var id = rule.Cases.First(c => c.Tell.Any(IsCustomer)).Wording;
            foreach (var language in TextLanguage.All)
            {
                var parts = Around.TextsFor(id, EventTypes.StatusChanged, Audience.Customer, language.Code);
                var shown = await wordings.PreviewAsync(new PreviewQuestion(parts, Audience.Customer, language.Code, facts, rule.Name, null), cancel);
                var mail = shown.Messages[Channel.Mail];
                var wording = Uri.EscapeDataString(id ?? ShippedWordings.IdFor(EventTypes.StatusChanged));
                letters.Add(
                    new CustomerLetter(
                        rule.Id,
                        language.Name,
                        mail.Subject,
                        string.Join(' ', mail.Text.Split(['\r', '\n'], StringSplitOptions.RemoveEmptyEntries).Take(3)),
                        $"/wording?id={wording}&audience=customer&language={language.Code}&order={Uri.EscapeDataString(facts.Event.OrderNumber ?? "")}"
                    )
                );
            }
        }

        Letters = letters.ToLookup(l => l.Rule);
    }

    private static bool IsCustomer(Recipient recipient) => recipient is RoleRecipient { Role: OrderRole.Customer };

    /// <summary>Saves the one in edit.</summary>
    public async Task<IActionResult> OnPostSaveAsync(
        string? name,
        string? mark,
        string? kind,
        string? words,
        bool sees,
        string? customerSees,
        string? allowed,
        string? backlog,
        string? tone,
        string[] follows,
        CancellationToken cancel
    )
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var edit = new StatusEdit(Id, name, mark, kind, words, sees ? customerSees : null, allowed, backlog) { Follows = follows, Tone = tone ?? "" };
        var (id, problems) = await desk.SaveAsync(edit, User.Name(), cancel);
        if (id is not null)
        {
            Said = $"'{name?.Trim()}' is saved, in force from the next event.";
            return Redirect("/orders/statuses");
        }

        (Edit, Problems) = (edit, problems);
        Response.StatusCode = 422;
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Puts one to a place in the usual way of an order, from 1.</summary>
    public async Task<IActionResult> OnPostMoveAsync(string? id, int place, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        await desk.PlaceAsync(id ?? "", place, User.Name(), cancel);
        return Redirect(Request.Form["stay"].Count > 0 ? "/orders/statuses" : "/orders/statuses?id=" + Uri.EscapeDataString(id ?? ""));
    }

    /// <summary>Takes one out of the list.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var name = Around.Status(Id)?.Name ?? Id;
        Problem = await desk.RemoveAsync(Id ?? "", User.Name(), cancel);
        if (Problem is null)
        {
            Said = $"'{name}' is removed.";
            return Redirect("/orders/statuses");
        }

        Response.StatusCode = 409;
        await OnGetAsync(cancel);
        return Page();
    }

    /// <summary>How many orders would stand longer than a limit that is being typed.</summary>
    public async Task<IActionResult> OnGetOverAsync(string id, string? allowed, CancellationToken cancel)
    {
        if (!int.TryParse(allowed, out var minutes) || minutes < 1)
        {
            return Content("", "text/html");
        }

        var (all, over) = await flows.SinceBeforeAsync(id, Clock.Now - Duration.FromMinutes(minutes), cancel);
        return Content(
            over == 0
                ? ""
                : $"<div class=\"said wait\"><span>At {minutes} min <b>{over} of the {all}</b> {(all == 1 ? "order" : "orders")} here "
                    + $"{(over == 1 ? "is" : "are")} over it at once.</span></div>",
            "text/html"
        );
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        Flow = await flows.SinceAsync(Since, cancel);
        (Standing, Over, Strange) = await flows.StandingAsync(Clock.Now, cancel);
        SetOff = (await shelf.CurrentAsync(cancel))
            .Rules.SelectMany(r =>
                r.Rule.Leaves.Where(l => l.Is is Operator.Equal or Operator.OneOf && l.Field is "order.status" or "change.after")
                    .SelectMany(l => Around.Statuses.Where(s => l.Wants(s.Id)).Select(s => (s.Id, r.Rule)))
                    .Distinct()
            )
            .ToLookup(x => x.Id, x => x.Rule);
    }
}
