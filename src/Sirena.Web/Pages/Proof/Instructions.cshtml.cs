using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Engine.Instructions;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Api;
using Sirena.Web.Pages.Orders;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Proof;

/// <summary>What was asked of order systems, with the times from asked to seen.</summary>
[Authorize(Policies.SeeAll)]
public sealed class InstructionsModel(SirenaDb db, InstructionDesk desk) : SirenaPage
{
    private const int Most = 200;
    private static readonly Duration Back = Duration.FromDays(7);

    /// <summary>The states that are shown, <c>waits</c> for those that wait for a yes; all where none is given.</summary>
    [BindProperty(SupportsGet = true)]
    public string? State { get; set; }

    /// <summary>They, newest first.</summary>
    public IReadOnlyList<Instruction> Found { get; private set; } = [];

    /// <summary>How many of the last week stand how.</summary>
    public IReadOnlyDictionary<InstructionState, int> Counts { get; private set; } = new Dictionary<InstructionState, int>();

    /// <summary>How many wait for a yes.</summary>
    public int Waiting { get; private set; }

    /// <summary>The median from asked to seen, of the last week; <see langword="null"/> where nothing was seen.</summary>
    public Duration? Usual { get; private set; }

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        var since = Clock.Now - Back;
        var recent = db.Instructions.AsNoTracking().Where(i => !i.Trial);
        InstructionState[] states =
        [
            .. (State ?? "")
                .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                .Select(Names.Parse<InstructionState>)
                .OfType<InstructionState>(),
        ];
        var which =
            State == "waits" ? recent.Where(i => i.Waits != null && i.State == InstructionState.Asked)
            : states.Length > 0 ? recent.Where(i => states.Contains(i.State))
            : recent;
        Found = await which.OrderByDescending(i => i.AskedAt).ThenByDescending(i => i.Id).Take(Most).ToListAsync(cancel);
        Counts = (
            await recent.Where(i => i.AskedAt >= since).GroupBy(i => i.State).Select(g => new { g.Key, Count = g.Count() }).ToListAsync(cancel)
        ).ToDictionary(g => g.Key, g => g.Count);
        Waiting = await recent.CountAsync(i => i.Waits != null && i.State == InstructionState.Asked, cancel);
        var took = (
            await recent
                .Where(i => i.AskedAt >= since && i.SeenAt != null)
                .OrderByDescending(i => i.AskedAt)
                .Take(2_000)
                .Select(i => new { i.AskedAt, Seen = i.SeenAt!.Value })
                .ToListAsync(cancel)
        )
            .Select(i => i.Seen - i.AskedAt)
            .Order()
            .ToArray();
        Usual = took.Length == 0 ? null : took[took.Length / 2];
    }

    /// <summary>Says yes to one that waits, or stops it.</summary>
    public async Task<IActionResult> OnPostAsync(Guid id, bool stop, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = InstructionForm.Settled(await desk.SettleAsync(id, stop, InstructionsApi.AskerOf(User), cancel), stop);
        return RedirectToPage(new { state = State });
    }
}
