using System.Collections.Frozen;
using Sirena.Core.Rules;

namespace Sirena.Core.Sources;

/// <summary>
/// What order systems call their values, in the trade's words of several languages. A word that stands for the whole name weighs more than one beside others.
/// </summary>
internal sealed class Lexicon
{
    /// <summary>What an order is called.</summary>
    public const string OrderWords = "order orders ord auftrag bestellung pedido encomenda commande ordine bestelling";

    /// <summary>What a customer is called.</summary>
    public const string CustomerWords = "customer cust kunde client cliente buyer klant";

    /// <summary>What a payment is called.</summary>
    public const string PaymentWords = "payment pay zahlung pagamento pago betaling paiement";

    private readonly FrozenSet<string> sure;
    private readonly FrozenSet<string> perhaps;
    private readonly FrozenSet<string> above;

    private Lexicon(string sure, string perhaps = "", string above = "") => (this.sure, this.perhaps, this.above) = (Set(sure), Set(perhaps), Set(above));

    public static Lexicon Number { get; } =
        new(
            "ordernumber orderno ordernr orderid bestellnummer auftragsnummer belegnummer belegnr pedido encomenda bestelling commande ordine",
            "number no nr num id ref reference nummer numero code key",
            OrderWords
        );

    public static Lexicon NotNumber { get; } =
        new("phone tel zip postcode sku customer cust kunde cliente client user quantity qty vat tax delivery event message msg request");

    public static Lexicon NotStatus { get; } = new($"{PaymentWords} financial risk fraud {CustomerWords} address addr billing account user");

    public static Lexicon Status { get; } = new("status state orderstatus estado zustand etat stato stand situacao", "st stat stage phase");

    public static Lexicon Event { get; } =
        new("event eventtype kind action topic ereignis evento", "type what trigger reason op operation msg message", "event meta header");

    public static Lexicon Due { get; } =
        new(
            "due dueat duedate deliverby deliverydate requireddate liefertermin lieferdatum faellig entrega prazo echeance livraison consegna "
                + "leverdatum fechaentrega eta",
            "deliver delivery required requested needed wanted promised until sailing pickup ship"
        );

    public static Lexicon Placed { get; } =
        new(
            "placedat placed ordered orderedat orderdate createdat created bestelldatum data fecha criado erstellt angelegt",
            "date datum when day",
            "order ord"
        );

    public static Lexicon Sent { get; } = new("sent sentat timestamp ts occurredat time zeit hora", "at date when created updated modified changed");

    public static Lexicon Total { get; } =
        new("total sum amount grandtotal summe betrag gesamt valor montante montant importe totale totaal bedrag", "value price net gross cents");

    /// <summary>Which of several amounts is the whole.</summary>
    public static Lexicon Whole { get; } = new("total sum grandtotal summe gesamt totale totaal");

    public static Lexicon Currency { get; } = new("currency currencycode cur curr waehrung moeda moneda devise valuta");

    public static Lexicon RiskScore { get; } = new("riskscore", "score", "risk fraud");

    public static Lexicon OnHand { get; } = new("onhand stock available bestand existencias estoque voorraad", "balance level");

    public static Lexicon Threshold { get; } = new("threshold minimum reorder reorderpoint mindestbestand", "min safety");

    public static Lexicon FirstName { get; } = new("firstname forename givenname vorname voornaam prenom primeironome");

    public static Lexicon LastName { get; } =
        new("lastname surname familyname nachname familienname achternaam nomdefamille apelido apellido apellidos cognome");

    public static Lexicon Customer { get; } = new(CustomerWords, "", CustomerWords);

    /// <summary>What speaks of an order.</summary>
    public static Lexicon Order { get; } = new("status state customer cust kunde cliente due total sum ordernumber orderno number no nr entrega", "st date id");

    /// <summary>What speaks of a line.</summary>
    public static Lexicon LineOnly { get; } =
        new(
            "sku article artikel artikelnr artigo articulo articolo qty quantity menge quantidade cantidad unitprice art item product produkt produto aantal "
                + "quantite quantita",
            "pos line price pcs"
        );

