using System.Net;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Sirena.Channels;
using Sirena.Channels.Http;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Formats.Pdf;
using Sirena.Storage;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>Makes and fetches what goes with a mail, once, and keeps it as it was sent. What cannot be had never holds the message back: it says so.</summary>
public sealed class Packer(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, FileFetcher fetcher, ILogger<Packer> log)
{
    /// <summary>A message with nothing beside it.</summary>
    public static OutgoingMessage Bare(Claimed claimed) =>
        new(claimed.Id, claimed.To, claimed.OrderNumber, claimed.Subject, claimed.Text, claimed.Html, claimed.Audience);

    /// <summary>A message with its files.</summary>
    public async Task<OutgoingMessage> PackAsync(Claimed claimed, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var message = await db.Messages.FirstAsync(m => m.DeliveryId == claimed.Id, cancel);
        if (message.Attach is { } noted)
        {
            var number = 0;
            foreach (var (file, missing) in await MakeAsync(db, (JsonObject)JsonNode.Parse(noted)!, cancel))
            {
                if (file is not null)
                {
                    db.MessageFiles.Add(
                        new MessageFile
                        {
                            DeliveryId = claimed.Id,
                            Number = ++number,
                            Name = file.Name,
                            Type = file.Type,
                            Content = file.Content,
                            Size = file.Content.Length,
                            Inline = file.Inline,
                        }
                    );
                    message.Html = file.Inline
                        ? message.Html?.Replace(
                            "</h1>",
                            $"</h1><p><img src=\"cid:{WebUtility.HtmlEncode(file.Name)}\" alt=\"\" style=\"max-width:100%\"></p>",
                            StringComparison.Ordinal
                        )
                        : message.Html;
                }
                else
                {
                    message.Text = $"{message.Text.TrimEnd()}\r\n\r\n{missing}\r\n";
                    message.Html = message.Html?.Replace("</h1>", $"</h1><p><b>{WebUtility.HtmlEncode(missing)}</b></p>", StringComparison.Ordinal);
                }
            }

            (message.Attach, message.Files) = (null, number);
            await db.SaveChangesAsync(cancel);
        }

        return new OutgoingMessage(claimed.Id, claimed.To, claimed.OrderNumber, message.Subject, message.Text, message.Html, claimed.Audience)
        {
            Files = await db.MessageFiles.AsNoTracking().Where(f => f.DeliveryId == claimed.Id).OrderBy(f => f.Number).ToListAsync(cancel),
        };
    }

    private sealed record Made(string Name, string Type, byte[] Content, bool Inline = false);

    private async Task<List<(Made? File, string? Missing)>> MakeAsync(SirenaDb db, JsonObject noted, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var happened = await db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.Id == (long)noted["event"]!, cancel);
        var made = new List<(Made?, string?)>();
        foreach (var wanted in noted["wanted"]!.AsArray().OfType<JsonObject>())
        {
            try
            {
                if (wanted["document"] is { } name && happened is not null && Names.Parse<DocumentKind>((string?)name) is { } kind)
                {
                    var facts = new DocumentFacts(
                        kind,
                        happened,
                        around.Business.Name,
                        around.Branding.Footer,
                        TextLanguage.Of((string?)noted["language"]),
                        around.Business.Zone,
                        around.Business.Currency,
                        around.NameOf,
                        [.. wanted["sites"]!.AsArray().Select(s => (string)s!)]
                    )
                    {
                        Own = [.. around.TextNames.OwnFor(Names.Parse<Audience>((string?)noted["audience"]) ?? Audience.Customer)],
                    };
                    made.Add((new Made(OrderPdf.FileName(kind, happened.OrderNumber), "application/pdf", OrderPdf.Make(facts)), null));
                }
                else if (wanted["file"] is { } address)
                {
                    var (file, problem) = await fetcher.FetchAsync((string)address!, cancel);
                    made.Add(
                        file is null
                            ? (null, $"The file at {(string)address!} could not be fetched: {problem}.")
                            : (new Made(file.Name, file.Type, file.Content), null)
                    );
                }
                else if (
                    wanted["picture"] is { } picture
                    && Guid.TryParse((string?)picture, out var id)
                    && await db.NotePictures.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, cancel) is { } found
                )
                {
                    made.Add((new Made($"picture-{id:N}.jpg", "image/jpeg", found.Jpeg, Inline: true), null));
                }
            }
            catch (Exception e) when (e is not OperationCanceledException and not Npgsql.NpgsqlException)
            {
                log.LogError(e, "What was to go with a message could not be made.");
                made.Add((null, $"The {(string?)wanted["document"] ?? "file"} that was to come with this could not be made."));
            }
        }

        return made;
    }
}
