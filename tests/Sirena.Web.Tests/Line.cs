using System.Net;
using System.Net.Sockets;

namespace Sirena.Web.Tests;

/// <summary>The line between a browser and the application: it carries bytes as they are, and can be cut and mended.</summary>
public sealed class Line : IAsyncDisposable
{
    private readonly CancellationTokenSource end = new();
    private readonly List<TcpClient> calls = [];
    private readonly int to;
    private TcpListener? listener;

    /// <summary>Begins to carry.</summary>
    /// <param name="url">Where the application answers.</param>
    public Line(string url)
    {
        to = new Uri(url).Port;
        Mend();
    }

    /// <summary>Its near end.</summary>
    public string Url => $"http://localhost:{Port}";

    private int Port { get; set; }

    /// <summary>Nothing goes through any more: who calls is refused, and calls that go on end.</summary>
    public void Cut()
    {
        listener?.Stop();
        listener = null;
        lock (calls)
        {
            calls.ForEach(c => c.Dispose());
            calls.Clear();
        }
    }

    /// <summary>It carries again, at the same port.</summary>
    public void Mend()
    {
        listener = new TcpListener(IPAddress.Loopback, Port);
        listener.Start();
        Port = ((IPEndPoint)listener.LocalEndpoint).Port;
        _ = TakeAsync(listener);
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await end.CancelAsync();
        Cut();
        end.Dispose();
    }

    private async Task TakeAsync(TcpListener from)
    {
        try
        {
            while (true)
            {
                var near = await from.AcceptTcpClientAsync(end.Token);
                var far = new TcpClient();
                await far.ConnectAsync(IPAddress.Loopback, to, end.Token);
                lock (calls)
                {
                    calls.AddRange(near, far);
                }

                _ = CarryAsync(near, far);
                _ = CarryAsync(far, near);
            }
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException or OperationCanceledException)
        {
            // It was cut.
        }
    }

    private async Task CarryAsync(TcpClient from, TcpClient onto)
    {
        try
        {
            await from.GetStream().CopyToAsync(onto.GetStream(), end.Token);
            onto.Client.Shutdown(SocketShutdown.Send);
        }
        catch (Exception e) when (e is IOException or SocketException or ObjectDisposedException or InvalidOperationException or OperationCanceledException)
        {
            // One end has gone.
        }
    }
}