    /// <summary>The texts of an order, in the order in which they are looked for.</summary>
    public static IReadOnlyList<(string Path, Lexicon Words)> Texts { get; } =
    [
        (
            "order.customer.code",
            new Lexicon(
                "customercode customerid customerno kundennummer kundennr customernumber klantnummer",
                "code id no nr number codigo codice numero nummer",
                CustomerWords + " account konto conta"
            )
        ),
        (
            "order.customer.name",
            new Lexicon(
                "customername customer kunde cliente client buyer klant kundenname company firma",
                "name nome nom nombre naam",
                CustomerWords + " account konto conta"
            )
        ),
        ("order.customer.group", new Lexicon("customergroup kundengruppe", "group segment", CustomerWords)),
        ("order.customer.language", new Lexicon("language lang locale sprache idioma")),
        ("order.salesperson", new Lexicon("salesperson salesrep seller rep verkaeufer vendedor sachbearbeiter owner")),
        ("order.payment.method", new Lexicon("paymentmethod zahlungsart", "method type", PaymentWords)),
        ("order.payment.state", new Lexicon("paymentstate paymentstatus", "state status", PaymentWords + " financial")),
        ("order.risk.level", new Lexicon("risklevel risk risiko", "level", "risk fraud")),
        ("order.hold.reason", new Lexicon("holdreason sperrgrund", "reason grund", "hold block")),
        ("order.via", new Lexicon("via origin herkunft canal", "source channel")),
        ("order.site", new Lexicon("site warehouse lager armazem magazijn", "location loc store")),
    ];

    /// <summary>The members of a line.</summary>
    public static IReadOnlyList<(string Member, Lexicon Words)> Lines { get; } =
    [
        (
            "sku",
            new Lexicon(
                "sku article artikel artikelnr artigo articulo articolo art articleno productcode itemno ean",
                "code id no nr number ref " + "item product"
            )
        ),
        ("title", new Lexicon("title name description desc bezeichnung descricao descripcion descrizione designation text txt omschrijving", "product item")),
        ("shipped", new Lexicon("shipped delivered geliefert enviado")),
        ("quantity", new Lexicon("quantity qty menge quantidade cantidad anzahl aantal quantite quantita pcs", "count ordered amount")),
        ("unitPrice", new Lexicon("unitprice price preis einzelpreis preco precio prix prezzo prijs", "amount net")),
        ("site", new Lexicon("site warehouse lager loc location armazem")),
    ];

    /// <summary>How well a text's names must fit: where a name above decides, its own alone (an id, a type, a reason) says nothing.</summary>
    public double Enough => above.Count > 0 ? 2 : 1;

    /// <summary>How well a value's names fit: its own first, the one above it for what a name alone does not say.</summary>
    public double Score(string[][] names)
    {
        if (names.Length == 0)
        {
            return 0;
        }

        var (own, whole) = (names[0], string.Concat(names[0]));
        var higher = names.Length > 1 && (names[1].Any(above.Contains) || above.Contains(string.Concat(names[1])));
        return sure.Contains(whole) ? 3
            : own.Any(sure.Contains) ? 2
            : perhaps.Contains(whole) || own.Any(perhaps.Contains)
                ? (
                    higher || own.Any(above.Contains) ? 2.5
                    : above.Count > 0 && names.Length > 1 ? 0.75
                    : 1
                )
            : 0;
    }

    /// <summary>Words with a space between them, each once.</summary>
    public static FrozenSet<string> Set(string words) => words.Split(' ', StringSplitOptions.RemoveEmptyEntries).ToFrozenSet();
}

/// <summary>The codes of ISO 4217 that are in use.</summary>
internal static class Currencies
{
    /// <summary>All of them.</summary>
    public static FrozenSet<string> Known { get; } =
        (
            "AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLP CNY COP CRC CUP CVE "
            + "CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF "
            + "GTQ GYD HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD "
            + "MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR "
            + "PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD "
            + "TWD TZS UAH UGX USD UYU UZS VES VND VUV WST XAF XCD XOF XPF YER ZAR ZMW"
        )
            .Split(' ')
            .ToFrozenSet();
}
