using System.Buffers;
using System.Net;
using MimeKit;
using SmtpServer;
using SmtpServer.Mail;
using SmtpServer.Protocol;
using SmtpServer.Storage;

namespace Sirena.Demo.StandIns;

/// <summary>A mail that arrived.</summary>
public sealed record ArrivedMail(DateTimeOffset At, string To, string From, string Subject, string Text, string Folder, string Raw);

/// <summary>The mail carrier's stand-in: a real SMTP server on loopback that keeps what it is given, and misbehaves when told to.</summary>
public sealed class MailCarrier(Faults faults)
{
    private const int MostKept = 5000;
    private const string FaultKey = "sirena.fault";
    private readonly Lock gate = new();
    private readonly List<ArrivedMail> mails = [];

    /// <summary>What arrived, oldest first.</summary>
    public IReadOnlyList<ArrivedMail> Mails
    {
        get
        {
            lock (gate)
            {
                return [.. mails];
            }
        }
    }

    /// <summary>Called when a mail has been stored.</summary>
    public event Action<ArrivedMail>? Arrived;

    /// <summary>Empties the boxes.</summary>
    public void Clear()
    {
        lock (gate)
        {
            mails.Clear();
        }
    }

    /// <summary>Serves until cancelled.</summary>
    public Task ServeAsync(IPEndPoint endpoint, CancellationToken cancel)
    {
        var options = new SmtpServerOptionsBuilder().ServerName("mail.port-averil.example").MaxRetryCount(10_000).Endpoint(e => e.Endpoint(endpoint)).Build();
        var services = new SmtpServer.ComponentModel.ServiceProvider();
        services.Add(new QuickListenerFactory());
        services.Add((IMailboxFilter)new Filter(faults));
        services.Add((IMessageStore)new Store(this));
        return new SmtpServer.SmtpServer(options, services).StartAsync(cancel);
    }

    private void Keep(IMessageTransaction transaction, ReadOnlySequence<byte> buffer, string folder)
    {
        using var stream = new MemoryStream(buffer.ToArray());
        var raw = System.Text.Encoding.UTF8.GetString(stream.ToArray());
        var mail = MimeMessage.Load(stream);
        foreach (var to in transaction.To)
        {
            var arrived = new ArrivedMail(DateTimeOffset.UtcNow, to.AsAddress(), transaction.From.AsAddress(), mail.Subject ?? "", mail.TextBody ?? "", folder, raw);
            lock (gate)
            {
                mails.Add(arrived);
                if (mails.Count > MostKept)
                {
                    mails.RemoveRange(0, mails.Count - MostKept);
                }
            }

            Arrived?.Invoke(arrived);
        }
    }

    private sealed class Filter(Faults faults) : MailboxFilter
    {
        public override Task<bool> CanDeliverToAsync(ISessionContext context, IMailbox to, IMailbox from, CancellationToken cancellationToken)
        {
            var fault = faults.Take("mail", to.AsAddress());
            context.Properties[FaultKey] = fault!;
            return fault?.Kind switch
            {
                "defer" => throw new SmtpResponseException(new SmtpResponse((SmtpReplyCode)451, "4.7.1 Greylisted, come back later")),
                "refuse" => throw new SmtpResponseException(new SmtpResponse(SmtpReplyCode.MailboxUnavailable, "5.1.1 The mailbox does not exist")),
                _ => Task.FromResult(true),
            };
        }
    }

    private sealed class Store(MailCarrier carrier) : MessageStore
    {
        public override async Task<SmtpResponse> SaveAsync(ISessionContext context, IMessageTransaction transaction, ReadOnlySequence<byte> buffer, CancellationToken cancellationToken)
        {
            var fault = context.Properties.TryGetValue(FaultKey, out var kept) ? kept as Fault : null;
            if (fault?.Kind == "delay")
            {
                await Task.Delay(TimeSpan.FromSeconds(fault.Seconds), cancellationToken);
            }

            if (fault?.Kind is not ("drop" or "close"))
            {
                carrier.Keep(transaction, buffer, fault?.Kind == "junk" ? "junk" : "inbox");
            }

            if (fault?.Kind is "close" or "close-after")
            {
                ((QuickPipe)context.Pipe).Drop();
            }

            return new SmtpResponse(SmtpReplyCode.Ok, $"2.0.0 Taken as {Guid.NewGuid().ToString("N")[..10]}");
        }
    }
}
