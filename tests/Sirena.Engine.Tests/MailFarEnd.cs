using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Sirena.Engine.Tests;

/// <summary>A mail server that says what it is told to, word for word, as servers elsewhere were heard to; real SMTP on loopback.</summary>
internal sealed class MailFarEnd : IAsyncDisposable
{
    private readonly TcpListener listener = new(IPAddress.Loopback, 0);
    private readonly CancellationTokenSource stop = new();

    public MailFarEnd()
    {
        listener.Start();
        _ = ServeAsync();
    }

    public string Address => $"127.0.0.1:{((IPEndPoint)listener.LocalEndpoint).Port}";

    /// <summary>Closes a line with 421 when nothing comes for so long.</summary>
    public TimeSpan Idle { get; set; } = TimeSpan.FromMinutes(5);

    /// <summary>The largest message; said in EHLO.</summary>
    public int? Size { get; set; }

    /// <summary>Takes larger ones in MAIL than it takes in the end, as servers behind a filter do.</summary>
    public bool SizeAtTheEnd { get; set; }

    /// <summary>What it says to RCPT; empty for 250.</summary>
    public Func<string, string> Recipient { get; set; } = _ => "";

    /// <summary>What it says to MAIL; empty for 250.</summary>
    public Func<string> Sender { get; set; } = () => "";

    /// <summary>What it says to EHLO instead of taking it; empty to take it.</summary>
    public string Ehlo { get; set; } = "";

    /// <summary>After the message: <c>close</c> drops the line, <c>hang</c> says nothing more.</summary>
    public string AfterData { get; set; } = "";

    /// <summary>To whom messages came, in order.</summary>
    public ConcurrentQueue<(string To, int Length, DateTime At)> Got { get; } = [];

    public int Lines;

    /// <summary>How many lines it closed because nothing came.</summary>
    public int Tired;

    public async ValueTask DisposeAsync()
    {
        // Not disposed of: lines that are still open look at it.
        await stop.CancelAsync();
        listener.Stop();
    }

    private async Task ServeAsync()
    {
        try
        {
            while (true)
            {
                var client = await listener.AcceptTcpClientAsync(stop.Token);
                Interlocked.Increment(ref Lines);
                _ = TalkAsync(client).ContinueWith(_ => client.Dispose(), TaskScheduler.Default);
            }
        }
        catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            // The test is over.
        }
    }

    private async Task TalkAsync(TcpClient client)
    {
        client.NoDelay = true;
        using var reader = new StreamReader(client.GetStream(), Encoding.UTF8);
        await using var writer = new StreamWriter(client.GetStream(), new UTF8Encoding(false)) { NewLine = "\r\n", AutoFlush = true };
        await writer.WriteLineAsync("220 mail.known.example ESMTP");
        var to = "";
        while (true)
        {
            using var idle = CancellationTokenSource.CreateLinkedTokenSource(stop.Token);
            idle.CancelAfter(Idle);
            string? line;
            try
            {
                line = await reader.ReadLineAsync(idle.Token);
            }
            catch (OperationCanceledException)
            {
                await writer.WriteLineAsync("421 4.4.2 mail.known.example Error: timeout exceeded");
                Interlocked.Increment(ref Tired);
                return;
            }

            switch (line?.Split(' ', ':')[0].ToUpperInvariant())
            {
                case null or "QUIT":
                    return;
                case "EHLO" or "HELO" when Ehlo.Length > 0:
                    await writer.WriteLineAsync(Ehlo);
                    break;
                case "EHLO" or "HELO" when !line.Contains('.', StringComparison.Ordinal):
                    // A bare machine's name is no name that mail servers take.
                    await writer.WriteLineAsync($"504 5.5.2 Helo command rejected: need fully-qualified hostname, not {line}");
                    break;
                case "EHLO":
                    await writer.WriteLineAsync(
                        $"250-mail.known.example\r\n250-8BITMIME\r\n{(Size is { } size && !SizeAtTheEnd ? $"250-SIZE {size}\r\n" : "")}250 ENHANCEDSTATUSCODES"
                    );
                    break;
                case "MAIL":
                    await SayAsync(writer, Sender(), "250 2.1.0 Ok");
                    break;
                case "RCPT":
                    to = line.Split('<', '>')[1];
                    await SayAsync(writer, Recipient(to), "250 2.1.5 Ok");
                    break;
                case "DATA":
                    await writer.WriteLineAsync("354 End data with <CR><LF>.<CR><LF>");
                    var length = 0;
                    for (string? text; (text = await reader.ReadLineAsync(stop.Token)) is not null and not ".";)
                    {
                        length += text.Length + 2;
                    }

                    if (AfterData == "close")
                    {
                        client.Client.Close(0);
                        return;
                    }

                    if (AfterData == "hang")
                    {
                        await Task.Delay(Timeout.Infinite, stop.Token);
                    }

                    if (Size is { } most && length > most)
                    {
                        await writer.WriteLineAsync("552 5.3.4 Error: message file too big");
                        break;
                    }

                    Got.Enqueue((to, length, DateTime.UtcNow));
                    await writer.WriteLineAsync("250 2.0.0 Ok: queued as 4Z");
                    break;
                default:
                    await writer.WriteLineAsync("250 2.0.0 Ok");
                    break;
            }
        }
    }

    private static Task SayAsync(StreamWriter writer, string said, string usual) => writer.WriteLineAsync(said.Length > 0 ? said : usual);
}
