using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;

namespace Sirena.Core.Wordings;

/// <summary>How values read in a language. Nothing of it depends on what the machine has installed.</summary>
public sealed class TextLanguage
{
    private readonly string[] days;
    private readonly string[] months;
    private readonly NumberFormatInfo numbers;
    private readonly Dictionary<string, string> words;
    private readonly (Regex English, string Said)[] sentences;

    private TextLanguage(
        string code,
        string name,
        string[] days,
        string[] months,
        string group,
        string point,
        Dictionary<string, string> words,
        (string English, string Said)[] sentences
    )
    {
        (Code, Name, this.days, this.months, this.words) = (code, name, days, months, words);
        this.sentences = [.. sentences.Select(s => (Pattern(s.English), s.Said))];
        numbers = new NumberFormatInfo
        {
            NumberGroupSeparator = group,
            NumberDecimalSeparator = point,
            NegativeSign = "-",
        };
    }

    /// <summary>English.</summary>
    public static TextLanguage En { get; } =
        new(
            "en",
            "English",
            ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"],
            ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"],
            ",",
            ".",
            [],
            []
        );

    /// <summary>Portuguese.</summary>
    public static TextLanguage Pt { get; } =
        new(
            "pt",
            "Português",
            ["seg", "ter", "qua", "qui", "sex", "sáb", "dom"],
            ["jan", "fev", "mar", "abr", "mai", "jun", "jul", "ago", "set", "out", "nov", "dez"],
            ".",
            ",",
            new()
            {
                ["yes"] = "sim",
                ["no"] = "não",
                ["in {0}"] = "em {0}",
                ["{0} ago"] = "há {0}",
                ["{0} over"] = "{0} de atraso",
                ["you"] = "você",
                ["on duty"] = "de serviço",
                ["taken"] = "aceite",
                ["burnt out"] = "sem resposta",
                ["urgent"] = "urgente",
                ["routine"] = "rotina",
                ["prompt"] = "sem demora",
                ["mail"] = "e-mail",
                ["team chat"] = "chat da equipa",
                ["screen"] = "ecrã",
                ["ticket printer"] = "impressora de talões",
                ["open"] = "em aberto",
                ["lapsed"] = "sem resposta",
                ["done"] = "feito",
                ["withdrawn"] = "retirado",
                ["waiting"] = "em espera",
                ["sending"] = "a enviar",
                ["handed over"] = "entregue ao canal",
                ["landed"] = "chegou",
                ["answered"] = "respondido",
                ["failed"] = "falhou",
                ["expired"] = "expirou",
                ["skipped"] = "omitido",
                ["low"] = "baixo",
                ["medium"] = "médio",
                ["high"] = "alto",
                ["days"] = "dias",
                ["day"] = "dia",
                ["Quantity"] = "Quantidade",
                ["Article"] = "Artigo",
                ["To follow"] = "Segue depois",
                ["Price"] = "Preço",
                ["Order confirmation"] = "Confirmação de encomenda",
                ["Shipping note"] = "Guia de remessa",
                ["Picking list"] = "Lista de recolha",
                ["Order"] = "Encomenda",
                ["Customer"] = "Cliente",
                ["Due"] = "Para",
                ["Total"] = "Total",
                ["Site"] = "Local",
                ["Page"] = "Página",
                ["of"] = "de",
                ["Now"] = "Agora",
                ["Follows later"] = "Segue mais tarde",
                ["To pick"] = "A recolher",
                ["Ordered"] = "Encomendado",
                ["Shipped"] = "Enviado",
                ["Nothing is left to pick here."] = "Aqui já não falta nada.",
                ["Everything is in this shipment."] = "Tudo vai nesta remessa.",
            },
            PortugueseSentences.All
        );

    /// <summary>The languages that ship.</summary>
    public static IReadOnlyList<TextLanguage> All { get; } = [En, Pt];

    /// <summary>The language's code.</summary>
    public string Code { get; }

    /// <summary>Its own name.</summary>
    public string Name { get; }

