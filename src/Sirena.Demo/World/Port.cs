using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.People;

namespace Sirena.Demo.World;

/// <summary>Port Averil: the people, teams, sites, statuses, vessels and goods of Averil Quay Provisions. All made up.</summary>
public static class Port
{
    /// <summary>The teams.</summary>
    public static IReadOnlyList<Team> Teams() =>
        [
            new() { Id = "kitchen", Name = "Kitchen" },
            new() { Id = "warehouse", Name = "Warehouse" },
            new() { Id = "account-managers", Name = "Account managers" },
            new() { Id = "credit-control", Name = "Credit control" },
            new() { Id = "quayside-drivers", Name = "Quayside drivers" },
            new() { Id = "desk", Name = "Desk" },
        ];

    /// <summary>The sites.</summary>
    public static IReadOnlyList<Site> Sites() =>
        [
            new()
            {
                Id = "galley",
                Name = "Galley kitchen",
                Manager = "tomas.reyle",
                Team = "kitchen",
            },
            new()
            {
                Id = "cold-store",
                Name = "Cold store",
                Manager = "signe.aalto",
                Team = "warehouse",
            },
            new()
            {
                Id = "bonded-store",
                Name = "Bonded store",
                Manager = "petra.lindqvist",
                Team = "warehouse",
            },
            new()
            {
                Id = "chandlery",
                Name = "Chandlery",
                Manager = "lena.okonjo",
                Team = "warehouse",
            },
            new()
            {
                Id = "quay-office",
                Name = "Quay office",
                Manager = "maren.holt",
                Team = "desk",
            },
        ];

    /// <summary>The statuses, in the usual way of an order.</summary>
    public static IReadOnlyList<Status> Statuses() =>
        [
            new()
            {
                Id = "received",
                Name = "Received",
                Mark = "received",
                Position = 1,
                CustomerSees = "We have your order",
                AllowedMinutes = 30,
            },
            new()
            {
                Id = "credit-check",
                Name = "Credit check",
                Mark = "credit",
                Position = 2,
                AllowedMinutes = 240,
            },
            new()
            {
                Id = "picking",
                Name = "Picking",
                Mark = "picking",
                Position = 3,
                Words = ["part-picked"],
                CustomerSees = "Being packed",
                AllowedMinutes = 720,
            },
            new()
            {
                Id = "in-galley",
                Name = "In the galley",
                Mark = "galley",
                Position = 4,
                Words = ["kitchen"],
                CustomerSees = "Your meals are being made",
                AllowedMinutes = 480,
            },
            new()
            {
                Id = "loaded",
                Name = "Loaded",
                Mark = "loaded",
                Position = 5,
                AllowedMinutes = 360,
            },
            new()
            {
                Id = "alongside",
                Name = "Alongside",
                Mark = "alongside",
                Position = 6,
                CustomerSees = "At your berth",
                AllowedMinutes = 120,
            },
            new()
            {
                Id = "signed-for",
                Name = "Signed for",
                Mark = "signed",
                Position = 7,
                Kind = StatusKind.Final,
                Words = ["delivered"],
                CustomerSees = "Signed for",
            },
            new()
            {
                Id = "cancelled",
                Name = "Cancelled",
                Mark = "cancelled",
                Position = 8,
                Kind = StatusKind.Void,
                Words = ["void"],
                CustomerSees = "Cancelled",
            },
        ];

    /// <summary>The staff. One mailbox no longer exists, one salesperson has no address at all: both happen.</summary>
    public static IReadOnlyList<Person> People() =>
        [
            P("maren.holt", "Maren Holt", "supervisor of the order desk", 1, "desk"),
            P("ines.calder", "Ines Calder", "account manager, ferries", 2, "account-managers"),
            P("odile.varga", "Odile Varga", "account manager, yachts", 3, "account-managers"),
            P("hugo.brandt", "Hugo Brandt", "account manager, research vessels", 4, "account-managers"),
            P("tomas.reyle", "Tomas Reyle", "head cook", 5, "kitchen"),
            P("noor.haddad", "Noor Haddad", "cook", 6, "kitchen"),
            P("emil.sorensen", "Emil Sørensen", "cook", 7, "kitchen"),
            P("alba.ferro", "Alba Ferro", "baker", 8, "kitchen"),
            P("jonas.weil", "Jonas Weil", "galley porter", 9, "kitchen"),
            P("signe.aalto", "Signe Aalto", "keeper of the cold store", 10, "warehouse"),
            P("petra.lindqvist", "Petra Lindqvist", "keeper of the bonded store", 11, "warehouse"),
            P("ruben.achterberg", "Ruben Achterberg", "bonded clerk", 12, "warehouse"),
            P("lena.okonjo", "Lena Okonjo", "keeper of the chandlery", 13, "warehouse"),
            P("milo.trask", "Milo Trask", "picker", 14, "warehouse"),
            P("bram.osei", "Bram Osei", "picker", 15, "warehouse"),
            P("kaia.lund", "Kaia Lund", "picker", 16, "warehouse"),
            P("teo.marchetti", "Teo Marchetti", "picker", 17, "warehouse"),
            P("farah.mensah", "Farah Mensah", "credit controller", 18, "credit-control"),
            P("joost.hale", "Joost Hale", "credit controller", 19, "credit-control"),
            P("wanda.petrov", "Wanda Petrov", "book-keeper", 20, "credit-control"),
            P("yusuf.adeyemi", "Yusuf Adeyemi", "quayside driver", 21, "quayside-drivers"),
            P("sanna.rautio", "Sanna Rautio", "quayside driver", 22, "quayside-drivers"),
            P("okke.brandsma", "Okke Brandsma", "quayside driver", 23, "quayside-drivers"),
            P("dario.neves", "Dario Neves", "quayside driver", 24, "quayside-drivers"),
            P("maria.vasconcelos", "Maria-Constança d’Almeida Vasconcelos", "order clerk", 25, "desk"),
            P("finn.ashby", "Finn Ashby", "order clerk", 26, "desk"),
            P("greta.solheim", "Greta Solheim", "order clerk", 27, "desk"),
            P("ivo.kranz", "Ivo Kranz", "order clerk, nights", 28, "desk"),
            P("clara.bonnet", "Clara Bonnet", "auditor", 29, "desk"),
            new()
            {
                Id = "ansel.roe",
                Name = "Ansel Roe",
                Post = "account manager, coasters",
                Teams = ["account-managers"],
            },
            new()
            {
                Id = "pavel.dusek",
                Name = "Pavel Dušek",
                Post = "relief driver",
                Teams = ["quayside-drivers"],
            },
        ];

