using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Sources;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Sources;

/// <summary>How saving a source ended.</summary>
/// <param name="Source">The source; <see langword="null"/> where it has mistakes.</param>
/// <param name="Created">It is new.</param>
/// <param name="Made">The secret that was made for it, shown this once; <see langword="null"/> where none was.</param>
/// <param name="Errors">The mistakes.</param>
public sealed record SourceSave(Source? Source, bool Created, string? Made, IReadOnlyList<DocumentError> Errors);

/// <summary>Saves sources, their secrets, keys and readings. Secrets go in and never come out.</summary>
public sealed class SourceDesk(IDbContextFactory<SirenaDb> factory, SourceSecrets secrets, SourceFolders folders, Signals signals, IClock clock)
{
    /// <summary>How long a secret still holds that another one replaced.</summary>
    public static Duration OldHolds { get; } = Duration.FromHours(24);

    /// <summary>Creates or changes a source; members that are left out stay.</summary>
    public async Task<SourceSave> SaveAsync(string id, Node document, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await BeginAsync(db, id, cancel);
        var known = await db.Sources.FirstOrDefaultAsync(s => s.Id == id, cancel);
        var now = clock.GetCurrentInstant();
        var (plan, errors) = SourceReader.Read(document, id, known is { RemovedAt: null } ? known : null);
        if (plan?.Listing is { } listing)
        {
            errors =
            [
                .. new[] { ("listing.schedule", ListFetch.Problem(listing.Schedule)), ("listing.folder", folders.Problem(listing.Folder)) }
                    .Where(p => p.Item2 is not null)
                    .Select(p => new DocumentError(p.Item1, null, null, p.Item2!)),
            ];
        }

        if (plan is null || errors.Count > 0)
        {
            return new SourceSave(null, false, null, errors);
        }

        var created = known is null or { RemovedAt: not null };
        var source = known
            ?? db.Sources.Add(
                new Source
                {
                    Id = id,
                    Name = plan.Name,
                    CreatedAt = now,
                }
            ).Entity;
        var before = created ? null : SourceWriter.Write(source);
        (source.RemovedAt, source.Name, source.Kind, source.On, source.Prefix, source.Limit, source.Silence) = (
            null,
            plan.Name,
            plan.Kind,
            plan.On,
            plan.Prefix,
            plan.Limit,
            plan.Silence
        );
        source.Listing = plan.Listing;
        (source.InstructionsTo, source.Takes, source.OwnInstructions, source.SightSeconds, source.TrySeconds, source.IntakeHours) = (
            plan.Taking.To,
            plan.Taking.Takes,
            plan.Taking.Own,
            plan.Taking.Sight,
            plan.Taking.Try,
            plan.Taking.Hours
        );
        var signs = plan.Taking.Secret is { } key && (source.InstructionsSecret is null || secrets.Open(source.InstructionsSecret) != key);
        source.InstructionsSecret = signs ? secrets.Close(plan.Taking.Secret!) : source.InstructionsSecret;
        if (source.Proof != plan.Proof)
        {
            // What proved itself another way proves nothing now.
            (source.Proof, source.Secret, source.OldSecret, source.OldSecretUntil) = (plan.Proof, null, null, null);
        }

        var made = plan.Secret is null && source.Secret is null && plan.Proof.Kind == ProofKind.InAddress ? Secrets.New("") : null;
        var secretChanged = (plan.Secret ?? made) is { } secret && Put(source, secret, now);
        var reading = plan.Reading is { } text && Put(db, source, text, by, now);
        await db.SaveChangesAsync(cancel);
        await SayAsync(db, id, Said(source, before, secretChanged, signs, reading), by, now, cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Arrivals);
        return new SourceSave(source, created, made, []);
    }

