using System.Collections.Frozen;
using Sirena.Core.Orders;

namespace Sirena.Core.Wordings;

/// <summary>What the events are called in messages.</summary>
public static class EventWords
{
    private static readonly FrozenDictionary<string, string> Portuguese = new Dictionary<string, string>
    {
        ["order.placed"] = "Recebida",
        ["order.changed"] = "Alterada",
        [EventTypes.StatusChanged] = "Mudou de estado",
        ["order.held"] = "Retida",
        ["order.released"] = "Libertada",
        ["order.risk-flagged"] = "Assinalada como arriscada",
        ["order.payment-failed"] = "Pagamento falhou",
        ["order.paid"] = "Paga",
        ["order.shipped"] = "Enviada",
        ["order.cancelled"] = "Cancelada",
        ["order.refunded"] = "Reembolsada",
        ["order.approval-requested"] = "Pede aprovação",
        ["order.note-added"] = "Nota acrescentada",
        ["stock.low"] = "Stock baixo",
        ["stock.negative"] = "Stock negativo",
        ["stock.adjusted"] = "Stock corrigido",
        ["batch.closed"] = "Lote fechado",
        ["payment-card.expiring"] = "Cartão a expirar",
        ["order.overdue"] = "Atrasada",
        ["order.backlog"] = "Fila de espera",
        [EventTypes.Unreachable] = "Destinatário inalcançável",
        ["stock.changed"] = "Stock alterado",
        ["contact.received"] = "Contacto recebido",
        ["source.silent"] = "Origem em silêncio",
        ["source.back"] = "Origem de volta",
        ["source.failing"] = "Lista inacessível",
        ["source.restored"] = "Lista acessível de novo",
        ["source.doubtful"] = "Lista duvidosa",
        ["orders.missed"] = "Encomendas por comunicar",
        ["gateway.failing"] = "Canal com falha",
        ["gateway.restored"] = "Canal reposto",
        ["gateway.budget-low"] = "Orçamento baixo",
        ["delivery.failed"] = "Envio falhou",
        ["alert.taken"] = "Alerta aceite",
        ["alert.done"] = "Alerta concluído",
        ["alert.lapsed"] = "Alerta sem resposta",
        [EventTypes.RuleStorm] = "Alertas em excesso",
        [EventTypes.Undecided] = "Evento por decidir",
        [EventTypes.NoticeSent] = "Aviso",
        [EventTypes.InstructionWaits] = "Instrução à espera",
        ["instruction.refused"] = "Instrução recusada",
        ["instruction.unseen"] = "Instrução não vista",
        ["instruction.failed"] = "Instrução falhou",
        ["instruction.dropped"] = "Instrução cancelada",
        [EventTypes.IntakeClosed] = "Receção fechada",
        [EventTypes.IntakeOpened] = "Receção aberta",
    }.ToFrozenDictionary();

    /// <summary>An event's short name in a language.</summary>
    public static string Name(string type, TextLanguage language) => language.Code == "pt" ? Portuguese.GetValueOrDefault(type, type) : EventTypes.Name(type);
}
