using MimeKit;
using Sirena.Channels.Mail;

namespace Sirena.Engine.Tests;

/// <summary>What a report about a mail says.</summary>
public sealed class MailReportTests
{
    [Theory]
    [InlineData("2.1.5", "smtp; 250 2.1.5 Ok", "delivered", ReportAction.Delivered, "250 2.1.5 Ok")]
    [InlineData("5.1.1", "smtp; 550 5.1.1 Nobody here", "failed", ReportAction.Failed, "550 5.1.1 Nobody here")]
    [InlineData("5.0.0", "smtp; 550 Nobody here", "failed", ReportAction.Failed, "5.0.0 550 Nobody here")]
    [InlineData("4.4.1", null, "delayed", ReportAction.Delayed, "4.4.1")]
    [InlineData(null, null, "failed", ReportAction.Failed, "failed")]
    public void It_says_the_status_once(string? status, string? diagnostic, string action, ReportAction read, string words)
    {
        var report = new MessageDeliveryStatus();
        report.StatusGroups.Add(new HeaderList { { "Reporting-MTA", "dns; mx.example" } });
        var group = new HeaderList { { "Final-Recipient", "rfc822; a@b.example" }, { "Action", action } };
        if (status is not null)
        {
            group.Add("Status", status);
        }

        if (diagnostic is not null)
        {
            group.Add("Diagnostic-Code", diagnostic);
        }

        report.StatusGroups.Add(group);
        Assert.Equal(
            new MailReport(read, words),
            MailReport.Read(
                new MimeMessage
                {
                    Body = new MultipartReport("delivery-status")
                    {
                        new TextPart("plain") { Text = "." },
                        report,
                    },
                }
            )
        );
    }
}
