using System.Net.Http.Headers;
using System.Net.Http.Json;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Demo.StandIns;
using Sirena.Storage;

namespace Sirena.Demo.World;

/// <summary>Connects the stand-ins as a supervisor would: through the API, with keys of their own.</summary>
public static class GatewaySetup
{
    private const string Body = """{"id":"{{id}}","to":"{{to}}","text":"{{text}}","receipts":"{{receipts}}"}""";

    /// <summary>
    /// Sets up the mail servers (where the whole is wanted), browsers that show push messages, the phone and the chat gateway, and points the sites' printers
    /// to the stand-ins. Waits for the application.
    /// </summary>
    public static async Task ConnectAsync(string url, string token, StandInHost standIns, SirenaDb db, bool whole, CancellationToken cancel)
    {
        // The printers first: each gateway that is set up makes the nodes read people again.
        foreach (var (person, printer) in new[] { ("tomas.reyle", "galley"), ("signe.aalto", "cold-store"), ("petra.lindqvist", "bonded-store") })
        {
            var address = $"127.0.0.1:{standIns.Printers.Ports[printer]}";
            if (await db.People.FirstOrDefaultAsync(p => p.Id == person, cancel) is { } keeper)
            {
                keeper.Contacts.RemoveAll(c => c.Channel == Channel.Ticket);
                keeper.Contacts.Add(
                    new ContactPoint
                    {
                        Channel = Channel.Ticket,
                        Address = address,
                        Verified = true,
                    }
                );
                keeper.NumberContacts();
            }
        }

        await db.SaveChangesAsync(cancel);
        using var http = new HttpClient
        {
            BaseAddress = new Uri(url),
            DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", token) },
        };
        if (whole)
        {
            await PutAsync(
                http,
                "mail",
                new
                {
                    channel = "mail",
                    name = "Averil mail carrier",
                    address = $"127.0.0.1:{standIns.SmtpPort}",
                    width = 8,
                    position = 1,
                    echoMinutes = 15,
                    echoTo = "echo@averilquay.example",
                },
                cancel
            );
            await SendersAsync(db, cancel);
            await PutAsync(
                http,
                "relay",
                new
                {
                    channel = "mail",
                    name = "Harbour relay",
                    address = $"127.0.0.1:{standIns.RelayPort}",
                    width = 4,
                    position = 2,
                    perMinute = 600,
                    echoMinutes = 60,
                    echoTo = "echo@averilquay.example",
                },
                cancel
            );
        }

        foreach (var person in new[] { "maren.holt", "ines.calder" })
        {
            var (endpoint, p256dh, auth) = standIns.Browsers.Of(person, standIns.Url);
            await SendAsync(
                http,
                HttpMethod.Post,
                "/api/push/subscriptions",
                new
                {
                    person,
                    endpoint,
                    keys = new { p256dh, auth },
                    name = "Chromium on the desk",
                },
                cancel
            );
        }

        foreach (
            var (id, channel, name, carrier) in new[]
            {
                ("phone", "sms", "Averil phone network", standIns.Phone),
                ("chat", "chat", "Quay team chat", standIns.Chat),
            }
        )
        {
            carrier.Receipts = new Uri($"{url}/api/receipts/{id}");
            await PutAsync(
                http,
                id,
                new
                {
                    channel,
                    name,
                    address = $"{standIns.Url}/{carrier.Channel}/messages",
                    body = Body,
                    idAt = "message.id",
                    errorAt = "error.message",
                    secret = carrier.Key,
                    receiptSecret = carrier.Key,
                    width = 8,
                    segmentCost = whole && channel == "sms" ? 0.07m : (decimal?)null,
                    monthlyBudget = whole && channel == "sms" ? 60m : (decimal?)null,
                    echoMinutes = whole ? 30 : (int?)null,
                    echoTo = whole
                        ? channel == "sms"
                            ? "+447700900999"
                            : "echo"
                        : null,
                },
                cancel
            );
        }
    }

    // From whom mail comes, by who reads it, each with its code given back; and the sign over customers' mails.
    private static async Task SendersAsync(SirenaDb db, CancellationToken cancel)
    {
        if (!await db.Senders.AnyAsync(cancel))
        {
            var verified = NodaTime.SystemClock.Instance.GetCurrentInstant();
            db.Senders.Add(
                new Sender
                {
                    Name = "Averil Quay orders",
                    Address = "orders@averilquay.example",
                    Purposes = [Audience.Customer],
                    VerifiedAt = verified,
                }
            );
            db.Senders.Add(
                new Sender
                {
                    Name = "Averil Quay order desk",
                    Address = "desk@averilquay.example",
                    Purposes = [Audience.Staff],
                    VerifiedAt = verified,
                }
            );
        }

        if (await db.Businesses.FirstAsync(cancel) is { Logo: null } business)
        {
            await using var sign = typeof(GatewaySetup).Assembly.GetManifestResourceStream("Sirena.Demo.World.logo.png")!;
            using var bytes = new MemoryStream();
            await sign.CopyToAsync(bytes, cancel);
            business.Logo = bytes.ToArray();
        }

        await db.SaveChangesAsync(cancel);
    }

    private static Task PutAsync(HttpClient http, string id, object gateway, CancellationToken cancel) =>
        SendAsync(http, HttpMethod.Put, $"/api/gateways/{id}", gateway, cancel);

    // The application may still be starting.
    private static async Task SendAsync(HttpClient http, HttpMethod method, string path, object body, CancellationToken cancel)
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                using var request = new HttpRequestMessage(method, path) { Content = JsonContent.Create(body) };
                using var answer = await http.SendAsync(request, cancel);
                answer.EnsureSuccessStatusCode();
                return;
            }
            catch (HttpRequestException) when (tries < 100)
            {
                await Task.Delay(300, cancel);
            }
        }
    }
}
