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

    /// <summary>Serves until cancelled; may be called once for each of the carrier's servers.</summary>
    /// <param name="endpoint">Where.</param>
    /// <param name="name">The server's name in faults: <c>mail</c>, or <c>relay</c> for the second.</param>
    /// <param name="cancel">Stops it.</param>
    public Task ServeAsync(IPEndPoint endpoint, string name, CancellationToken cancel)
    {
        var options = new SmtpServerOptionsBuilder().ServerName("mail.port-averil.example").MaxRetryCount(10_000).Endpoint(e => e.Endpoint(endpoint)).Build();
        var services = new SmtpServer.ComponentModel.ServiceProvider();
        services.Add(new QuickListenerFactory(faults, name));
        services.Add((IMailboxFilter)new Filter(faults, name));
        services.Add((IMessageStore)new Store(this, faults, name));
        services.Add((ISmtpCommandFactory)new Commands(faults, name));
        return new SmtpServer.SmtpServer(options, services).StartAsync(cancel);
    }

    /// <summary>Where reports go, as the mail exchanger of the senders' domain; <see langword="null"/> sends none.</summary>
    public IPEndPoint? ReportsTo { get; set; }

    // A report as RFC 3464 says: to the envelope's sender, from nobody, with the envelope's id.
    private async Task ReportAsync(string sender, string reader, string? envelope, bool delivered)
    {
        if (ReportsTo is not { } exchanger || !sender.Contains('@', StringComparison.Ordinal))
        {
            return;
        }

        await Task.Delay(150);
        var status = new MessageDeliveryStatus();
        status.StatusGroups.Add(new HeaderList { { "Reporting-MTA", "dns; mail.port-averil.example" }, { "Original-Envelope-Id", envelope ?? "" } });
        status.StatusGroups.Add(
            new HeaderList
            {
                { "Final-Recipient", $"rfc822; {reader}" },
                { "Action", delivered ? "delivered" : "failed" },
                { "Status", delivered ? "2.1.5" : "5.1.1" },
                { "Diagnostic-Code", delivered ? "smtp; 250 2.1.5 Delivered to the mailbox" : "smtp; 550 5.1.1 The mailbox does not exist" },
            }
        );
        var report = new MimeMessage
        {
            Subject = delivered ? "Delivered" : "Returned to sender",
            Body = new MultipartReport("delivery-status")
            {
                new TextPart("plain") { Text = delivered ? "Your message was delivered." : "Your message could not be delivered." },
                status,
            },
        };
        report.From.Add(new MailboxAddress("Mail carrier", "mailer-daemon@port-averil.example"));
        report.To.Add(MailboxAddress.Parse(sender));
        for (var tries = 0; tries < 5; tries++)
        {
            try
            {
                using var client = new MailKit.Net.Smtp.SmtpClient();
                await client.ConnectAsync(exchanger.Address.ToString(), exchanger.Port, MailKit.Security.SecureSocketOptions.None);
                await client.SendAsync(report);
                await client.DisconnectAsync(true);
                return;
            }
            catch (Exception e) when (e is IOException or System.Net.Sockets.SocketException or MailKit.CommandException or MailKit.ProtocolException)
            {
                await Task.Delay(500 * (tries + 1));
            }
        }
    }

    private void Keep(IMessageTransaction transaction, ReadOnlySequence<byte> buffer, string folder)
    {
        using var stream = new MemoryStream(buffer.ToArray());
        var raw = System.Text.Encoding.UTF8.GetString(stream.ToArray());
        var mail = MimeMessage.Load(stream);
        foreach (var to in transaction.To)
        {
            var arrived = new ArrivedMail(
                DateTimeOffset.UtcNow,
                to.AsAddress(),
                transaction.From.AsAddress(),
                mail.Subject ?? "",
                mail.TextBody ?? "",
                folder,
                raw
            );
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

    /// <summary>Offers delivery status notifications (RFC 3461).</summary>
    private sealed class Commands(Faults faults, string name) : SmtpCommandFactory
    {
        public override SmtpCommand CreateEhlo(string domainOrAddress) =>
            new Offer(domainOrAddress, faults.OfServer(name, "size") is { } size ? [$"SIZE {Bytes(size)}", "DSN"] : ["DSN"]);

        private sealed class Offer(string domain, string[] more) : EhloCommand(domain)
        {
            protected override IEnumerable<string> GetExtensions(ISessionContext context) => base.GetExtensions(context).Concat(more);
        }
    }

    private static int Bytes(Fault size) => (int)(size.Seconds * 1024);

    private sealed class Filter(Faults faults, string name) : MailboxFilter
    {
        public override Task<bool> CanAcceptFromAsync(ISessionContext context, IMailbox from, int size, CancellationToken cancellationToken) =>
            faults.IsDown(name)
                ? throw new SmtpResponseException(new SmtpResponse(SmtpReplyCode.ServiceUnavailable, "4.3.2 This server is closed for maintenance"), quit: true)
            : faults.OfServer(name, "starttls") is not null
                ? throw new SmtpResponseException(new SmtpResponse((SmtpReplyCode)530, "5.7.0 Must issue a STARTTLS command first"))
            : Task.FromResult(true);

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

    private sealed class Store(MailCarrier carrier, Faults faults, string name) : MessageStore
    {
        public override async Task<SmtpResponse> SaveAsync(
            ISessionContext context,
            IMessageTransaction transaction,
            ReadOnlySequence<byte> buffer,
            CancellationToken cancellationToken
        )
        {
            if (faults.OfServer(name, "size") is { } size && buffer.Length > Bytes(size))
            {
                return new SmtpResponse((SmtpReplyCode)552, "5.3.4 Message size exceeds fixed limit");
            }

            var fault = context.Properties.TryGetValue(FaultKey, out var kept) ? kept as Fault : null;
            if (fault?.Kind == "delay")
            {
                await Task.Delay(TimeSpan.FromSeconds(fault.Seconds), cancellationToken);
            }

            if (fault?.Kind is not ("drop" or "close") && transaction.Parameters.TryGetValue("ENVID", out var envelope))
            {
                _ = carrier.ReportAsync(transaction.From.AsAddress(), transaction.To[0].AsAddress(), envelope, delivered: fault?.Kind != "bounce");
            }

            if (fault?.Kind is not ("drop" or "close" or "bounce"))
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
