using System.IO.Pipelines;
using System.Net.Sockets;
using System.Security.Authentication;
using System.Security.Cryptography.X509Certificates;
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

    public PipeWriter Output { get; } = PipeWriter.Create(client.GetStream(), new StreamPipeWriterOptions(leaveOpen: true));

    public bool IsSecure => false;

    public SslProtocols SslProtocol => SslProtocols.None;

    public Task UpgradeAsync(X509Certificate certificate, SslProtocols protocols, CancellationToken cancellationToken = default) =>
        throw new NotSupportedException("The stand-in does not offer STARTTLS.");

    /// <summary>Cuts the line.</summary>
    public void Drop() => client.Client.Close(0);

    public void Dispose() => client.Dispose();
}
