namespace Sirena.Core.Wordings;

public static partial class ShippedWordings
{
    private static WordingParts Note(string subject, string text) =>
        new()
        {
            Subject = subject,
            Text = text + "\n",
            Sms = $"{subject}: {text}",
            Chat = $"{subject}: {text}",
            Push = $"{subject}: {text}",
            Screen = $"{subject}\n{text}",
        };

    private static WordingParts NoticeParts(TextLanguage l) =>
        new()
        {
            Subject = "{{notice.headline}}",
            Text = "{{notice.text}}\n\n" + l.Text("Sent by {{notice.from}}") + "\n",
            Sms = "{{notice.headline}}{{#notice.text}}. {{notice.text}}{{/notice.text}}{{#answer.code}} OK {{answer.code}}{{/answer.code}}",
            Chat = "{{notice.headline}}\n{{notice.text}}",
            Push = "{{notice.headline}}. {{notice.text}}",
            Screen = "{{notice.headline}}\n{{notice.text}}",
        };
}
