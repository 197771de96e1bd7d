using System.Net.Sockets;
using System.Text;
using Sirena.Core.Deliveries;

namespace Sirena.Channels.Ticket;

/// <summary>
/// Prints on a ticket printer over raw TCP (port 9100): plain text and a cut, then asks for the printer's state on the same connection. Its answer is the
/// proof.
/// </summary>
public sealed class TicketGateway : IGateway
{
    private static readonly byte[] Initialise = [0x1B, 0x40];
    private static readonly byte[] FeedAndCut = [0x1D, 0x56, 0x42, 0x03];

    // ESC t n: the numbers under which printers of this kind know their code pages.
    private static byte[] ChoosePage(int? page) =>
        page switch
        {
            437 => [0x1B, 0x74, 0],
            850 => [0x1B, 0x74, 2],
            858 => [0x1B, 0x74, 19],
            1252 => [0x1B, 0x74, 16],
            _ => [],
        };

    // Real-time status, n = 4: the paper sensor. Bits 5 and 6 set: no paper.
    private static readonly byte[] AskPaper = [0x10, 0x04, 0x04];
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(8);

    /// <inheritdoc/>
    public Channel Channel => Channel.Ticket;

    /// <inheritdoc/>
    public string Name => "ticket printers";

    /// <inheritdoc/>
    public int Width => 4;

    /// <inheritdoc/>
    public async Task<HandOver> HandOverAsync(OutgoingMessage message, CancellationToken cancel)
    {
        if (!PrinterAddress.TryParse(message.To, out var printer, out var fault))
        {
            return new HandOver(AttemptOutcome.Permanent, null, $"'{message.To}' {fault}");
        }

        var (host, port) = (printer!.Host, printer.Port);
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(Patience);
        var sent = false;
        try
        {
            using var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
            await socket.ConnectAsync(host, port, limit.Token);
            await socket.SendAsync(AskPaper, limit.Token);
            if (await AnswerAsync(socket, limit.Token) is { } before && (before & 0x60) == 0x60)
            {
                return new HandOver(AttemptOutcome.Temporary, "paper", "the printer has no paper");
            }

            var letters = TicketText.Letters(printer.Page);
            var lines = string.Concat(TicketText.Lines(message.Text, printer.Columns, letters).Select(l => l + "\n"));
            byte[] ticket = [.. Initialise, .. ChoosePage(printer.Page), .. (letters ?? Encoding.ASCII).GetBytes(lines), .. FeedAndCut, .. AskPaper];
            sent = true;
            await socket.SendAsync(ticket, limit.Token);
            return await AnswerAsync(socket, limit.Token) is { } state
                ? (state & 0x60) == 0x60
                    ? new HandOver(AttemptOutcome.Temporary, "paper", "the printer ran out of paper while it printed")
                    : new HandOver(AttemptOutcome.Accepted, $"0x{state:X2}", "printed; the printer answered with its state", Landed: true)
                : new HandOver(AttemptOutcome.Accepted, null, "bytes taken; the printer gave no state");
        }
        catch (Exception e) when (e is SocketException or IOException || (e is OperationCanceledException && !cancel.IsCancellationRequested))
        {
            return sent
                ? new HandOver(AttemptOutcome.Unknown, null, $"the line dropped while the ticket went over; it may have been printed: {e.Message}")
                : new HandOver(AttemptOutcome.Temporary, null, $"no connection to the printer {host}:{port}: {e.Message}");
        }
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private static async Task<byte?> AnswerAsync(Socket socket, CancellationToken cancel)
    {
        using var soon = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        soon.CancelAfter(2000);
        var one = new byte[1];
        try
        {
            return await socket.ReceiveAsync(one, soon.Token) == 1 ? one[0] : throw new IOException("The printer closed the line.");
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return null;
        }
    }
}
