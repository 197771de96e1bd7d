using Microsoft.AspNetCore.Mvc;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Web.Api;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <content>What a person wishes: opt-outs, quiet hours, leave, the order of channels.</content>
public sealed partial class PersonModel
{
    /// <summary>Adds an opt-out.</summary>
    public Task<IActionResult> OnPostOptOutAsync(string? of, string? channel, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                if (Names.IsNone<Channel>(channel))
                {
                    return "Choose a channel of the list.";
                }

                var wish = of?.Split(':', 2) switch
                {
                    ["event", var type] when EventTypes.IsType(type) => new OptOut(type, null, Names.Parse<Channel>(channel)),
                    ["rule", var rule] when Around.Rules.ContainsKey(rule) => new OptOut(null, rule, Names.Parse<Channel>(channel)),
                    _ => null,
                };
                if (wish is null)
                {
                    return "Choose an event or a rule.";
                }

                if (!p.OptOuts.Contains(wish))
                {
                    p.OptOuts.Add(wish);
                }

                return null;
            },
            "Opted out.",
            cancel
        );

    /// <summary>Takes an opt-out back.</summary>
    public Task<IActionResult> OnPostOptInAsync(int index, CancellationToken cancel) =>
        ChangeAsync((p, _) => Remove(p.OptOuts, index), "Opted in again.", cancel);

    /// <summary>Adds quiet hours.</summary>
    public Task<IActionResult> OnPostQuietAsync(string? from, string? to, string[] days, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                var (span, problem) = SpanForm.Read(from, to, days, "quiet");
                if (span is not null)
                {
                    p.Quiet.Add(span);
                }

                return problem;
            },
            "Quiet hours added.",
            cancel
        );

    /// <summary>Ends quiet hours.</summary>
    public Task<IActionResult> OnPostLoudAsync(int index, CancellationToken cancel) =>
        ChangeAsync((p, _) => Remove(p.Quiet, index), "Quiet hours taken away.", cancel);

    /// <summary>Adds leave.</summary>
    public Task<IActionResult> OnPostLeaveAsync(string? from, string? to, string? cover, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                if (Clock.ReadTyped(from) is not { } first)
                {
                    return WhenApi.Refusal("day", from, "The first day of the leave");
                }

                if (Clock.ReadTyped(to) is not { } last)
                {
                    return WhenApi.Refusal("day", to, "The last day of the leave");
                }

                if (last < first)
                {
                    return "The leave ends before it begins.";
                }

                if (cover == Id || (Some(cover) is { } id && Around.Staff.Person(id) is not { ArchivedAt: null }))
                {
                    return "Choose somebody else as cover.";
                }

                p.Away.Add(Leave.Of(first, last, Some(cover), Clock.Zone));
                p.Away.Sort((a, b) => a.From.CompareTo(b.From));
                return null;
            },
            $"Leave added{(Some(cover) is { } c ? $"; {Around.NameOf(c)} covers" : "; nobody covers")}.",
            cancel
        );

    /// <summary>Takes leave away.</summary>
    public Task<IActionResult> OnPostBackAsync(int index, CancellationToken cancel) =>
        ChangeAsync((p, _) => Remove(p.Away, index), "Leave taken away.", cancel);

    /// <summary>Sets which channel comes first for each urgency.</summary>
    public Task<IActionResult> OnPostOrderAsync(string? routine, string? prompt, string? urgent, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                if (new[] { routine, prompt, urgent }.Any(Names.IsNone<Channel>))
                {
                    return "Choose a channel of the list.";
                }

                p.First = new[] { (Urgency.Routine, routine), (Urgency.Prompt, prompt), (Urgency.Urgent, urgent) }
                    .Select(x => (x.Item1, Names.Parse<Channel>(x.Item2)))
                    .Where(x => x.Item2 is not null)
                    .ToDictionary(x => x.Item1, x => x.Item2!.Value);
                return null;
            },
            "Saved.",
            cancel
        );
}
