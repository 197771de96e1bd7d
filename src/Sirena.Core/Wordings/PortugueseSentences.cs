namespace Sirena.Core.Wordings;

/// <summary>
/// Sentences that Sirena makes and keeps in English, in Portuguese: reasons, and why an answer was not taken. Names and times stand at the numbered places, in
/// the same order in both.
/// </summary>
internal static class PortugueseSentences
{
    /// <summary>Each with its own; the more special ones first.</summary>
    public static (string English, string Said)[] All { get; } =
    [
        ("you cover for {0}, for whom {1} would: {2}", "substitui {0}, em vez de {1}: {2}"),
        ("you cover for {0}: {1}", "substitui {0}: {1}"),
        ("you are named in it", "está entre as pessoas indicadas"),
        ("they are named in it", "está entre as pessoas indicadas"),
        ("you are the order's salesperson", "é responsável por esta venda"),
        ("they are the order's salesperson", "é responsável por esta venda"),
        ("you are the order's customer", "fez esta encomenda"),
        ("you are on duty for {0} at {1}", "está de serviço em {0}, {1}"),
        ("they are on duty for {0} at {1}", "está de serviço em {0}, {1}"),
        ("you are on duty for {0}", "está de serviço em {0}"),
        ("they are on duty for {0}", "está de serviço em {0}"),
        ("you are in {0}", "faz parte de {0}"),
        ("they are in {0}", "faz parte de {0}"),
        ("you manage {0}", "é responsável por {0}"),
        ("they manage {0}", "é responsável por {0}"),
        ("this address is named in it", "este endereço está indicado"),
        ("Say to whom it is passed on: a person or a team.", "Diga a quem passa: uma pessoa ou uma equipa."),
        ("It cannot be passed on to oneself.", "Não se pode passar a si próprio."),
        ("There is no person and no team '{0}'. Did you mean '{1}'?", "Não há pessoa nem equipa '{0}'. Queria dizer '{1}'?"),
        ("There is no person and no team '{0}'.", "Não há pessoa nem equipa '{0}'."),
        ("{0} was not told of this alert.", "{0} não foi avisado deste alerta."),
        (
            "{0} has it; only they, or a supervisor in their name, can say that it is done.",
            "Está com {0}; só essa pessoa, ou um supervisor em seu nome, pode dizer que está feito."
        ),
        ("{0} has it; only they, or a supervisor in their name, can pass it on.", "Está com {0}; só essa pessoa, ou um supervisor em seu nome, o pode passar."),
        ("{0} has it already.", "Já está com {0}."),
        ("{0} has it since {1}.", "Está com {0} desde {1}."),
        ("It was withdrawn: the order has moved on.", "Foi retirado: a encomenda já avançou."),
        ("It is done already, by {0}.", "Já está feito, por {0}."),
        ("It is done already.", "Já está feito."),
        (
            "It was put off twice already: take it, pass it on, or say that you cannot.",
            "Já foi adiado duas vezes: fique com ele, passe-o, ou diga que não pode."
        ),
        ("Say until when: a time that lies ahead.", "Diga até quando: uma hora que ainda está por vir."),
        ("It cannot be put off beyond the order's due time.", "Não se pode adiar para lá da hora da encomenda."),
        ("{0} taken away.", "{0} retirado."),
        ("That address is no longer there.", "Esse endereço já não existe."),
        ("Give at least one address.", "Indique pelo menos um endereço."),
        ("Nothing was added. {0}", "Nada foi acrescentado. {0}"),
        (
            "No code is waited for at this address, or five wrong ones were entered. Send a new one.",
            "Não se espera código neste endereço, ou houve cinco errados. Envie um novo."
        ),
        ("That is not the code that was sent to {0}. {1} tries are left.", "Não é o código enviado para {0}. Restam {1} tentativas."),
        ("That is not the code that was sent to {0}. Send a new one.", "Não é o código enviado para {0}. Envie um novo."),
        ("Choose an event or a rule.", "Escolha um acontecimento ou uma regra."),
        ("Opted out.", "Já não será avisado disso."),
        ("Opted in again.", "Volta a ser avisado."),
        ("Give the begin and the end of the quiet, such as 22:00 and 06:00.", "Indique o início e o fim do sossego, por exemplo 22:00 e 06:00."),
        ("Quiet hours added.", "Horas de sossego acrescentadas."),
        ("Quiet hours taken away.", "Horas de sossego retiradas."),
        ("Give the first and the last day of the leave.", "Indique o primeiro e o último dia da ausência."),
        ("Choose somebody else as cover.", "Escolha outra pessoa como substituta."),
        ("Leave added; nobody covers.", "Ausência acrescentada; ninguém substitui."),
        ("Leave added; {0} covers.", "Ausência acrescentada; {0} substitui."),
        ("Leave taken away.", "Ausência retirada."),
        ("Saved.", "Guardado."),
        ("Choose a channel.", "Escolha um canal."),
        ("A browser shows by itself that it reaches its person; no code is needed.", "Um navegador mostra por si que chega à pessoa; não é preciso código."),
        ("The code could not be sent to {0}: {1}.", "O código não pôde ser enviado para {0}: {1}."),
        ("A code is on its way to {0}. Enter it here when it has come.", "Um código vai a caminho de {0}. Introduza-o aqui quando chegar."),
        ("That is no longer there.", "Isso já não existe."),
    ];
}
