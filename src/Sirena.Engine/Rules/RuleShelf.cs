using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Formats.Rules;
using Sirena.Storage;

namespace Sirena.Engine.Rules;

/// <summary>The rule books by version, each compiled once. A version never changes, so nothing here goes stale.</summary>
public sealed class RuleShelf(IDbContextFactory<SirenaDb> factory, ILogger<RuleShelf> log)
{
    private const int Kept = 32;
    private const int MostRules = 4_000;
    private readonly ConcurrentDictionary<long, Lazy<Task<RuleBook>>> books = [];
    private readonly ConcurrentDictionary<(string Id, int Version), CompiledRule> rules = [];

    /// <summary>The book of that version.</summary>
    public async Task<RuleBook> BookAsync(long version)
    {
        var book = books.GetOrAdd(version, v => new Lazy<Task<RuleBook>>(() => LoadAsync(v)));
        try
        {
            var loaded = await book.Value;
            foreach (var old in books.Keys.Where(k => k != version).OrderDescending().Skip(Kept))
            {
                books.TryRemove(old, out _);
            }

            return loaded;
        }
        catch
        {
            books.TryRemove(version, out _);
            throw;
        }
    }

    /// <summary>The rule book in force.</summary>
    public async Task<RuleBook> CurrentAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await BookAsync((await db.RuleBook.AsNoTracking().SingleAsync(cancel)).Version);
    }

    /// <summary>A rule in one of its versions, or <see langword="null"/> when there is none.</summary>
    public async Task<CompiledRule?> RuleAsync(string id, int version, CancellationToken cancel)
    {
        if (rules.TryGetValue((id, version), out var known))
        {
            return known;
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.RuleVersions.AsNoTracking().FirstOrDefaultAsync(v => v.RuleId == id && v.Version == version, cancel) is { } found
            ? Compile(found)
            : null;
    }

    /// <summary>
    /// The rule of an alert in the version that raised it, and its case; <see langword="null"/> where there is none, as for a rule of Sirena's own.
    /// </summary>
    public async Task<(Rule? Rule, RuleCase? Case)> OfAsync(Alert alert, CancellationToken cancel)
    {
        var rule = (await RuleAsync(alert.RuleId, alert.Version, cancel))?.Rule;
        return (rule, rule?.Case(alert.Case));
    }

    /// <summary>The rule of a stored document.</summary>
    public static Rule Parse(RuleVersion version) =>
        RuleReader.Read(version.Document, yaml: false) is { Rule: { } rule }
            ? rule
            : throw new InvalidOperationException($"The stored document of rule {version.RuleId}, version {version.Version}, cannot be read.");

    private async Task<RuleBook> LoadAsync(long version)
    {
        await using var db = await factory.CreateDbContextAsync();
        var found = await db.RuleVersions.AsNoTracking().Where(v => v.BookFrom <= version && (v.BookTo == null || v.BookTo > version)).ToListAsync();
        return new RuleBook(version, found.Select(Whole).OfType<CompiledRule>());
    }

    // A stored rule that cannot be read is that rule's trouble alone: the others of its book hold.
    private CompiledRule? Whole(RuleVersion version)
    {
        try
        {
            return Compile(version);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            log.LogError(e, "Rule {Rule}, version {Version}, cannot be read and is left out.", version.RuleId, version.Version);
            return null;
        }
    }

    private CompiledRule Compile(RuleVersion version)
    {
        if (rules.Count >= MostRules)
        {
            // Old versions are asked for by old alerts; what is still needed is compiled again.
            rules.Clear();
        }

        return rules.GetOrAdd((version.RuleId, version.Version), _ => new CompiledRule(Parse(version), version.Version));
    }
}
