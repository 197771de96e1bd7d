using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Storage.Access;
using Sirena.Storage.People;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <content>How a person is reached: addresses, their order, the codes that prove them.</content>
public sealed partial class PersonModel
{
    /// <summary>Adds contact points: one field takes several addresses.</summary>
    public async Task<IActionResult> OnPostContactAsync(string? channel, string? address, CancellationToken cancel)
    {
        if (Names.Parse<Channel>(channel) is not { } by || !by.Traits().ByAddress)
        {
            return await WrongAsync("Choose a channel.", cancel);
        }

        var (good, problems) = Addresses.Read(by, address);
        if (problems.Count > 0 || good.Count == 0)
        {
            return await WrongAsync(
                good.Count == 0 && problems.Count == 0 ? "Give at least one address." : $"Nothing was added. {string.Join(" ", problems)}",
                cancel
            );
        }

        var bySelf = !User.MayChange();
        var doubtful = by == Channel.Sms ? good.Where(g => PhoneNumber.TryParse(g, out var n, out _) && n.Doubtful).ToArray() : [];
        var result = await ChangeAsync(
            (p, _) =>
            {
                p.Contacts.AddRange(
                    good.Where(g => !p.Contacts.Exists(c => c.Channel == by && c.Address.Equals(g, StringComparison.OrdinalIgnoreCase)))
                        .Select(g => new ContactPoint
                        {
                            Channel = by,
                            Address = g,
                            Pending = bySelf,
                        })
                );
                return null;
            },
            $"{string.Join(", ", good)} added.{(bySelf ? " It is used when its code has come back." : "")}"
                + $"{(doubtful.Length > 0 ? $" Look at {string.Join(", ", doubtful)} again: such a number is not in use as far as is known." : "")}",
            cancel
        );
        return result;
    }

    /// <summary>Takes a contact point away.</summary>
    public Task<IActionResult> OnPostDropAsync(string? channel, string? address, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) => p.Contacts.RemoveAll(c => Is(c, channel, address)) > 0 ? null : "That address is no longer there.",
            $"{address} taken away.",
            cancel
        );

    /// <summary>Puts a contact point first among those of its channel.</summary>
    public Task<IActionResult> OnPostFirstAsync(string? channel, string? address, CancellationToken cancel) =>
        ChangeAsync(
            (p, _) =>
            {
                if (p.Contacts.Find(c => Is(c, channel, address)) is not { } point)
                {
                    return "That address is no longer there.";
                }

                p.Contacts.Remove(point);
                p.Contacts.Insert(0, point);
                return null;
            },
            $"{address} is used first.",
            cancel
        );

    /// <summary>Sends a code to an address.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostCodeAsync(string? channel, string? address, CancellationToken cancel)
    {
        if (!May || !await LoadAsync(cancel) || Person.Contacts.Find(c => Is(c, channel, address)) is not { } point)
        {
            return await WrongAsync("That address is no longer there.", cancel);
        }

        if (!point.Channel.Traits().ByAddress)
        {
            return await WrongAsync("A browser shows by itself that it reaches its person; no code is needed.", cancel);
        }

        var code = System.Security.Cryptography.RandomNumberGenerator.GetInt32(100_000, 1_000_000).ToString(System.Globalization.CultureInfo.InvariantCulture);
        await db.ContactCodes.Where(c => c.Person == Id && c.Address == point.Address).ExecuteDeleteAsync(cancel);
        db.ContactCodes.Add(
            new ContactCode
            {
                Person = Id,
                Channel = point.Channel,
                Address = point.Address,
                Hash = Secrets.Hash($"{code} {Id} {point.Address}"),
                ExpiresAt = Clock.Now + Duration.FromHours(24),
            }
        );
        await db.SaveChangesAsync(cancel);
        var problem =
            point.Channel != Channel.Mail
                ? await mail.SendAsync(
                    point.Channel,
                    point.Address,
                    "Your code",
                    $"{code} is your code for {Around.Business.Name}. Enter it on your page; it works for a day.",
                    cancel
                )
                : await mail.SendAsync(
                    point.Address,
                    $"{code} is your code for {Around.Business.Name}",
                    $"{Person.Name}, enter this code on your page to show that this address reaches "
                        + $"you:\r\n\r\n{code}\r\n\r\n{Around.Business.BaseAddress}/people/{Id}\r\n\r\nIt works for a day.",
                    cancel
                );
        if (problem is not null)
        {
            return await WrongAsync($"The code could not be sent to {point.Address}: {problem}.", cancel);
        }

        Said = $"A code is on its way to {point.Address}. Enter it here when it has come.";
        return RedirectToPage(new { Id });
    }

    /// <summary>Takes a code that came back.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostVerifyAsync(string? channel, string? address, string? code, CancellationToken cancel)
    {
        if (!May || !await LoadAsync(cancel))
        {
            return Forbid();
        }

        var sent = await db.ContactCodes.FirstOrDefaultAsync(
            c => c.Person == Id && c.Address == address && c.ExpiresAt > Clock.Now && c.Wrong < MostWrong,
            cancel
        );
        if (sent is null)
        {
            return await WrongAsync("No code is waited for at this address, or five wrong ones were entered. Send a new one.", cancel);
        }

        if (!sent.Hash.SequenceEqual(Secrets.Hash($"{code?.Trim()} {Id} {sent.Address}")))
        {
            sent.Wrong++;
            await db.SaveChangesAsync(cancel);
            return await WrongAsync(
                $"That is not the code that was sent to {address}. "
                    + $"{(MostWrong - sent.Wrong) switch { <= 0 => "Send a new one.", 1 => "One try is left.", var left => $"{left} tries are left." }}",
                cancel
            );
        }

        db.ContactCodes.Remove(sent);
        await db.SaveChangesAsync(cancel);
        return await ChangeAsync(
            (p, _) =>
            {
                if (p.Contacts.Find(c => Is(c, channel, address)) is not { } point)
                {
                    return "That address is no longer there.";
                }

                (point.Verified, point.Pending, point.BrokenAt, point.BrokenBecause) = (true, false, null, null);
                return null;
            },
            $"{address} is verified.",
            cancel
        );
    }

    /// <summary>Says that a broken address is mended, so that it is tried again.</summary>
    public async Task<IActionResult> OnPostMendedAsync(string? channel, string? address, CancellationToken cancel) =>
        !User.MayChange()
            ? Forbid()
            : await ChangeAsync(
                (p, _) =>
                {
                    if (p.Contacts.Find(c => Is(c, channel, address)) is not { } point)
                    {
                        return "That address is no longer there.";
                    }

                    (point.BrokenAt, point.BrokenBecause) = (null, null);
                    return null;
                },
                $"{address} is used again.",
                cancel
            );
}
