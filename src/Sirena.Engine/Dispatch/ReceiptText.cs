using System.Text.Json;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// What a call of a gateway says, in whichever of the two usual shapes: members at the top, or in <c>data</c> beside <c>type</c> and <c>timestamp</c> (Standard
/// Webhooks).
/// </summary>
/// <param name="Type">Its type, as it came.</param>
/// <param name="Kind"><c>delivered</c>, <c>failed</c>, <c>read</c>, <c>reply</c>, or <see langword="null"/> for none of these.</param>
/// <param name="Id">The message's id.</param>
/// <param name="Reason">The far end's words, or empty.</param>
/// <param name="From">Who replied, or empty.</param>
/// <param name="Text">What they replied, or empty.</param>
internal sealed record ReceiptText(string Type, string? Kind, string Id, string Reason, string From, string Text)
{
    /// <summary>Reads a call's body.</summary>
    public static ReceiptText Of(JsonElement root)
    {
        var type = Member(root, "type");
        var inner = root.ValueKind == JsonValueKind.Object && root.TryGetProperty("data", out var data) && data.ValueKind == JsonValueKind.Object ? data : root;
        string First(params string[] names) => names.Select(n => Member(inner, n)).FirstOrDefault(v => v.Length > 0) ?? "";
        return new ReceiptText(
            type,
            KindOf(type) ?? KindOf(First("status", "event")),
            First("id", "messageId", "message_id"),
            First("reason", "error", "description"),
            First("from", "sender"),
            First("text", "body", "message")
        );
    }

    private static string? KindOf(string type) =>
        type.ToLowerInvariant().Split('.', '_', '-', '/')[^1] switch
        {
            "delivered" or "landed" => "delivered",
            "failed" or "undelivered" or "bounced" or "rejected" or "expired" => "failed",
            "read" or "seen" or "opened" => "read",
            "reply" or "replied" or "received" or "inbound" => "reply",
            _ => null,
        };

    private static string Member(JsonElement of, string name) =>
        of.ValueKind == JsonValueKind.Object && of.TryGetProperty(name, out var v)
            ? v.ValueKind switch
            {
                JsonValueKind.String => v.GetString()!,
                JsonValueKind.Number => v.GetRawText(),
                _ => "",
            }
            : "";
}
