using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Notices;
using Sirena.Engine.Intake;
using Sirena.Storage;

namespace Sirena.Engine.Notices;

/// <summary>
/// Takes notes that people write on an order. A note is an event like the order system's own, so that it stands in the trail and rules can listen to it.
/// </summary>
public sealed class NoteDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, IntakeDesk intake, IClock clock)
{
    /// <summary>Adds one.</summary>
    /// <param name="order">The order's number.</param>
    /// <param name="by">The writer's id or name.</param>
    /// <param name="text">The words; 2,000 characters at most.</param>
    /// <param name="forCustomer">The customer reads it; else it is internal.</param>
    /// <param name="picture">A picture as it was pasted, or <see langword="null"/>.</param>
    /// <returns>What is wrong, or <see langword="null"/>.</returns>
    public async Task<string?> AddAsync(string order, string by, string text, bool forCustomer, byte[]? picture, CancellationToken cancel)
    {
        text = text.Trim();
        if (text.Length is 0 or > 2000)
        {
            return text.Length == 0 ? "Write something first." : "The note is longer than 2,000 characters.";
        }

        var around = await surroundings.GetAsync(cancel);
        if (Mentions.Unknown(text, around.Staff) is [var (name, hint), ..])
        {
            return $"'@{name}' names nobody, so nobody would be told.{hint}";
        }

        if (forCustomer && Mentions.Find(text, around.Staff).Count > 0)
        {
            return "A note for the customer cannot name colleagues with an @: the customer would read it. Write an internal note to them.";
        }

        var data = new JsonObject
        {
            ["note"] = new JsonObject
            {
                ["by"] = by,
                ["text"] = text,
                ["visibleToCustomer"] = forCustomer,
            },
        };
        var now = clock.GetCurrentInstant();
        if (picture is { Length: > 0 })
        {
            var (made, problem) = Pictures.Note(picture);
            if (made is not { } encoded)
            {
                return problem;
            }

            await using var db = await factory.CreateDbContextAsync(cancel);
            var kept = new NotePicture
            {
                Id = Guid.NewGuid(),
                OrderNumber = order,
                Jpeg = encoded.Jpeg,
                Width = encoded.Width,
                Height = encoded.Height,
                At = now,
            };
            db.NotePictures.Add(kept);
            await db.SaveChangesAsync(cancel);
            data["note"]!["picture"] = kept.Id.ToString();
        }

        await intake.TakeAsync([OwnEvents.Make($"note-{Guid.CreateVersion7()}", "order.note-added", order, data, now, order)], cancel);
        return null;
    }
}
