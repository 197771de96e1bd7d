using System.Text.Json.Nodes;
using System.Xml;
using System.Xml.Linq;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Sources;

namespace Sirena.Formats.Sources;

/// <summary>
/// Reads documents of UBL 2.x (OASIS Universal Business Language): Order, OrderChange, OrderCancellation, DespatchAdvice. DTDs and external entities are
/// refused; at most 32 deep and 200,000 elements, counted while reading.
/// </summary>
public sealed partial class UblReader
{
    private const int Deepest = 32;
    private const int MostElements = 200_000;
    private const string Names = "urn:oasis:names:specification:ubl:schema:xsd:";
    private static readonly XNamespace Cac = Names + "CommonAggregateComponents-2";
    private static readonly XNamespace Cbc = Names + "CommonBasicComponents-2";

    private static readonly (string Root, string Type)[] Documents =
    [
        ("Order", "order.placed"),
        ("OrderChange", "order.changed"),
        ("OrderCancellation", "order.cancelled"),
        ("DespatchAdvice", "order.shipped"),
    ];

    private readonly List<BodyProblem> problems = [];
    private readonly DateTimeZone zone;

    private UblReader(DateTimeZone zone) => this.zone = zone;

    /// <summary>Reads a document.</summary>
    /// <param name="bytes">The file; its own declaration says the character set.</param>
    /// <param name="zone">The business's zone, for times without an offset.</param>
    /// <returns>One event, or what is wrong.</returns>
    public static BodyResult Read(byte[] bytes, DateTimeZone zone)
    {
        try
        {
            using var reader = XmlReader.Create(
                new MemoryStream(bytes),
                new XmlReaderSettings
                {
                    DtdProcessing = DtdProcessing.Prohibit,
                    XmlResolver = null,
                    MaxCharactersInDocument = 16 * 1024 * 1024,
                    IgnoreComments = true,
                    IgnoreProcessingInstructions = true,
                }
            );
            return Load(reader) is var (root, problem) && root is not null ? new UblReader(zone).Document(root) : new BodyResult([], [problem!]);
        }
        catch (XmlException e)
        {
            var dtd = e.Message.Contains("DTD", StringComparison.Ordinal);
            return new BodyResult(
                [],
                [
                    new BodyProblem(
                        "/",
                        dtd ? "a DTD" : null,
                        dtd
                            ? "a UBL document without a DTD: entities are not taken"
                            : $"XML (line {e.LineNumber}, column {e.LinePosition}: {FarText.Clean(e.Message.Split(" Line ")[0], 160).TrimEnd('.')})"
                    ),
                ]
            );
        }
    }

    // Read element by element, so that what is too deep or too much is left before it is all there.
    private static (XElement? Root, BodyProblem? Problem) Load(XmlReader reader)
    {
        var (root, at, count) = ((XElement?)null, (XElement?)null, 0);
        while (reader.Read())
        {
            switch (reader.NodeType)
            {
                case XmlNodeType.Element:
                    if (++count > MostElements || reader.Depth > Deepest)
                    {
                        return (
                            null,
                            new BodyProblem(
                                "/",
                                null,
                                reader.Depth > Deepest ? $"a document of at most {Deepest} levels" : $"a document of at most {MostElements:N0} elements"
                            )
                        );
                    }

                    var element = new XElement(XName.Get(reader.LocalName, reader.NamespaceURI));
                    var empty = reader.IsEmptyElement;
                    for (var more = reader.MoveToFirstAttribute(); more; more = reader.MoveToNextAttribute())
                    {
                        if (reader.NamespaceURI.Length == 0)
                        {
                            element.SetAttributeValue(reader.LocalName, reader.Value);
                        }
                    }

                    at?.Add(element);
                    root ??= element;
                    at = empty ? at : element;
                    break;
                case XmlNodeType.EndElement:
                    at = at?.Parent;
                    break;
                case XmlNodeType.Text or XmlNodeType.CDATA or XmlNodeType.SignificantWhitespace:
                    at?.Add(new XText(reader.Value));
                    break;
            }
        }

        return (root, root is null ? new BodyProblem("/", null, "a document of UBL 2") : null);
    }

    private BodyResult Document(XElement root)
    {
        var kind = Documents.FirstOrDefault(d => root.Name.LocalName == d.Root && root.Name.NamespaceName == $"{Names}{d.Root}-2");
        if (kind.Root is null)
        {
            return new BodyResult(
                [],
                [
                    new BodyProblem(
                        "/" + root.Name.LocalName,
                        Cut(root.Name.NamespaceName),
                        $"one of {string.Join(", ", Documents.Select(d => d.Root))} of UBL 2, with its namespace {Names}…-2"
                    ),
                ]
            );
        }

        var number = kind.Root == "Order" ? Text(root, Cbc + "ID") : Text(root, Cac + "OrderReference", Cbc + "ID");
        if (number is null)
        {
            problems.Add(new BodyProblem(kind.Root == "Order" ? "/Order/ID" : $"/{kind.Root}/OrderReference/ID", null, "the order's number"));
        }

        var order = new JsonObject { ["number"] = number };
        var data = new JsonObject { ["order"] = order };
        if (kind.Root is "Order" or "OrderChange")
        {
            Fill(root, order, kind.Root);
        }
        else if (kind.Root == "DespatchAdvice")
        {
            data["despatch"] = Despatch(root);
        }
        else
        {
            Put(order, "cancelledBecause", Text(root, Cbc + "CancellationNote"), extra: true);
        }

        var id =
            $"ubl-{kind.Root}-{Text(root, Cbc + "UUID") ?? Text(root, Cbc + "ID") ?? number}"
            + $"{(Text(root, Cbc + "SequenceNumberID") is { } sequence ? "-" + sequence : "")}";
        var made = new BodyEvent(id, kind.Type, Time(root, "IssueDate", "IssueTime", "/" + kind.Root), data);
        if (
            problems.Count == 0
            && IncomingEvent
                .Check(
                    name =>
                        name switch
                        {
                            "specversion" => "1.0",
                            "id" => made.Id,
                            "source" => "/sources",
                            "type" => made.Type,
                            _ => null,
                        },
                    data
                )
                .Problem
                is { } wrong
        )
        {
            problems.Add(new BodyProblem("/" + kind.Root, null, $"an order that can be taken: {wrong.TrimEnd('.')}"));
        }

        return problems.Count > 0 ? new BodyResult([], [.. problems.Distinct()]) : new BodyResult([made], []);
    }

