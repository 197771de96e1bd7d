using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <content>A gateway as its settings, and how two of them differ.</content>
public sealed partial class GatewayDesk
{
    /// <summary>
    /// What is set of a gateway, each setting by its name; a secret by nothing but a digest of it. What the audit log compares, and the version of a gateway.
    /// </summary>
    public Dictionary<string, string> SettingsOf(Gateway g)
    {
        static string Sealed(string? value) =>
            string.IsNullOrEmpty(value)
                ? ""
                : "secret " + Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(value)));
        static string Said(IFormattable? value) => value?.ToString(null, System.Globalization.CultureInfo.InvariantCulture) ?? "";
        var told = new Dictionary<string, string>
        {
            ["name"] = g.Name,
            ["address"] = g.Address,
            ["place"] = Said(g.Position),
            ["on"] = g.On ? "yes" : "no",
            ["width"] = Said(g.Width),
            ["encryption"] = g.Encryption,
            ["perMinute"] = Said(g.PerMinute),
            ["ehlo"] = g.Ehlo ?? "",
            ["certificateAuthority"] = Sealed(g.Authority),
            ["certificatePin"] = g.Pin ?? "",
            ["tokenAddress"] = g.TokenAddress ?? "",
            ["clientId"] = g.ClientId ?? "",
            ["scope"] = g.Scope ?? "",
            ["dkimSelector"] = g.DkimSelector ?? "",
            ["dkimKey"] = Sealed(gateways.Open(g.DkimKey)),
            ["segmentCost"] = Said(g.SegmentCost),
            ["monthlyBudget"] = Said(g.MonthlyBudget),
            ["echoMinutes"] = Said(g.EchoMinutes),
            ["echoTo"] = g.EchoTo ?? "",
            ["user"] = g.User ?? "",
            ["sender"] = g.Sender ?? "",
            ["body"] = g.Body ?? "",
            ["idAt"] = g.IdAt ?? "",
            ["errorAt"] = g.ErrorAt ?? "",
            ["secret"] = Sealed(gateways.Open(g.Secret)),
            ["receiptSecret"] = Sealed(gateways.Open(g.ReceiptSecret)),
        };
        foreach (var (header, value) in g.Headers)
        {
            told[$"header {header}"] = Sealed(gateways.OpenHeader(value));
        }

        return told;
    }

    private static string Differences(Dictionary<string, string>? before, Dictionary<string, string> after)
    {
        static string Word(string? value) =>
            string.IsNullOrEmpty(value) ? "nothing"
            : value.StartsWith("secret ", StringComparison.Ordinal) ? "a secret"
            : $"“{Quoting.Cut(value, 200)}”";
        string[] changed = before is null
            ? []
            : [.. before.Keys.Union(after.Keys).Where(k => before.GetValueOrDefault(k, "") != after.GetValueOrDefault(k, ""))];
        string Change(string key)
        {
            var (was, isNow) = (Word(before!.GetValueOrDefault(key)), Word(after.GetValueOrDefault(key)));
            return was == "a secret" && isNow == "a secret" ? $"{key} is another secret" : $"{key} was {was}, is {isNow}";
        }

        return changed.Length == 0 ? "" : $" Changed: {string.Join("; ", changed.Select(Change))}.";
    }
}