    /// <summary>The language of a code such as <c>pt-PT</c>; English for any that does not ship.</summary>
    public static TextLanguage Of(string? code) =>
        All.FirstOrDefault(l =>
            code is not null && (code.Equals(l.Code, StringComparison.OrdinalIgnoreCase) || code.StartsWith(l.Code + "-", StringComparison.OrdinalIgnoreCase))
        ) ?? En;

    /// <summary>A fixed word in it; the English one where it has none.</summary>
    public string Word(string english) => words.GetValueOrDefault(english, english);

    /// <summary>A fixed word with a place for a value, such as <c>{0} ago</c>, in it.</summary>
    public string Word(string english, string value) => string.Format(CultureInfo.InvariantCulture, Word(english), value);

    /// <summary>
    /// A sentence that Sirena made and keeps in English, such as why somebody is told, in it: with the same names, times and figures. One that it does not know
    /// stays as it is.
    /// </summary>
    public string Say(string english)
    {
        foreach (var (pattern, said) in sentences)
        {
            if (pattern.Match(english) is { Success: true } match)
            {
                return string.Format(CultureInfo.InvariantCulture, said, [.. match.Groups.Values.Skip(1).Select(g => Say(g.Value))]);
            }
        }

        return english;
    }

    /// <summary>A day of the week: <c>Tue</c>.</summary>
    public string Weekday(LocalDate day) => days[(int)day.DayOfWeek - 1];

    /// <summary>A day of the year: <c>24 Nov</c>.</summary>
    public string DayOfYear(LocalDate day) => $"{day.Day} {months[day.Month - 1]}";

    /// <summary>A number: <c>1,284.5</c>.</summary>
    public string Number(decimal value) => value.ToString("#,##0.############", numbers);

    /// <summary>An amount: <c>1,284.50 EUR</c>.</summary>
    public string Money(decimal amount, string currency) => $"{Figure(amount)} {currency}".TrimEnd();

    /// <summary>An amount without its currency.</summary>
    public string Figure(decimal amount) => amount.ToString("#,##0.00##", numbers);

    /// <summary>A day: <c>Tue 24 Nov</c>.</summary>
    public string Date(LocalDate day) => $"{Weekday(day)} {DayOfYear(day)}";

    /// <summary>A time of the day: <c>16:30</c>.</summary>
    public static string Time(LocalTime time) => time.ToString("HH:mm", CultureInfo.InvariantCulture);

    /// <summary>A day and a time: <c>Tue 24 Nov, 16:30</c>.</summary>
    public string Moment(ZonedDateTime at) => $"{Date(at.Date)}, {Time(at.TimeOfDay)}";

    /// <summary>A length of time: <c>3 h 20 min</c>, <c>2 days 4 h</c>.</summary>
    public string Span(Duration span)
    {
        var d = span < Duration.Zero ? -span : span;
        List<string> parts =
            d.TotalDays >= 1 ? [$"{(int)d.TotalDays} {Word((int)d.TotalDays == 1 ? "day" : "days")}", d.Hours > 0 ? $"{d.Hours} h" : ""]
            : d.TotalHours >= 1 ? [$"{d.Hours} h", d.Minutes > 0 ? $"{d.Minutes} min" : ""]
            : d.TotalMinutes >= 1 ? [$"{d.Minutes} min"]
            : [$"{(int)d.TotalSeconds} s"];
        return string.Join(' ', parts.Where(p => p.Length > 0));
    }

    /// <summary>How far off a moment is: <c>in 3 h 20 min</c>, <c>20 min ago</c>.</summary>
    public string Until(Duration ahead) =>
        Word(ahead >= Duration.Zero ? "in {0}" : "{0} ago", Span(ahead));

    // 'you are in {0}': what stands at a place is whatever is there, the shortest that fits.
    private static Regex Pattern(string english) =>
        new(
            $"^{string.Join("(.+?)", Regex.Split(english, @"\{\d\}").Select(Regex.Escape))}$",
            RegexOptions.CultureInvariant | RegexOptions.Singleline | RegexOptions.NonBacktracking
        );
}