    private void Fill(XElement root, JsonObject order, string name)
    {
        var buyer = root.Element(Cac + "BuyerCustomerParty")?.Element(Cac + "Party");
        var delivery = root.Element(Cac + "Delivery");
        var total = root.Element(Cac + "AnticipatedMonetaryTotal") is { } sums
            ? sums.Element(Cbc + "PayableAmount") ?? sums.Element(Cbc + "LineExtensionAmount")
            : null;
        Put(order, "currency", Text(root, Cbc + "DocumentCurrencyCode") ?? total?.Attribute("currencyID")?.Value);
        Number(order, "total", total, $"/{name}/AnticipatedMonetaryTotal/PayableAmount");
        if (name == "Order" && Time(root, "IssueDate", "IssueTime", "/" + name) is { } placed)
        {
            order["placedAt"] = InstantPattern.ExtendedIso.Format(placed);
        }

        var due = (delivery is null ? null : Time(delivery, "LatestDeliveryDate", "LatestDeliveryTime", $"/{name}/Delivery"))
            ?? (
                delivery?.Element(Cac + "RequestedDeliveryPeriod") is { } period
                    ? Time(period, "EndDate", "EndTime", $"/{name}/Delivery/RequestedDeliveryPeriod")
                        ?? Time(period, "StartDate", "StartTime", $"/{name}/Delivery/RequestedDeliveryPeriod")
                    : null
            );
        if (due is { } at)
        {
            order["dueAt"] = InstantPattern.ExtendedIso.Format(at);
        }

        if (buyer is not null)
        {
            var customer = new JsonObject();
            Put(
                customer,
                "code",
                Text(root, Cac + "BuyerCustomerParty", Cbc + "CustomerAssignedAccountID")
                    ?? Text(buyer, Cac + "PartyIdentification", Cbc + "ID")
                    ?? Text(buyer, Cbc + "EndpointID")
            );
            Put(customer, "name", Text(buyer, Cac + "PartyName", Cbc + "Name") ?? Text(buyer, Cac + "PartyLegalEntity", Cbc + "RegistrationName"));
            Put(customer, "email", Text(buyer, Cac + "Contact", Cbc + "ElectronicMail"));
            Put(customer, "phone", Text(buyer, Cac + "Contact", Cbc + "Telephone"));
            order["customer"] = customer;
        }

        Put(order, "note", Text(root, Cbc + "Note"), extra: true);
        if (root.Elements(Cac + "OrderLine").ToArray() is { Length: > 0 } lines)
        {
            order["lines"] = new JsonArray([
                .. lines.Select((l, i) => (JsonNode)Line(l.Element(Cac + "LineItem") ?? l, $"/{name}/OrderLine[{i + 1}]/LineItem")),
            ]);
        }
    }

    private JsonObject Line(XElement item, string path)
    {
        var line = new JsonObject();
        Put(
            line,
            "sku",
            Text(item, Cac + "Item", Cac + "SellersItemIdentification", Cbc + "ID") ?? Text(item, Cac + "Item", Cac + "StandardItemIdentification", Cbc + "ID")
        );
        Put(line, "title", Text(item, Cac + "Item", Cbc + "Name") ?? Text(item, Cac + "Item", Cbc + "Description"));
        Number(line, "quantity", item.Element(Cbc + "Quantity"), path + "/Quantity");
        Number(line, "unitPrice", item.Element(Cac + "Price")?.Element(Cbc + "PriceAmount"), path + "/Price/PriceAmount");
        return line;
    }

    private JsonObject Despatch(XElement root)
    {
        var lines = new JsonArray();
        foreach (var (despatched, i) in root.Elements(Cac + "DespatchLine").Select((l, i) => (l, i)))
        {
            var line = new JsonObject();
            Put(line, "line", Text(despatched, Cac + "OrderLineReference", Cbc + "LineID"));
            Put(line, "sku", Text(despatched, Cac + "Item", Cac + "SellersItemIdentification", Cbc + "ID"));
            Number(line, "shipped", despatched.Element(Cbc + "DeliveredQuantity"), $"/DespatchAdvice/DespatchLine[{i + 1}]/DeliveredQuantity");
            lines.Add(line);
        }

        return new JsonObject { ["id"] = Text(root, Cbc + "ID"), ["lines"] = lines };
    }
}
