using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Sirena.Demo.StandIns;

/// <summary>A ticket that was printed.</summary>
public sealed record Ticket(DateTimeOffset At, string Printer, string Text);

/// <summary>
/// Ticket printers' stand-ins: raw TCP, plain text, the cut, and an answer to the question for their state. Faults: <c>refuse</c> (no paper), <c>defer</c> (out
/// of paper after the cut), <c>close</c>, <c>drop</c>, <c>delay</c>.
/// </summary>
public sealed class Printers : IDisposable
{
    private readonly Faults faults;
    private readonly ConcurrentQueue<Ticket> tickets = new();
    private readonly CancellationTokenSource stop = new();

    static Printers() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    /// <summary>Starts a listener for each printer on a free port.</summary>
    public Printers(Faults faults, params string[] names)
    {
        this.faults = faults;
        foreach (var name in names)
        {
            var listener = new TcpListener(IPAddress.Loopback, 0);
            listener.Start();
            Ports[name] = ((IPEndPoint)listener.LocalEndpoint).Port;
            _ = ListenAsync(name, listener);
        }
    }

    /// <summary>The printers' ports by name.</summary>
    public Dictionary<string, int> Ports { get; } = [];

    /// <summary>What was printed, oldest first.</summary>
    public IReadOnlyList<Ticket> Tickets => [.. tickets];

    /// <summary>Throws the tickets away.</summary>
    public void Clear() => tickets.Clear();

    /// <inheritdoc/>
    public void Dispose()
    {
        stop.Cancel();
        stop.Dispose();
    }

    private async Task ListenAsync(string name, TcpListener listener)
    {
        try
        {
            while (!stop.IsCancellationRequested)
            {
                _ = PrintAsync(name, await listener.AcceptTcpClientAsync(stop.Token));
            }
        }
        catch (OperationCanceledException)
        {
            // That is how it stops.
        }
        finally
        {
            listener.Stop();
        }
    }

    private async Task PrintAsync(string name, TcpClient client)
    {
        using (client)
        {
            client.NoDelay = true;
            var (fault, text, stream) = (faults.Take("ticket", name), new StringBuilder(), client.GetStream());
            var (buffer, page) = (new byte[4096], Encoding.ASCII);
            try
            {
                for (var asked = 0; await stream.ReadAsync(buffer, stop.Token) is > 0 and var read;)
                {
                    for (var i = 0; i < read; i++)
                    {
                        // DLE EOT 4 asks for the paper sensor; GS V cuts; ESC @ begins; ESC t n chooses a code page.
                        if (buffer[i] == 0x10 && i + 2 < read)
                        {
                            i += 2;
                            if (fault?.Kind == "delay")
                            {
                                await Task.Delay(TimeSpan.FromSeconds(fault.Seconds), stop.Token);
                            }

                            if (fault?.Kind == "close" && asked > 0)
                            {
                                client.Client.Close(0);
                                return;
                            }

                            asked++;
                            await stream.WriteAsync(
                                new[] { (byte)(fault?.Kind == "refuse" || (fault?.Kind == "defer" && asked > 1) ? 0x72 : 0x12) },
                                stop.Token
                            );
                        }
                        else if (buffer[i] == 0x1D && i + 3 < read)
                        {
                            i += 3;
                            if (fault?.Kind is not ("drop" or "close" or "defer"))
                            {
                                tickets.Enqueue(new Ticket(DateTimeOffset.UtcNow, name, text.ToString().TrimEnd()));
                            }

                            text.Clear();
                        }
                        else if (buffer[i] == 0x1B)
                        {
                            i++;
                            if (i + 1 < read && buffer[i] == 0x74)
                            {
                                page = Encoding.GetEncoding(
                                    buffer[++i] switch
                                    {
                                        0 => 437,
                                        2 => 850,
                                        16 => 1252,
                                        19 => 858,
                                        _ => 20127,
                                    }
                                );
                            }
                        }
                        else
                        {
                            text.Append(page.GetString(buffer, i, 1));
                        }
                    }
                }
            }
            catch (Exception e) when (e is IOException or SocketException or OperationCanceledException or ObjectDisposedException)
            {
                // The line is gone.
            }
        }
    }
}
