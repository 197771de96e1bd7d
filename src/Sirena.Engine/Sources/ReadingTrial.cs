using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime.Text;
using Sirena.Core.Sources;
using Sirena.Formats.Sources;
using Sirena.Storage;

namespace Sirena.Engine.Sources;

/// <summary>What a body would become by a draft.</summary>
/// <param name="Id">The kept body's number, or <see langword="null"/> for one that was sent along.</param>
/// <param name="Result">What it becomes.</param>
/// <param name="State">The kept body's state, or <see langword="null"/>.</param>
public sealed record TriedBody(long? Id, BodyResult Result, ArrivalState? State);

/// <summary>Reads bodies by a draft, and proposes one. Nothing is kept and nobody is told.</summary>
public sealed class ReadingTrial(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings)
{
    /// <summary>How many bodies a draft is tried on at most.</summary>
    public const int Most = 50;

    /// <summary>The last bodies of a source that were kept, the newest first; of a list the first rows of its last file, each as a body.</summary>
    public async Task<IReadOnlyList<ArrivedBody>> LastAsync(string sourceId, int count, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var most = Math.Clamp(count, 1, Most);
        return await db.Sources.AsNoTracking().FirstOrDefaultAsync(s => s.Id == sourceId && s.Kind == SourceKind.Listing, cancel) is { Listing: { } plan }
            ? await RowsAsync(db, sourceId, plan, most, cancel)
            : await db
                .Arrivals.AsNoTracking()
                .Where(a => a.Source == sourceId && a.State != ArrivalState.Refused && a.Content != null)
                .OrderByDescending(a => a.Id)
                .Take(most)
                .ToListAsync(cancel);
    }

    private static async Task<IReadOnlyList<ArrivedBody>> RowsAsync(SirenaDb db, string sourceId, ListingPlan plan, int most, CancellationToken cancel)
    {
        var run = await db
            .ListingRuns.AsNoTracking()
            .Where(r => r.Source == sourceId && r.Content != null)
            .OrderByDescending(r => r.At)
            .FirstOrDefaultAsync(cancel);
        if (run is null || ListingFile.Open(ListingDesk.Unpacked(run.Content!), run.Charset ?? plan.Charset, plan.Separator).File is not { } file)
        {
            return [];
        }

        return
        [
            .. file.Rows()
                .Where(r => r.Problem is null)
                .Take(most)
                .Select(r => (Row: r, Content: JsonSerializer.SerializeToUtf8Bytes(file.Cells(r))))
                .Select(r => new ArrivedBody
                {
                    Id = r.Row.Line,
                    Source = sourceId,
                    At = run.At,
                    Size = r.Content.Length,
                    Content = r.Content,
                    MediaType = "application/json",
                    State = ArrivalState.Understood,
                }),
        ];
    }

    /// <summary>The oldest of a source's bodies that were not understood, at most 500.</summary>
    public async Task<IReadOnlyList<ArrivedBody>> KeptAsync(string sourceId, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db
            .Arrivals.AsNoTracking()
            .Where(a => a.Source == sourceId && a.State == ArrivalState.NotUnderstood && a.Content != null)
            .OrderBy(a => a.Id)
            .Take(500)
            .ToListAsync(cancel);
    }

    /// <summary>Reads kept bodies by a draft.</summary>
    public async Task<IReadOnlyList<TriedBody>> TryAsync(Reading draft, IEnumerable<ArrivedBody> bodies, CancellationToken cancel)
    {
        var reader = new BodyReader(draft, (await surroundings.GetAsync(cancel)).Business.Zone);
        return
        [
            .. bodies.Select(b => new TriedBody(
                b.Id,
                draft.Event is null ? Row(reader, BodyText.Read(b.Content!, b.MediaType).Root) : Read(reader, b),
                b.State
            )),
        ];
    }

    /// <summary>Reads bodies that were sent along by a draft.</summary>
    public async Task<IReadOnlyList<TriedBody>> TryAsync(Reading draft, IEnumerable<JsonElement> bodies, CancellationToken cancel)
    {
        var reader = new BodyReader(draft, (await surroundings.GetAsync(cancel)).Business.Zone);
        return [.. bodies.Select(b => new TriedBody(null, draft.Event is null ? Row(reader, b) : reader.Read(new Body(b, _ => null)), null))];
    }

    // In a list the difference says which event a row makes: alone it is the order as it stands.
    private static BodyResult Row(BodyReader reader, JsonElement row) =>
        reader.Row(row) is var (data, problems) && data is not null
            ? new BodyResult([new BodyEvent(null, "order.changed", null, data)], [])
            : new BodyResult([], problems);

    /// <summary>Proposes a reading from bodies.</summary>
    public async Task<Proposal> ProposeAsync(IReadOnlyList<JsonElement> bodies, bool columns, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        return ReadingProposal.Of(bodies, around.Words, around.Business.Zone, columns);
    }

    /// <summary>The values of kept bodies that can be read at all.</summary>
    public static IReadOnlyList<JsonElement> Values(IEnumerable<ArrivedBody> bodies) =>
        [.. bodies.Select(b => BodyText.Read(b.Content!, b.MediaType)).Where(r => r.Problem is null).Select(r => r.Root)];

    /// <summary>An event as it would come in.</summary>
    public static JsonObject Shape(BodyEvent made, string source)
    {
        var map = new JsonObject
        {
            ["id"] = made.Id,
            ["source"] = "/sources/" + source,
            ["type"] = made.Type,
            ["time"] = made.Time is { } time ? InstantPattern.ExtendedIso.Format(time) : null,
        };
        map["subject"] = made.Data["order"]?["number"]?.DeepClone();
        map["data"] = made.Data.DeepClone();
        return map;
    }

    /// <summary>Reads one kept body.</summary>
    /// <param name="reader">By what; <see langword="null"/> where the source has no reading.</param>
    /// <param name="body">The body.</param>
    public static BodyResult Read(BodyReader? reader, ArrivedBody body)
    {
        if (reader is null || body.Content is null)
        {
            return new BodyResult(
                [],
                [new BodyProblem("$", null, reader is null ? "a reading: this source has none yet" : "its body, which was kept long enough and is gone")]
            );
        }

        var (root, problem) = BodyText.Read(body.Content, body.MediaType);
        return problem is not null
            ? new BodyResult([], [problem])
            : reader.Read(new Body(root, name => body.Headers.FirstOrDefault(h => h.Key.Equals(name, StringComparison.OrdinalIgnoreCase)).Value));
    }
}
