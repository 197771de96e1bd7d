using System.Globalization;

namespace Sirena.Core.Deliveries;

/// <summary>
/// A ticket printer: <c>printer.galley.example:9100?page=858&amp;columns=32</c>. Port 9100, plain letters and 42 columns (80 mm paper) where nothing else is
/// said.
/// </summary>
/// <param name="Host">Its name or address.</param>
/// <param name="Port">Its raw TCP port.</param>
/// <param name="Page">The code page that it prints: 437, 850, 858 or 1252; <see langword="null"/> for plain letters without accents, which every printer
/// has.</param>
/// <param name="Columns">Characters a line, 20 to 96.</param>
public sealed record PrinterAddress(string Host, int Port, int? Page, int Columns)
{
    /// <summary>Columns of the usual 80 mm paper.</summary>
    public const int UsualColumns = 42;

    private const int UsualPort = 9100;

    /// <summary>Reads one.</summary>
    /// <param name="text">The text that was given.</param>
    /// <param name="printer">The printer, when the answer is true.</param>
    /// <param name="problem">Else a phrase that says what is wrong.</param>
    public static bool TryParse(string? text, out PrinterAddress? printer, out string? problem)
    {
        (printer, problem) = (null, null);
        var parts = (text ?? "").Trim().Split('?', 2);

        // The colons of an address in brackets are its own.
        if (parts[0].Length > 200 || HostAndPort.Read(parts[0].EndsWith(']') ? $"{parts[0]}:{UsualPort}" : parts[0], UsualPort) is not var (host, port))
        {
            problem = "is no printer's address: host and port, such as printer.galley.example:9100";
            return false;
        }

        int? page = null;
        var columns = UsualColumns;
        foreach (var set in parts.Skip(1).SelectMany(p => p.Split('&')).Select(p => p.Split('=', 2)))
        {
            var number = set.Length == 2 && int.TryParse(set[1], NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : -1;
            switch (set[0])
            {
                case "page" when number is 437 or 850 or 858 or 1252:
                    page = number;
                    break;
                case "columns" when number is >= 20 and <= 96:
                    columns = number;
                    break;
                default:
                    problem = set[0] switch
                    {
                        "page" => "names a code page that is not known: page is 437, 850, 858 or 1252",
                        "columns" => "has columns that no printer has: columns is 20 to 96",
                        _ => "says more than is known: after ? stand page (437, 850, 858 or 1252) and columns (20 to 96), such as ?page=858&columns=32",
                    };
                    return false;
            }
        }

        printer = new PrinterAddress(host, port, page, columns);
        return true;
    }
}