    /// <summary>Takes a source away. What came from it stays.</summary>
    /// <returns>Whether there was one.</returns>
    public async Task<bool> RemoveAsync(string id, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await BeginAsync(db, id, cancel);
        if (await db.Sources.FirstOrDefaultAsync(s => s.Id == id && s.RemovedAt == null, cancel) is not { } source)
        {
            return false;
        }

        var now = clock.GetCurrentInstant();
        (source.RemovedAt, source.Secret, source.OldSecret, source.InstructionsSecret) = (now, null, null, null);
        await db
            .SourceKeys.Where(k => k.Source == id && (k.RevokedAt == null || k.RevokedAt > now))
            .ExecuteUpdateAsync(u => u.SetProperty(k => k.RevokedAt, now), cancel);
        await db.SaveChangesAsync(cancel);
        await SayAsync(db, id, $"Removed the source '{source.Name}' ({id}); its keys and secrets work no longer.", by, now, cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        return true;
    }

    /// <summary>Makes a key for a source; the ones before it work for one more hour where it takes their place.</summary>
    /// <returns>The key, shown this once; <see langword="null"/> where there is no such source.</returns>
    public async Task<string?> MakeKeyAsync(string id, bool instead, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await BeginAsync(db, id, cancel);
        if (await db.Sources.FirstOrDefaultAsync(s => s.Id == id && s.RemovedAt == null, cancel) is not { } source)
        {
            return null;
        }

        var now = clock.GetCurrentInstant();
        var key = Secrets.New("sk-");
        if (instead)
        {
            await db
                .SourceKeys.Where(k => k.Source == id && k.RevokedAt == null)
                .ExecuteUpdateAsync(u => u.SetProperty(k => k.RevokedAt, now + Duration.FromHours(1)), cancel);
        }

        db.SourceKeys.Add(
            new SourceKey
            {
                Id = Guid.CreateVersion7(),
                Source = id,
                Hash = Secrets.Hash(key),
                Start = key[..8],
                CreatedAt = now,
            }
        );
        await SayAsync(
            db,
            id,
            instead ? $"Made a new key of the source '{source.Name}'; the old one works for one more hour." : $"Made a key of the source '{source.Name}'.",
            by,
            now,
            cancel
        );
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        return key;
    }

    /// <summary>Revokes a key.</summary>
    /// <returns>Whether it worked until now.</returns>
    public async Task<bool> RevokeKeyAsync(Guid key, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var now = clock.GetCurrentInstant();
        if (await db.SourceKeys.FirstOrDefaultAsync(k => k.Id == key && (k.RevokedAt == null || k.RevokedAt > now), cancel) is not { } found)
        {
            return false;
        }

        found.RevokedAt = now;
        await SayAsync(db, found.Source, $"Revoked the key {found.Start}… of the source '{found.Source}'.", by, now, cancel);
        signals.Raise(Topic.Setup);
        return true;
    }

    /// <summary>Makes a new secret; the one before it holds for a day.</summary>
    /// <returns>The secret, shown this once; <see langword="null"/> where the source has none by its proof.</returns>
    public async Task<string?> NewSecretAsync(string id, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await BeginAsync(db, id, cancel);
        if (await db.Sources.FirstOrDefaultAsync(s => s.Id == id && s.RemovedAt == null, cancel) is not { Proof.Kind: not ProofKind.Key } source)
        {
            return null;
        }

        var now = clock.GetCurrentInstant();
        var secret = source.Proof.Kind == ProofKind.StandardWebhooks ? Channels.Http.WebhookSignature.NewKey() : Secrets.New("");
        Put(source, secret, now);
        await SayAsync(db, id, $"Made a new secret of the source '{source.Name}'; the old one holds for a day.", by, now, cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        return secret;
    }

    private bool Put(Source source, string secret, Instant now)
    {
        if (source.Secret is { } old && secrets.Open(old) == secret)
        {
            return false;
        }

        (source.OldSecret, source.OldSecretUntil) = (source.Secret, source.Secret is null ? null : now + OldHolds);
        source.Secret = secrets.Close(secret);
        return true;
    }

    private static bool Put(SirenaDb db, Source source, string reading, string by, Instant now)
    {
        if (source.Reading is { } there && JsonNode.DeepEquals(JsonNode.Parse(there), JsonNode.Parse(reading)))
        {
            return false;
        }

        (source.Reading, source.ReadingVersion) = (reading, source.ReadingVersion + 1);
        db.Readings.Add(
            new ReadingVersion
            {
                Source = source.Id,
                Version = source.ReadingVersion,
                Document = reading,
                SavedAt = now,
                By = by,
            }
        );
        return true;
    }

    private static string Said(Source source, JsonObject? before, bool secret, bool signs, bool reading)
    {
        if (before is null)
        {
            return $"Added the source '{source.Name}' ({source.Id}), {source.Kind.Name()}.";
        }

        var after = SourceWriter.Write(source);
        var changed = after
            .Where(m => m.Key is not ("reading" or "id") && !JsonNode.DeepEquals(m.Value, before[m.Key]))
            .Select(m => $"{m.Key} from {Shown(before[m.Key])} to {Shown(m.Value)}")
            .ToList();
        if (secret)
        {
            changed.Add("secret");
        }

        if (signs)
        {
            changed.Add("key that signs instructions");
        }

        if (reading)
        {
            changed.Add($"reading to number {source.ReadingVersion}");
        }

        return changed.Count == 0
            ? $"Saved the source '{source.Name}' ({source.Id}) as it was."
            : $"Changed the source '{source.Name}' ({source.Id}): {string.Join("; ", changed)}.";
    }

    private static string Shown(JsonNode? value) => value is null ? "nothing" : Quoting.Cut(value is JsonValue ? value.ToString() : value.ToJsonString(), 120);

    private static async Task<Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction> BeginAsync(SirenaDb db, string id, CancellationToken cancel)
    {
        var transaction = await db.Database.BeginTransactionAsync(cancel);
        await db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock(hashtextextended({"sources " + id}, 0))", cancel);
        return transaction;
    }

    private static async Task SayAsync(SirenaDb db, string id, string what, string by, Instant now, CancellationToken cancel)
    {
        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = by,
                Thing = $"source:{id}",
                What = what,
            }
        );
        await db.SaveChangesAsync(cancel);
    }
}
