using System.Buffers;
using System.IO.Pipelines;
using System.Net.Sockets;
using System.Security.Authentication;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using System.Text.RegularExpressions;
using SmtpServer;
using SmtpServer.IO;
using SmtpServer.Net;

namespace Sirena.Demo.StandIns;

/// <summary>Listens with Nagle's algorithm off: with it, each message would wait for delayed acknowledgements.</summary>
internal sealed class QuickListenerFactory(Faults faults, string name) : IEndpointListenerFactory
{
    public IEndpointListener CreateListener(IEndpointDefinition endpointDefinition) => new QuickListener(endpointDefinition, faults, name);

    private sealed class QuickListener : IEndpointListener
    {
        private readonly TcpListener listener;
        private readonly Faults faults;
        private readonly string name;

        public QuickListener(IEndpointDefinition definition, Faults faults, string name)
        {
            (this.faults, this.name) = (faults, name);
            listener = new TcpListener(definition.Endpoint);
            listener.Start();
        }

        public async Task<ISecurableDuplexPipe> GetPipeAsync(ISessionContext context, CancellationToken cancellationToken)
        {
            var client = await listener.AcceptTcpClientAsync(cancellationToken);
            client.NoDelay = true;
            return new QuickPipe(client, faults, name);
        }

        public void Dispose() => listener.Dispose();
    }
}

/// <summary>One connection. It can be dropped without a word.</summary>
internal sealed class QuickPipe(TcpClient client, Faults faults, string name) : ISecurableDuplexPipe
{
    public PipeReader Input { get; } = PipeReader.Create(new ImpatientStream(client, faults, name), new StreamPipeReaderOptions(leaveOpen: true));

    public PipeWriter Output { get; } = new PlainReplies(client.GetStream(), faults, name);

    public bool IsSecure => false;

    public SslProtocols SslProtocol => SslProtocols.None;

    public Task UpgradeAsync(X509Certificate certificate, SslProtocols protocols, CancellationToken cancellationToken = default) =>
        throw new NotSupportedException("The stand-in does not offer STARTTLS.");

    /// <summary>Cuts the line.</summary>
    public void Drop() => client.Client.Close(0);

    public void Dispose() => client.Dispose();
}

/// <summary>What the other side says. A server that lost its patience says 421 on a quiet line and closes it, as RFC 5321 (4.5.3.2.7) lets it.</summary>
internal sealed class ImpatientStream(TcpClient client, Faults faults, string name) : Stream
{
    private readonly NetworkStream inner = client.GetStream();

    public override bool CanRead => true;

    public override bool CanSeek => false;

    public override bool CanWrite => false;

    public override long Length => throw new NotSupportedException();

    public override long Position
    {
        get => throw new NotSupportedException();
        set => throw new NotSupportedException();
    }

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        var read = inner.ReadAsync(buffer, cancellationToken).AsTask();
        for (var since = DateTime.UtcNow; !read.IsCompleted; await Task.WhenAny(read, Task.Delay(100, cancellationToken)))
        {
            if (faults.OfServer(name, "idle") is { } idle && DateTime.UtcNow - since > TimeSpan.FromSeconds(idle.Seconds))
            {
                await inner.WriteAsync("421 4.4.2 mail.port-averil.example Error: timeout exceeded\r\n"u8.ToArray(), cancellationToken);
                client.Client.Shutdown(SocketShutdown.Both);
                break;
            }
        }

        return await read;
    }

    public override void Flush() { }

    public override int Read(byte[] buffer, int offset, int count) => ReadAsync(buffer.AsMemory(offset, count)).AsTask().GetAwaiter().GetResult();

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}

/// <summary>Sends replies in their own words: the package adds to a refusal how many more it allows, which no mail server says.</summary>
internal sealed partial class PlainReplies(Stream stream, Faults faults, string name) : PipeWriter
{
    private readonly ArrayBufferWriter<byte> held = new();

    public override void Advance(int bytes) => held.Advance(bytes);

    public override Memory<byte> GetMemory(int sizeHint = 0) => held.GetMemory(sizeHint);

    public override Span<byte> GetSpan(int sizeHint = 0) => held.GetSpan(sizeHint);

    public override async ValueTask<FlushResult> FlushAsync(CancellationToken cancellationToken = default)
    {
        var plain = Encoding.UTF8.GetBytes(Remaining().Replace(Encoding.UTF8.GetString(held.WrittenSpan), ""));
        held.ResetWrittenCount();
        if (faults.OfServer(name, "slow") is not null)
        {
            for (var i = 0; i < plain.Length; i++)
            {
                await stream.WriteAsync(plain.AsMemory(i, 1), cancellationToken);
                await Task.Delay(1000, cancellationToken);
            }

            return default;
        }

        await stream.WriteAsync(plain, cancellationToken);
        return default;
    }

    public override void CancelPendingFlush() { }

    public override void Complete(Exception? exception = null) { }

    [GeneratedRegex(@", \d+ retry\(ies\) remaining\.")]
    private static partial Regex Remaining();
}
