using System.Collections.Frozen;
using Sirena.Core.Orders;

namespace Sirena.Core.Sources;

/// <summary>What an order system's words for what happened mean as events, in the languages that their makers write.</summary>
internal static class Happenings
{
    /// <summary>How many words of a place are looked at.</summary>
    public const int Most = 40;

    // The first that fits is taken.
    private static readonly (FrozenSet<string> Words, string Type)[] All =
    [
        (Lexicon.Set("ping heartbeat test alive"), Reading.Ignore),
        (Lexicon.Set("statuschanged status state stat moved"), EventTypes.StatusChanged),
        (Lexicon.Set("unhold release released rel freigabe freigegeben liberado"), "order.released"),
        (Lexicon.Set("hold held onhold block blocked gesperrt retido"), "order.held"),
        (Lexicon.Set("cancel cancelled canceled storno storniert cancelado cancelada can"), "order.cancelled"),
        (Lexicon.Set("risk fraud flag flagged"), "order.risk-flagged"),
        (Lexicon.Set("refund refunded gutschrift reembolso"), "order.refunded"),
        (Lexicon.Set("paymentfailed declined unpaid"), "order.payment-failed"),
        (Lexicon.Set("paid payment bezahlt pago paga"), "order.paid"),
        (Lexicon.Set("ship shipped shipment dispatched versandt enviado enviada fulfilled"), "order.shipped"),
        (Lexicon.Set("note comment notiz nota"), "order.note-added"),
        (Lexicon.Set("approval approve freizugeben"), "order.approval-requested"),
        (Lexicon.Set("new created create placed neu nova novo criada criado insert add"), "order.placed"),
        (Lexicon.Set("change changed update updated upd chg edit edited modified geaendert alterada alterado"), "order.changed"),
    ];

    private static readonly (FrozenSet<string> Words, string Type)[] OfStock =
    [
        (Lexicon.Set("low"), "stock.low"),
        (Lexicon.Set("negative"), "stock.negative"),
        (Lexicon.Set("adjusted adjust adjustment"), "stock.adjusted"),
        (Lexicon.Set("change changed update updated upd chg modified"), "stock.changed"),
    ];

    private static readonly FrozenSet<string> Orders = Lexicon.Set(Lexicon.OrderWords);
    private static readonly FrozenSet<string> Stock = Lexicon.Set("stock inventory onhand bestand lagerbestand existencias estoque voorraad");
    private static readonly FrozenSet<string> Payment = Lexicon.Set(Lexicon.PaymentWords + " charge capture card");

    // Something that is not an order: it is made and changed by itself.
    private static readonly FrozenSet<string> Others = Lexicon.Set(
        Lexicon.CustomerWords
            + " supplier product article artikel sku item line position price user account invoice rechnung cart basket checkout draft quote offer session"
    );

    // What did not happen, or not yet.
    private static readonly FrozenSet<string> Failed = Lexicon.Set("failed failure error rejected");
    private static readonly FrozenSet<string> Not = Lexicon.Set("not no never nicht nao non");
    private static readonly FrozenSet<string> Ahead = Lexicon.Set("pending awaiting waiting due required requested expected expired delayed");

    /// <summary>The events that words mean, word by word; those that mean none are left out, a sign of life means <c>ignore</c>.</summary>
    public static Dictionary<string, string> Of(IEnumerable<string> words)
    {
        var meant = new Dictionary<string, string>();
        foreach (var word in words.Distinct().Take(Most))
        {
            if ((EventTypes.OfKnown(word) ?? Meant(BodyLeaf.Words(word))) is { } type)
            {
                meant[word] = type;
            }
        }

        return meant;
    }

    private static string? Meant(string[] parts)
    {
        bool Has(FrozenSet<string> some) => Array.Exists(parts, some.Contains);
        var whole = string.Concat(parts);
        string? First((FrozenSet<string> Words, string Type)[] of) => Array.Find(of, h => h.Words.Contains(whole) || Has(h.Words)).Type;
        if (Has(Stock))
        {
            return Has(Not) ? null : First(OfStock);
        }

        if (Has(Failed))
        {
            return Has(Payment) ? "order.payment-failed" : null;
        }

        var type = First(All);
        return type switch
        {
            null or Reading.Ignore => type,
            _ when Has(Not) => null,
            "order.paid" or "order.shipped" or "order.refunded" when Has(Ahead) => null,
            "order.placed" when Has(Others) => null,
            "order.paid" or "order.refunded" or "order.payment-failed" => type,
            _ => Has(Others) && !Has(Orders) ? null : type,
        };
    }
}