    /// <summary>Who orders: code, name, group, what the vessel is, its salesperson.</summary>
    public static readonly (string Code, string Name, string Group, string Salesperson)[] Vessels =
    [
        ("CORV", "MV Corvane", "ferries", "ines.calder"),
        ("OSTR", "MV Ostrel", "ferries", "ines.calder"),
        ("HESP", "MV Hesper Light", "ferries", "ines.calder"),
        ("SALT", "MV Saltmarsh", "coasters", "ansel.roe"),
        ("TARN", "MV Tarn Venture", "coasters", "ansel.roe"),
        ("LAUK", "SY Little Auk", "yachts", "odile.varga"),
        ("MORR", "SY Morrow Tide", "yachts", "odile.varga"),
        ("SABF", "MY Sable Finch", "yachts", "odile.varga"),
        ("QUIL", "MY Quillon", "yachts", "odile.varga"),
        ("WREN", "SY Wren of Averil", "yachts", "odile.varga"),
        ("SOLB", "RV Solstice Bay", "research", "hugo.brandt"),
        ("THOR", "RV Professor Ólafur Þórarinsson", "research", "hugo.brandt"),
        ("KELD", "RV Keldur", "research", "hugo.brandt"),
        ("PETR", "MV Petrel Sound", "ferries", "ines.calder"),
        ("GANN", "MV Gannet Rock", "ferries", "ines.calder"),
        ("MERI", "MY Meridian", "yachts", "odile.varga"),
    ];

    /// <summary>The goods: article, title, price, site, tags.</summary>
    public static readonly (string Sku, string Title, decimal Price, string Site, string[] Tags)[] Goods =
    [
        ("GAL-0031", "Fish pie, tray of 12", 38.00m, "galley", ["prepared", "hot"]),
        ("GAL-0044", "Lunch box, cold", 9.50m, "galley", ["prepared"]),
        ("GAL-0052", "Fish soup, 5 l", 27.40m, "galley", ["prepared", "hot"]),
        ("GAL-0060", "Breakfast tray for 10", 64.00m, "galley", ["prepared"]),
        ("GAL-0077", "Vegetable stew, 10 l", 41.20m, "galley", ["prepared", "hot", "vegan"]),
        ("GAL-0081", "Bread, sliced, crate", 18.60m, "galley", ["bakery"]),
        ("CLD-0102", "Cod fillet, 5 kg", 72.30m, "cold-store", ["frozen"]),
        ("CLD-0110", "Butter, 10 kg", 58.90m, "cold-store", ["chilled"]),
        ("CLD-0123", "Ice cream, tub of 5 l", 24.75m, "cold-store", ["frozen"]),
        ("CLD-0131", "Fresh vegetables, crate", 31.00m, "cold-store", ["chilled"]),
        ("BND-0201", "Gin, case of 6", 96.00m, "bonded-store", ["bonded", "spirits"]),
        ("BND-0207", "Red wine, case of 12", 118.80m, "bonded-store", ["bonded", "wine"]),
        ("BND-0215", "Rolling tobacco, carton", 142.00m, "bonded-store", ["bonded", "tobacco"]),
        ("CHD-0301", "Mooring rope, 24 mm, 110 m", 389.00m, "chandlery", ["rope"]),
        ("CHD-0312", "Antifouling paint, 5 l", 134.50m, "chandlery", ["paint"]),
        ("CHD-0325", "Impeller kit", 87.20m, "chandlery", ["spares"]),
        ("CHD-0338", "Deck brush, pair", 16.40m, "chandlery", ["spares"]),
        ("CHD-0344", "Shackle, galvanised, 10", 29.90m, "chandlery", ["spares"]),
    ];

    /// <summary>Where vessels lie.</summary>
    public static readonly string[] Berths = ["N1", "N2", "N3", "N4", "5", "7", "A3", "A8", "B2", "C12"];

    private static Person P(string id, string name, string post, int number, params string[] teams) =>
        new()
        {
            Id = id,
            Name = name,
            Email = $"{id}@averilquay.example",
            Post = post,
            Teams = [.. teams],
            Contacts =
            [
                new()
                {
                    Channel = Channel.Mail,
                    Address = $"{id}@averilquay.example",
                    Verified = number != 19,
                },
                new()
                {
                    Channel = Channel.Sms,
                    Address = $"+447700900{100 + number}",
                    Verified = number % 4 != 0,
                },
                .. number % 3 == 0
                    ? []
                    : new ContactPoint[]
                    {
                        new()
                        {
                            Channel = Channel.Chat,
                            Address = "@" + id.Split('.')[0],
                            Verified = number % 5 != 0,
                        },
                    },
            ],
        };
}
