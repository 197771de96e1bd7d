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
internal sealed class QuickListenerFactory : IEndpointListenerFactory
{
    public IEndpointListener CreateListener(IEndpointDefinition endpointDefinition) => new QuickListener(endpointDefinition);

    private sealed class QuickListener : IEndpointListener
    {
        private readonly TcpListener listener;

        public QuickListener(IEndpointDefinition definition)
        {
            listener = new TcpListener(definition.Endpoint);
            listener.Start();
        }

        public async Task<ISecurableDuplexPipe> GetPipeAsync(ISessionContext context, CancellationToken cancellationToken)
        {
            var client = await listener.AcceptTcpClientAsync(cancellationToken);
            client.NoDelay = true;
            return new QuickPipe(client);
        }

        public void Dispose() => listener.Dispose();
    }
}

/// <summary>One connection. It can be dropped without a word.</summary>
internal sealed class QuickPipe(TcpClient client) : ISecurableDuplexPipe
{
    public PipeReader Input { get; } = PipeReader.Create(client.GetStream(), new StreamPipeReaderOptions(leaveOpen: true));

    public PipeWriter Output { get; } = new PlainReplies(client.GetStream());

    public bool IsSecure => false;

    public SslProtocols SslProtocol => SslProtocols.None;

    public Task UpgradeAsync(X509Certificate certificate, SslProtocols protocols, CancellationToken cancellationToken = default) =>
        throw new NotSupportedException("The stand-in does not offer STARTTLS.");

    /// <summary>Cuts the line.</summary>
    public void Drop() => client.Client.Close(0);

    public void Dispose() => client.Dispose();
}

/// <summary>Sends replies in their own words: the package adds to a refusal how many more it allows, which no mail server says.</summary>
internal sealed partial class PlainReplies(Stream stream) : PipeWriter
{
    private readonly ArrayBufferWriter<byte> held = new();

    public override void Advance(int bytes) => held.Advance(bytes);

    public override Memory<byte> GetMemory(int sizeHint = 0) => held.GetMemory(sizeHint);

    public override Span<byte> GetSpan(int sizeHint = 0) => held.GetSpan(sizeHint);

    public override async ValueTask<FlushResult> FlushAsync(CancellationToken cancellationToken = default)
    {
        var plain = Encoding.UTF8.GetBytes(Remaining().Replace(Encoding.UTF8.GetString(held.WrittenSpan), ""));
        held.ResetWrittenCount();
        await stream.WriteAsync(plain, cancellationToken);
        return default;
    }

    public override void CancelPendingFlush()
    {
    }

    public override void Complete(Exception? exception = null)
    {
    }

    [GeneratedRegex(@", \d+ retry\(ies\) remaining\.")]
    private static partial Regex Remaining();
}
