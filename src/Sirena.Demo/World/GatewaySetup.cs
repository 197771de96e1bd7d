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

    /// <summary>Sets up the phone and the chat gateway, and points the sites' printers to the stand-ins. Waits for the application.</summary>
    public static async Task ConnectAsync(string url, string token, StandInHost standIns, SirenaDb db, CancellationToken cancel)
    {
        // The printers first: each gateway that is set up makes the nodes read people again.
        foreach (var (person, printer) in new[] { ("tomas.reyle", "galley"), ("signe.aalto", "cold-store"), ("petra.lindqvist", "bonded-store") })
        {
            var address = $"127.0.0.1:{standIns.Printers.Ports[printer]}";
            if (await db.People.FirstOrDefaultAsync(p => p.Id == person, cancel) is { } keeper)
            {
                keeper.Contacts.RemoveAll(c => c.Channel == Channel.Ticket);
                keeper.Contacts.Add(new ContactPoint { Channel = Channel.Ticket, Address = address, Verified = true });
                keeper.NumberContacts();
            }
        }

        await db.SaveChangesAsync(cancel);

        using var http = new HttpClient { BaseAddress = new Uri(url), DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", token) } };
        foreach (var (id, channel, name, carrier) in new[] { ("phone", "sms", "Averil phone network", standIns.Phone), ("chat", "chat", "Quay team chat", standIns.Chat) })
        {
            carrier.Receipts = new Uri($"{url}/api/receipts/{id}");
            for (var tries = 0; ; tries++)
            {
                try
                {
                    using var answer = await http.PutAsJsonAsync($"/api/gateways/{id}", new { channel, name, address = $"{standIns.Url}/{carrier.Channel}/messages", body = Body, idAt = "message.id", errorAt = "error.message", secret = carrier.Key, receiptSecret = carrier.Key, width = 8 }, cancel);
                    answer.EnsureSuccessStatusCode();
                    break;
                }
                catch (HttpRequestException) when (tries < 100)
                {
                    await Task.Delay(300, cancel);
                }
            }
        }
    }
}
