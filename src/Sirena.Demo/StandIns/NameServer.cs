using System.Buffers.Binary;
using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Sirena.Demo.StandIns;

/// <summary>
/// A small name server on loopback (RFC 1035, UDP): answers questions for text records and services (RFC 2782), everything else with no such name.
/// </summary>
public sealed class NameServer : IDisposable
{
    private const ushort Text = 16;
    private const ushort Service = 33;
    private readonly UdpClient socket = new(new IPEndPoint(IPAddress.Loopback, 0));
    private readonly CancellationTokenSource stop = new();

    /// <summary>Starts it on a free port.</summary>
    /// <param name="port">The port, 0 for any.</param>
    public NameServer(int port = 0)
    {
        if (port != 0)
        {
            socket.Dispose();
            socket = new UdpClient(new IPEndPoint(IPAddress.Loopback, port));
        }

        _ = ServeAsync();
    }

    /// <summary>Its address.</summary>
    public IPEndPoint Endpoint => (IPEndPoint)socket.Client.LocalEndPoint!;

    /// <summary>The text records by name, lower case.</summary>
    public ConcurrentDictionary<string, string[]> Texts { get; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>The services by name: <c>_submission._tcp.averilquay.example</c> is at this host and port.</summary>
    public ConcurrentDictionary<string, (string Host, ushort Port)> Services { get; } = new(StringComparer.OrdinalIgnoreCase);

    /// <inheritdoc/>
    public void Dispose()
    {
        stop.Cancel();
        socket.Dispose();
        stop.Dispose();
    }

    private async Task ServeAsync()
    {
        try
        {
            while (true)
            {
                var asked = await socket.ReceiveAsync(stop.Token);
                if (Answer(asked.Buffer) is { } answer)
                {
                    await socket.SendAsync(answer, asked.RemoteEndPoint, stop.Token);
                }
            }
        }
        catch (Exception e) when (e is OperationCanceledException or ObjectDisposedException or SocketException)
        {
            // That is how it stops.
        }
    }

    // Header (12), one question, then a record for each text, its name a pointer to the question's.
    private byte[]? Answer(byte[] question)
    {
        if (question.Length < 17)
        {
            return null;
        }

        var (labels, at) = (new List<string>(), 12);
        while (question[at] != 0)
        {
            labels.Add(Encoding.ASCII.GetString(question, at + 1, question[at]));
            at += question[at] + 1;
        }

        var end = at + 5;
        var type = BinaryPrimitives.ReadUInt16BigEndian(question.AsSpan(at + 1));
        var name = string.Join('.', labels);
        byte[][] known =
            type == Text && Texts.TryGetValue(name, out var texts) ? [.. texts.Select(OfText)]
            : type == Service && Services.TryGetValue(name, out var service) ? [OfService(service.Host, service.Port)]
            : [];
        var answer = new List<byte>(question[..end]);
        (answer[2], answer[3]) = (0x85, (byte)(known.Length > 0 || Texts.ContainsKey(name) || Services.ContainsKey(name) ? 0x80 : 0x83));
        (answer[6], answer[7], answer[8], answer[9], answer[10], answer[11]) = (0, (byte)known.Length, 0, 0, 0, 0);
        foreach (var data in known)
        {
            answer.AddRange([0xC0, 12, 0, (byte)type, 0, 1, 0, 0, 0, 60, (byte)(data.Length >> 8), (byte)data.Length, .. data]);
        }

        return [.. answer];
    }

    private static byte[] OfText(string text) => [.. Encoding.ASCII.GetBytes(text).Chunk(255).SelectMany(c => (byte[])[(byte)c.Length, .. c])];

    // Priority, weight, port, target.
    private static byte[] OfService(string host, ushort port) =>
        [0, 0, 0, 1, (byte)(port >> 8), (byte)port, .. host.Split('.').SelectMany(l => (byte[])[(byte)l.Length, .. Encoding.ASCII.GetBytes(l)]), 0];
}
