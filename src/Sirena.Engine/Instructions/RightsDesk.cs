using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Formats.Documents;
using Sirena.Storage;

namespace Sirena.Engine.Instructions;

/// <summary>Keeps who may ask for what.</summary>
public sealed class RightsDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, Signals signals, IClock clock)
{
    /// <summary>The rights as the audit log names them.</summary>
    public const string Thing = "instruction rights";

    /// <summary>Saves who may use which kind. Kinds that are left out, or are as usual, are as usual.</summary>
    /// <returns>What is wrong, or <see langword="null"/>.</returns>
    public async Task<string?> SaveAsync(IReadOnlyList<InstructionRight> rights, string by, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        foreach (var right in rights)
        {
            if (around.Kind(right.Kind) is null)
            {
                return $"There is no instruction '{Quoting.Cut(right.Kind)}'.{Closest.Hint(right.Kind, InstructionKinds.Names)}";
            }

            if (right.Teams.FirstOrDefault(t => around.Staff.Team(t) is null) is { } team)
            {
                return $"There is no team '{Quoting.Cut(team)}'.";
            }

            if (right.Roles.FirstOrDefault(r => r is not ("staff" or "supervisor")) is { } role)
            {
                return $"'{Quoting.Cut(role)}' is no role: staff or supervisor.";
            }

            if (right.Roles.Length == 0 && right.Teams.Length == 0)
            {
                return $"Nobody could ask for '{right.Kind}': choose a role or a team.";
            }
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        var business = await db.Businesses.SingleAsync(cancel);
        static string Said(InstructionRight r) =>
            $"{r.Kind}: {string.Join(", ", r.Roles.Concat(r.Teams).Order(StringComparer.Ordinal))}{(r.SecondYes ? ", with a second yes" : "")}";
        var kept = rights.Where(r => Said(r) != Said(InstructionRight.Usual(around.Kind(r.Kind)!))).ToList();
        var (before, after) = (business.InstructionRights.Select(Said).ToHashSet(), kept.Select(Said).ToArray());
        business.InstructionRights = kept;
        db.Audit.Add(
            new Storage.Access.AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = Thing,
                What =
                    after.All(before.Contains) && before.Count == after.Length
                        ? "Saved who may ask for what as it was."
                        : $"Changed who may ask for what. Beside what is usual: {(after.Length == 0 ? "nothing" : string.Join("; ", after))}.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        return null;
    }
}
