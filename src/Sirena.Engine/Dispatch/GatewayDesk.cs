using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Channels.Mail;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>How saving a gateway ended.</summary>
/// <param name="Gateway">The gateway; <see langword="null"/> where it has mistakes.</param>
/// <param name="Created">It is new.</param>
/// <param name="NewReceiptKey">The key for its receipts, where one was made: it is shown this once.</param>
/// <param name="Errors">The mistakes.</param>
public sealed record GatewaySave(Gateway? Gateway, bool Created, string? NewReceiptKey, IReadOnlyList<DocumentError> Errors);

/// <summary>Saves gateways. Secrets go in and never come out.</summary>
public sealed partial class GatewayDesk(
    IDbContextFactory<SirenaDb> factory,
    Gateways gateways,
    OutsideHosts hosts,
    DeliveryQueue queue,
    Signals signals,
    IClock clock
)
{
    private static readonly string[] Members =
    [
        "id",
        "channel",
        "name",
        "position",
        "on",
        "address",
        "width",
        "encryption",
        "user",
        "sender",
        "headers",
        "body",
        "idAt",
        "errorAt",
        "secret",
        "receiptSecret",
        "ehlo",
        "certificateAuthority",
        "certificatePin",
        "perMinute",
        "tokenAddress",
        "clientId",
        "scope",
        "dkimSelector",
        "dkimKey",
        "segmentCost",
        "monthlyBudget",
        "echoMinutes",
        "echoTo",
    ];

    /// <summary>Creates or replaces a gateway. An absent member of a known one stays as it is; an empty secret takes it away.</summary>
    public async Task<GatewaySave> SaveAsync(string id, JsonObject document, string by, CancellationToken cancel)
    {
        var errors = new List<DocumentError>();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var known = await db.Gateways.FirstOrDefaultAsync(g => g.Id == id, cancel);
        void Wrong(string member, string problem) => errors.Add(new DocumentError(member, null, null, problem));
        foreach (var member in document.Select(m => m.Key).Except(Members))
        {
            Wrong(member, $"There is no member '{member}'.{Closest.Hint(member, Members)}");
        }

        string? Text(string name, string? or) =>
            !document.ContainsKey(name) ? or
            : document[name] is JsonValue v && v.TryGetValue<string>(out var s) ? s.Trim()
            : document[name] is null ? null
            : Bad(name);
        string? Bad(string name)
        {
            Wrong(name, $"'{name}' must be a text.");
            return null;
        }

        int Number(string name, int or) =>
            document[name] is null ? or
            : document[name] is JsonValue v && v.TryGetValue<int>(out var n) ? n
            : -1;
        // Null takes it away, what is no number is a mistake.
        T? Maybe<T>(string name, T? or, Func<T, bool> good, string problem)
            where T : struct
        {
            if (!document.ContainsKey(name) || document[name] is null)
            {
                return document.ContainsKey(name) ? null : or;
            }

            if (document[name] is JsonValue v && v.TryGetValue<T>(out var n) && good(n))
            {
                return n;
            }

            Wrong(name, problem);
            return or;
        }

        string? Filled(string name, string? or) => Text(name, or) is { Length: > 0 } text ? text : null;
        var channel = known?.Channel ?? (Names.Parse<Channel>(Text("channel", null) ?? "") is { } c ? c : Channel.Mail);
        if (known is null && (Names.Parse<Channel>(Text("channel", null) ?? "") is not { } wanted || !wanted.Traits().ByGateway))
        {
            Wrong(
                "channel",
                $"A gateway's channel is one of {string.Join(", ", ChannelTraits.WithGateways.Select(w => w.Name()))}. Tickets go to the printers of "
                    + "the sites, the screen needs none."
            );
        }

        if (id.Length is 0 or > 40 || !id.All(x => char.IsAsciiLetterLower(x) || char.IsAsciiDigit(x) || x == '-'))
        {
            Wrong("id", "An id is made of lower-case letters, digits and hyphens, 40 at most.");
        }

        if (id == Ids.New)
        {
            Wrong("id", Ids.Kept(id));
        }

        var gateway = known
            ?? new Gateway
            {
                Id = id,
                Channel = channel,
                Name = id,
                Address = "",
            };
        var (address, wasOn, way) = (gateway.Address, gateway.On, Way(gateway));
        var before = known is null ? null : SettingsOf(gateway);
        gateway.Name = Filled("name", gateway.Name) ?? id;
        if (!NameText.Fits(gateway.Name, 60))
        {
            Wrong("name", "A gateway's name is one line of at most 60 characters.");
        }

        gateway.Position = Number("position", gateway.Position);
        gateway.On = Maybe<bool>("on", gateway.On, _ => true, "'on' is true or false.") ?? gateway.On;
        gateway.Address = Text("address", gateway.Address) ?? "";
        if (gateway.Address != address || gateway.On != wasOn)
        {
            // What goes another way, or goes again, is proved anew without waiting for its turn.
            gateway.EchoSentAt = null;
        }

        gateway.Width = Number("width", gateway.Width);
        var usual = known is null && MailSettings.Server(gateway.Address) is var (_, port) ? MailSettings.UsualEncryption(port) : gateway.Encryption;
        gateway.Encryption = Text("encryption", usual) ?? usual;
        gateway.PerMinute = Maybe(
            "perMinute",
            gateway.PerMinute,
            n => n is >= 1 and <= 60_000,
            "The rate is a number of messages a minute, from 1 to 60,000; leave it out for none."
        );
        gateway.Ehlo = Filled("ehlo", gateway.Ehlo);
        gateway.Authority = Filled("certificateAuthority", gateway.Authority);
        gateway.Pin = Filled("certificatePin", gateway.Pin);
        gateway.TokenAddress = Filled("tokenAddress", gateway.TokenAddress);
        gateway.ClientId = Filled("clientId", gateway.ClientId);
        gateway.Scope = Filled("scope", gateway.Scope);
        gateway.DkimSelector = Filled("dkimSelector", gateway.DkimSelector);
        gateway.SegmentCost = Maybe(
            "segmentCost",
            gateway.SegmentCost,
            n => n is >= 0 and <= 100,
            "The cost of a segment is an amount from 0 to 100 in the business's currency."
        );
        gateway.MonthlyBudget = Maybe(
            "monthlyBudget",
            gateway.MonthlyBudget,
            n => n is >= 0 and <= 1_000_000,
            "The month's budget is an amount in the business's currency; leave it out for none."
        );
        gateway.EchoMinutes = Maybe(
            "echoMinutes",
            gateway.EchoMinutes,
            n => n is >= 1 and <= 10_080,
            "The echo goes every 1 to 10,080 minutes; leave it out for never."
        );
        gateway.EchoTo = Filled("echoTo", gateway.EchoTo);
        gateway.User = Text("user", gateway.User) is { Length: > 0 } user ? user : null;
        gateway.Sender = Text("sender", gateway.Sender) is { Length: > 0 } sender ? sender : null;
        gateway.Body = Text("body", gateway.Body) is { Length: > 0 } body ? body : null;
        gateway.IdAt = Text("idAt", gateway.IdAt);
        gateway.ErrorAt = Text("errorAt", gateway.ErrorAt);
        if (document["headers"] is JsonObject headers)
        {
            var plain = headers.ToDictionary(h => h.Key, h => h.Value?.ToString() ?? "");
            foreach (var problem in plain.Select(h => RequestHeader.Problem(h.Key, h.Value)).OfType<string>())
            {
                Wrong("headers", problem);
            }

            gateway.Headers = plain.ToDictionary(h => h.Key, h => gateways.CloseHeader(h.Value));
        }
        else if (document["headers"] is not null)
        {
            Wrong("headers", "'headers' is an object of names with their values.");
        }

        Check(gateway, Wrong);
        if (
            gateway.Channel != Channel.Mail
            && Uri.TryCreate(gateway.Address, UriKind.Absolute, out var called)
            && called.Scheme is "http" or "https"
            && !hosts.May(called)
        )
        {
            Wrong(
                "address",
                $"{called.Host} lies inside this network, and such addresses are not called. Where that is meant, name the host in SIRENA_INSIDE when "
                    + "Sirena is started."
            );
        }

        CheckDkim(gateway, Text("dkimKey", null), Wrong);
        if (errors.Count > 0)
        {
            return new GatewaySave(null, false, null, errors);
        }

        var given = Text("secret", null);
        gateway.DkimKey = document.ContainsKey("dkimKey") ? gateways.Close(Text("dkimKey", null)) : gateway.DkimKey;
        gateway.Secret = document.ContainsKey("secret") ? gateways.Close(given) : gateway.Secret;
        string? made = null;
        if (gateway.Channel != Channel.Mail && (document.ContainsKey("receiptSecret") || gateway.ReceiptSecret is null))
        {
            // The old key stays good while the far end changes over.
            made = Text("receiptSecret", null) is { Length: > 0 } own ? own : WebhookSignature.NewKey();
            (gateway.OldReceiptSecret, gateway.ReceiptSecret) = (gateway.ReceiptSecret, gateways.Close(made));
            made = document["receiptSecret"] is null ? made : null;
        }

        if (known is null)
        {
            db.Gateways.Add(gateway);
        }

        if (Way(gateway) != way)
        {
            // What was said of the old way says nothing of the new one.
            (gateway.FailingSince, gateway.LastError) = (null, null);
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = $"gateway:{id}",
                What =
                    $"{(known is null ? "Set up" : "Changed")} the gateway '{gateway.Name}' ({id}): {gateway.Channel.Name()} to {gateway.Address}, "
                    + $"place {gateway.Position}, {(gateway.On ? "on" : "off")}.{Differences(before, SettingsOf(gateway))}",
            }
        );
        await db.SaveChangesAsync(cancel);
        await queue.HurryAsync(gateway.Channel, clock.GetCurrentInstant(), cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Deliveries);
        return new GatewaySave(gateway, known is null, made, []);
    }

    /// <summary>Takes a gateway away; what went through it keeps its name.</summary>
    /// <returns>Whether there was one.</returns>
    public async Task<bool> RemoveAsync(string id, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.Gateways.Where(g => g.Id == id).ExecuteDeleteAsync(cancel) == 0)
        {
            return false;
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = $"gateway:{id}",
                What = $"Removed the gateway '{id}'.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        return true;
    }
}
