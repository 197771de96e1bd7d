using Sirena.Core.Sources;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Sources;

/// <summary>What is proposed for bodies at the edges of what decides: the whole proposal, with its reasons.</summary>
public sealed class ProposalBookTests
{
    /// <summary>What it is about; the bodies; whether they are rows; what is proposed, a line each.</summary>
    public static TheoryData<string, string[], bool, string> Book =>
        new()
        {
            {
                "the number nearer to the root of two equal ones",
                ["""{"x":{"order":{"number":"A-1"}},"order":{"number":"B-1"}}""", """{"x":{"order":{"number":"A-2"}},"order":{"number":"B-2"}}"""],
                false,
                """
                    order.number <- $.order.number | It is called 'number', is there in 2 of 2 bodies, and is never the same twice: 'B-1', 'B-2'.
                    """
            },
            {
                "an id that is always the same is beaten by one that differs",
                ["""{"id":"S1","ref":"A-1"}""", """{"id":"S1","ref":"A-2"}""", """{"id":"S1","ref":"A-3"}"""],
                false,
                """
                    order.number <- $.ref | It is called 'ref', is there in 3 of 3 bodies, and is never the same twice: 'A-1', 'A-2'.
                    """
            },
            {
                "nine of ten with a digit",
                [.. Enumerable.Range(0, 10).Select(n => $$"""{"orderNumber":"{{(n == 0 ? "none" : "A" + n)}}"}""")],
                false,
                """
                    order.number <- $.orderNumber | It is called 'orderNumber', is there in 10 of 10 bodies, and is never the same twice: 'none', 'A1'.
                    """
            },
            { "eight of ten with a digit", [.. Enumerable.Range(0, 10).Select(n => $$"""{"orderNumber":"{{(n < 2 ? "none" : "A" + n)}}"}""")], false, "" },
            {
                "sixty characters",
                [$$"""{"orderNumber":"{{new string('7', 60)}}"}"""],
                false,
                """
                    order.number <- $.orderNumber | It is called 'orderNumber': '7777777777777777777777777777777777777777'.
                    """
            },
            { "sixty-one characters", [$$"""{"orderNumber":"{{new string('7', 61)}}"}"""], false, "" },
            {
                "a customer's number is none of an order",
                ["""{"customerNumber":"C-1","weight":3}"""],
                false,
                """
                    order.customer.code <- $.customerNumber | It is called 'customerNumber': 'C-1'.
                    """
            },
            {
                "an order's number that the customer gave",
                ["""{"customerOrderNumber":"C-1"}"""],
                false,
                """
                    order.number <- $.customerOrderNumber | It is called 'customerOrderNumber': 'C-1'.
                    """
            },
            {
                "a number with a space and a digit",
                ["""{"orderNumber":"AQ 1"}"""],
                false,
                """
                    order.number <- $.orderNumber | It is called 'orderNumber': 'AQ 1'.
                    """
            },
            { "words with a space, an address", ["""{"orderNumber":"no digits"}""", """{"orderNumber":"a1@b.example"}"""], false, "" },
            {
                "one strange word of a status",
                ["""{"orderNo":"1","status":"Received"}""", """{"orderNo":"2","status":"Dreaming"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    order.status <- $.status | 1 of its 2 words are a status's; no status has the word 'Dreaming' yet.
                    """
            },
            {
                "seven strange words of a status",
                Many(8, n => $$"""{"orderNo":"{{n}}","state":"{{(n == 1 ? "KOMM" : "Word" + (char)('a' + n))}}"}"""),
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 8 of 8 bodies, and is never the same twice: '1', '2'.
                    order.status <- $.state | 1 of its 8 words are a status's; no status has the words 'Wordc', 'Wordd', 'Worde', 'Wordf', 'Wordg', 'Wordh' yet.
                    """
            },
            {
                "two known words without a name that says so",
                ["""{"orderNo":"1","b":"Received"}""", """{"orderNo":"2","b":"KOMM"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    order.status <- $.b | 2 of its 2 words are a status's.
                    """
            },
            {
                "one known word without a name that says so",
                ["""{"orderNo":"1","b":"Received"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    """
            },
            {
                "a status of digits alone",
                ["""{"orderNo":"1","status":"10"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.status <- $.status | Its one word is a status's.
                    """
            },
            {
                "words for what happened and words for the status",
                ["""{"orderNo":"1","what":"created","status":"cancelled"}""", """{"orderNo":"2","what":"banana","status":"Received"}"""],
                false,
                """
                    event <- $.what created=order.placed | 'what' says what happened: created is order.placed. Not known: banana.
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    order.status <- $.status | 2 of its 2 words are a status's.
                    """
            },
            {
                "every word known, though nothing is called so",
                ["""{"orderNo":"1","q":"shipped"}""", """{"orderNo":"2","q":"ping"}"""],
                false,
                """
                    event <- $.q ping=ignore, shipped=order.shipped | 'q' says what happened: shipped is order.shipped, ping is ignore.
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "one word of two known, and nothing is called so",
                ["""{"orderNo":"1","q":"shipped"}""", """{"orderNo":"2","q":"banana"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 2 of 2 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "thirty-one words are too many for what happened",
                Many(31, n => $$"""{"orderNo":"{{n}}","event":"hold {{n}}"}"""),
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 31 of 31 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "six unknown words beside a known one",
                Many(7, n => $$"""{"orderNo":"{{n}}","event":"{{(n == 7 ? "placed" : "w" + (char)('a' + n))}}"}"""),
                false,
                """
                    event <- $.event placed=order.placed | 'event' says what happened: placed is order.placed. Not known: wb, wc, wd, we, wf.
                    order.number <- $.orderNo | It is called 'orderNo', is there in 7 of 7 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "due, placed and sent",
                ["""{"orderNo":"1","deliverBy":"2026-11-24T15:30","date":"2026-11-20","timestamp":"2026-11-20T10:00:00Z","updated":"2026-11-21T10:00:00Z"}"""],
                false,
                """
                    time <- $.timestamp | It is called 'timestamp', and its values are times of RFC 3339.
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.placedAt <- $.date in Europe/Lisbon | It is called 'date', and its values are times of ISO 8601 without an offset.
                    order.dueAt <- $.deliverBy in Europe/Lisbon | It is called 'deliverBy', and its values are times of ISO 8601 without an offset.
                    """
            },
            {
                "a time of day that is called due and is none",
                ["""{"orderNo":"1","due":"soon","until":"2026-11-24T15:30:00+01:00"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.dueAt <- $.until | It is called 'until', and its values are times of RFC 3339.
                    """
            },
            {
                "rows have no time of their own",
                [
                    """{"No":"1","Due":"24.12.2026","Sent":"2026-11-20T10:00:00Z","Total":"1.284,50","Cur":"EUR"}""",
                    """{"No":"2","Due":"03.12.2026","Sent":"2026-11-21T10:00:00Z","Total":"3,00","Cur":"GBP"}""",
                ],
                true,
                """
                    order.number <- column No | It is called 'No', is there in 2 of 2 rows, and is never the same twice: '1', '2'.
                    order.dueAt <- column Due as dd.MM.uuuu in Europe/Lisbon | It is called 'Due', and the day stands first: '24.12.2026' leaves no other way.
                    order.total <- column Total with , | It is called 'Total', and its decimals stand behind a comma, as in '1.284,50'.
                    order.currency <- column Cur | Every value is a code of ISO 4217: 'EUR', 'GBP'.
                    """
            },
            {
                "two lists, one of orders",
                [
                    """{"event":"updated","tags":[{"id":"t1"}],"orders":[{"id":"A-1","customer":{"name":"Tarn"},"total":"3"},{"id":"A-2","customer":{"name":"Corvane"},"total":"4"}]}""",
                ],
                false,
                """
                    event <- $.event updated=order.changed | 'event' says what happened: updated is order.changed.
                    each <- $.orders[*] | $.orders[*] is a list whose items carry what tells one order from another.
                    order.number <- $.id | It is called 'id', is there in 2 of 2 orders, and is never the same twice: 'A-1', 'A-2'.
                    order.total <- $.total | It is called 'total', and its values are numbers.
                    order.customer.name <- $.customer.name | It is called 'name' in $.orders[*].customer.name: 'Tarn', 'Corvane'.
                    """
            },
            {
                "an order whose lines have numbers",
                [
                    """{"orderNumber":"A-1","status":"Received","items":[{"no":1,"sku":"S1","qty":2,"price":"3.50","description":"Rope"},{"no":2,"sku":"S2","qty":1,"price":"4.00","description":"Cleat"}]}""",
                ],
                false,
                """
                    order.number <- $.orderNumber | It is called 'orderNumber': 'A-1'.
                    order.status <- $.status | Its one word is a status's.
                    lines <- $.items[*] | $.items[*] is a list with 'sku' as article number, 'description' as title, 'qty' as quantity, 'price' as unit price.
                      sku <- $.sku
                      title <- $.description
                      quantity <- $.qty
                      unitPrice <- $.price
                    """
            },
            {
                "lines within several orders",
                [
                    """{"orders":[{"number":"A-1","status":"Received","rows":[{"sku":"S1","qty":2}]},{"number":"A-2","status":"Picking","rows":[{"sku":"S2","qty":1}]}]}""",
                ],
                false,
                """
                    each <- $.orders[*] | $.orders[*] is a list whose items carry what tells one order from another.
                    order.number <- $.number | It is called 'number', is there in 2 of 2 orders, and is never the same twice: 'A-1', 'A-2'.
                    order.status <- $.status | 2 of its 2 words are a status's.
                    lines <- $.rows[*] | $.orders[*].rows[*] is a list with 'sku' as article number, 'qty' as quantity.
                      sku <- $.sku
                      quantity <- $.qty
                    """
            },
            {
                "stock and risk",
                ["""{"event":"fraud","orderNo":"1","risk":{"score":"0,75","level":"high"},"stock":4,"minimum":"12"}"""],
                false,
                """
                    event <- $.event fraud=order.risk-flagged | 'event' says what happened: fraud is order.risk-flagged.
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.risk.level <- $.risk.level | It is called 'level' in $.risk.level: 'high'.
                    order.risk.score <- $.risk.score with , | It is called 'score', and its decimals stand behind a comma, as in '0,75'.
                    stock.onHand <- $.stock | It is called 'stock', and its values are numbers.
                    stock.threshold <- $.minimum | It is called 'minimum', and its values are numbers.
                    """
            },
            {
                "people and words of an order",
                [
                    """{"orderNo":"1","customer":{"id":"C7","company":"Tarn Ltd","group":"gold","mail":"purser@tarn.example","tel":"+447700900123"},"billing":{"mail":"bills@tarn.example"},"lang":"pt","rep":"odile","payment":{"method":"card","status":"unpaid"},"hold":{"reason":"limit"},"channel":"web","warehouse":"N"}""",
                ],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.via <- $.channel | It is called 'channel': 'web'.
                    order.customer.code <- $.customer.id | It is called 'id' in $.customer.id: 'C7'.
                    order.customer.name <- $.customer.company | It is called 'company' in $.customer.company: 'Tarn Ltd'.
                    order.customer.group <- $.customer.group | It is called 'group' in $.customer.group: 'gold'.
                    order.customer.email <- $.customer.mail | Every value is a mail address: 'purser@tarn.example'.
                    order.customer.phone <- $.customer.tel | Every value is a phone number with its country: '+447700900123'.
                    order.customer.language <- $.lang | It is called 'lang': 'pt'.
                    order.salesperson <- $.rep | It is called 'rep': 'odile'.
                    order.site <- $.warehouse | It is called 'warehouse': 'N'.
                    order.payment.method <- $.payment.method | It is called 'method' in $.payment.method: 'card'.
                    order.payment.state <- $.payment.status | It is called 'status' in $.payment.status: 'unpaid'.
                    order.hold.reason <- $.hold.reason | It is called 'reason' in $.hold.reason: 'limit'.
                    """
            },
            {
                "a phone without its country is a text",
                ["""{"orderNo":"1","phone":"07700900123","currency":"EURO","value":"12"}"""],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': '1'.
                    order.total <- $.value | It is called 'value', and its values are numbers.
                    """
            },
            {
                "fifty bodies at most",
                Many(60, n => $$"""{"orderNo":"{{n}}","b{{n}}":1}"""),
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo', is there in 50 of 50 bodies, and is never the same twice: '1', '2'.
                    """
            },
            {
                "a hundred items of a list at most",
                [
                    $$"""{"orders":[{{string.Join(',', Many(150, n => $$"""{"orderNumber":"A{{n}}","status":"{{(n > 100 ? "Dreaming" : "Received")}}"}"""))}}]}""",
                ],
                false,
                """
                    each <- $.orders[*] | $.orders[*] is a list whose items carry what tells one order from another.
                    order.number <- $.orderNumber | It is called 'orderNumber', is there in 100 of 100 orders, and is never the same twice: 'A1', 'A2'.
                    order.status <- $.status | Its one word is a status's.
                    """
            },
            {
                "a customer's own number stands under the customer",
                ["""{"customer":{"number":"C-1"},"no":17}"""],
                false,
                """
                    order.number <- $.no | It is called 'no': '17'.
                    order.customer.code <- $.customer.number | It is called 'number' in $.customer.number: 'C-1'.
                    """
            },
            {
                "the state of a payment is none of the order",
                ["""{"payment":{"status":"unpaid"},"address":{"state":"CA"},"no":"17","status":"packing"}"""],
                false,
                """
                    order.number <- $.no | It is called 'no': '17'.
                    order.status <- $.status | No status has the word 'packing' yet.
                    order.payment.state <- $.payment.status | It is called 'status' in $.payment.status: 'unpaid'.
                    """
            },
            {
                "digits that are called a status",
                ["""{"no":"17","status":"10","stage":"3"}""", """{"no":"18","status":"99","stage":"4"}"""],
                false,
                """
                    order.number <- $.no | It is called 'no', is there in 2 of 2 bodies, and is never the same twice: '17', '18'.
                    order.status <- $.status | 1 of its 2 words are a status's; no status has the word '99' yet.
                    """
            },
            {
                "words of a status that nobody knows yet are no events",
                ["""{"no":"17","status":"new"}""", """{"no":"18","status":"shipped"}"""],
                false,
                """
                    order.number <- $.no | It is called 'no', is there in 2 of 2 bodies, and is never the same twice: '17', '18'.
                    order.status <- $.status | No status has the words 'new', 'shipped' yet.
                    """
            },
            {
                "what stands alone says too little",
                ["""{"no":"17","id":"S1","type":"x","reason":"limit","name":"Tarn","level":"high","method":"card","group":"g"}"""],
                false,
                """
                    order.number <- $.id | It is called 'id': 'S1'.
                    """
            },
            {
                "an order in Portuguese",
                [
                    """{"encomenda":{"numero":"E-1","estado":"Em preparação","cliente":{"codigo":"C1","nome":"Tarn","telefone":"+351912345678"},"entrega":"30/05/2026 09:30","data":"24/05/2026","valor":"1.076,00","moeda":"EUR","linhas":[{"artigo":"A","quantidade":"2","preco":"3,5","descricao":"Corda"}]}}""",
                ],
                false,
                """
                    order.number <- $.encomenda.numero | It is called 'numero': 'E-1'.
                    order.status <- $.encomenda.estado | No status has the word 'Em preparação' yet.
                    order.placedAt <- $.encomenda.data as dd/MM/uuuu in Europe/Lisbon | It is called 'data', and the day stands first: '24/05/2026' leaves no other way.
                    order.dueAt <- $.encomenda.entrega as dd/MM/uuuu HH:mm in Europe/Lisbon | It is called 'entrega', and the day stands first: '30/05/2026 09:30' leaves no other way.
                    order.total <- $.encomenda.valor with , | It is called 'valor', and its decimals stand behind a comma, as in '1.076,00'.
                    order.currency <- $.encomenda.moeda | Every value is a code of ISO 4217: 'EUR'.
                    order.customer.code <- $.encomenda.cliente.codigo | It is called 'codigo' in $.encomenda.cliente.codigo: 'C1'.
                    order.customer.name <- $.encomenda.cliente.nome | It is called 'nome' in $.encomenda.cliente.nome: 'Tarn'.
                    order.customer.phone <- $.encomenda.cliente.telefone | Every value is a phone number with its country: '+351912345678'.
                    lines <- $.encomenda.linhas[*] | $.encomenda.linhas[*] is a list with 'artigo' as article number, 'descricao' as title, 'quantidade' as quantity, 'preco' as unit price.
                      sku <- $.artigo
                      title <- $.descricao
                      quantity <- $.quantidade
                      unitPrice <- $.preco with ,
                    """
            },
            {
                "an order in Dutch",
                [
                    """{"bestelling":{"nummer":"B-1","status":"in behandeling","klant":{"naam":"Tarn","klantnummer":"K1"},"leverdatum":"30-05-2026","totaal":"1076,50","valuta":"EUR","regels":[{"artikel":"A","aantal":2,"prijs":"3,50","omschrijving":"Touw"}]}}""",
                ],
                false,
                """
                    order.number <- $.bestelling.nummer | It is called 'nummer': 'B-1'.
                    order.status <- $.bestelling.status | No status has the word 'in behandeling' yet.
                    order.dueAt <- $.bestelling.leverdatum as dd-MM-uuuu in Europe/Lisbon | It is called 'leverdatum', and the day stands first: '30-05-2026' leaves no other way.
                    order.total <- $.bestelling.totaal with , | It is called 'totaal', and its decimals stand behind a comma, as in '1076,50'.
                    order.currency <- $.bestelling.valuta | Every value is a code of ISO 4217: 'EUR'.
                    order.customer.code <- $.bestelling.klant.klantnummer | It is called 'klantnummer' in $.bestelling.klant.klantnummer: 'K1'.
                    order.customer.name <- $.bestelling.klant.naam | It is called 'naam' in $.bestelling.klant.naam: 'Tarn'.
                    lines <- $.bestelling.regels[*] | $.bestelling.regels[*] is a list with 'artikel' as article number, 'omschrijving' as title, 'aantal' as quantity, 'prijs' as unit price.
                      sku <- $.artikel
                      title <- $.omschrijving
                      quantity <- $.aantal
                      unitPrice <- $.prijs with ,
                    """
            },
            {
                "an order in French",
                [
                    """{"commande":{"numero":"C-1","etat":"expédiée","client":{"nom":"Tarn","code":"K1"},"livraison":"30/05/2026","montant":"1 076,50","devise":"EUR","lignes":[{"article":"A","quantite":2,"prix":"3,50","designation":"Corde"}]}}""",
                ],
                false,
                """
                    order.number <- $.commande.numero | It is called 'numero': 'C-1'.
                    order.status <- $.commande.etat | No status has the word 'expédiée' yet.
                    order.dueAt <- $.commande.livraison as dd/MM/uuuu in Europe/Lisbon | It is called 'livraison', and the day stands first: '30/05/2026' leaves no other way.
                    order.total <- $.commande.montant with , | It is called 'montant', and its decimals stand behind a comma, as in '1 076,50'.
                    order.currency <- $.commande.devise | Every value is a code of ISO 4217: 'EUR'.
                    order.customer.code <- $.commande.client.code | It is called 'code' in $.commande.client.code: 'K1'.
                    order.customer.name <- $.commande.client.nom | It is called 'nom' in $.commande.client.nom: 'Tarn'.
                    lines <- $.commande.lignes[*] | $.commande.lignes[*] is a list with 'article' as article number, 'designation' as title, 'quantite' as quantity, 'prix' as unit price.
                      sku <- $.article
                      title <- $.designation
                      quantity <- $.quantite
                      unitPrice <- $.prix with ,
                    """
            },
            {
                "an order in Spanish",
                [
                    """{"pedido":{"numero":"P-1","estado":"retenido","cliente":{"nombre":"Tarn","codigo":"K1"},"fechaEntrega":"30/05/2026","importe":"1.076,50","moneda":"EUR","lineas":[{"articulo":"A","cantidad":2,"precio":"3,50","descripcion":"Cuerda"}]}}""",
                ],
                false,
                """
                    order.number <- $.pedido.numero | It is called 'numero': 'P-1'.
                    order.status <- $.pedido.estado | No status has the word 'retenido' yet.
                    order.dueAt <- $.pedido.fechaEntrega as dd/MM/uuuu in Europe/Lisbon | It is called 'fechaEntrega', and the day stands first: '30/05/2026' leaves no other way.
                    order.total <- $.pedido.importe with , | It is called 'importe', and its decimals stand behind a comma, as in '1.076,50'.
                    order.currency <- $.pedido.moneda | Every value is a code of ISO 4217: 'EUR'.
                    order.customer.code <- $.pedido.cliente.codigo | It is called 'codigo' in $.pedido.cliente.codigo: 'K1'.
                    order.customer.name <- $.pedido.cliente.nombre | It is called 'nombre' in $.pedido.cliente.nombre: 'Tarn'.
                    lines <- $.pedido.lineas[*] | $.pedido.lineas[*] is a list with 'articulo' as article number, 'descripcion' as title, 'cantidad' as quantity, 'precio' as unit price.
                      sku <- $.articulo
                      title <- $.descripcion
                      quantity <- $.cantidad
                      unitPrice <- $.precio with ,
                    """
            },
            {
                "an order in Italian",
                [
                    """{"ordine":{"numero":"O-1","stato":"sospeso","cliente":{"nome":"Tarn"},"consegna":"30/05/2026","totale":"1.076,50","valuta":"EUR","righe":[{"articolo":"A","quantita":2,"prezzo":"3,50","descrizione":"Corda"}]}}""",
                ],
                false,
                """
                    order.number <- $.ordine.numero | It is called 'numero': 'O-1'.
                    order.status <- $.ordine.stato | No status has the word 'sospeso' yet.
                    order.dueAt <- $.ordine.consegna as dd/MM/uuuu in Europe/Lisbon | It is called 'consegna', and the day stands first: '30/05/2026' leaves no other way.
                    order.total <- $.ordine.totale with , | It is called 'totale', and its decimals stand behind a comma, as in '1.076,50'.
                    order.currency <- $.ordine.valuta | Every value is a code of ISO 4217: 'EUR'.
                    order.customer.name <- $.ordine.cliente.nome | It is called 'nome' in $.ordine.cliente.nome: 'Tarn'.
                    lines <- $.ordine.righe[*] | $.ordine.righe[*] is a list with 'articolo' as article number, 'descrizione' as title, 'quantita' as quantity, 'prezzo' as unit price.
                      sku <- $.articolo
                      title <- $.descrizione
                      quantity <- $.quantita
                      unitPrice <- $.prezzo with ,
                    """
            },
            {
                "an order in German, in capitals",
                [
                    """{"BELEGNR":"4500012","KUNDENNR":"C7","LIEFERDATUM":"20261130","ANGELEGT":"20261124","STAT":"REL","BETRAG":"1076.00","WAEHRUNG":"EUR","POSITIONEN":[{"ARTIKELNR":"X1","MENGE":"2.000","EINHEIT":"ST","BEZEICHNUNG":"Tau"}]}""",
                ],
                false,
                """
                    order.number <- $.BELEGNR | It is called 'BELEGNR': '4500012'.
                    order.status <- $.STAT | No status has the word 'REL' yet.
                    order.placedAt <- $.ANGELEGT as uuuuMMdd in Europe/Lisbon | It is called 'ANGELEGT', and its values have the form uuuuMMdd.
                    order.dueAt <- $.LIEFERDATUM as uuuuMMdd in Europe/Lisbon | It is called 'LIEFERDATUM', and its values have the form uuuuMMdd.
                    order.total <- $.BETRAG | It is called 'BETRAG', and its values are numbers.
                    order.currency <- $.WAEHRUNG | Every value is a code of ISO 4217: 'EUR'.
                    order.customer.code <- $.KUNDENNR | It is called 'KUNDENNR': 'C7'.
                    lines <- $.POSITIONEN[*] | $.POSITIONEN[*] is a list with 'ARTIKELNR' as article number, 'BEZEICHNUNG' as title, 'MENGE' as quantity.
                      sku <- $.ARTIKELNR
                      title <- $.BEZEICHNUNG
                      quantity <- $.MENGE
                    """
            },
            {
                "an event around it has an id of its own",
                [
                    """{"id":"evt_77","type":"order","action":"update","created":1795534200,"data":{"object":{"id":"A-1","status":"open","amount_total":128450,"currency":"eur","customer_details":{"email":"a@b.example","name":"Tarn"}}}}""",
                ],
                false,
                """
                    event <- $.action update=order.changed | 'action' says what happened: update is order.changed.
                    order.number <- $.data.object.id | It is called 'id': 'A-1'.
                    order.status <- $.data.object.status | No status has the word 'open' yet.
                    order.placedAt <- $.created as epoch-seconds | It is called 'created', and its values are seconds since 1970.
                    order.total <- $.data.object.amount_total | It is called 'amount_total', and its values are numbers.
                    order.currency <- $.data.object.currency | Every value is a code of ISO 4217: 'eur'.
                    order.customer.name <- $.data.object.customer_details.name | It is called 'name' in $.data.object.customer_details.name: 'Tarn'.
                    order.customer.email <- $.data.object.customer_details.email | Every value is a mail address: 'a@b.example'.
                    """
            },
            {
                "a list of nodes",
                [
                    """{"orders":{"edges":[{"node":{"number":"A-1","status":"Received","customer":{"name":"Tarn"}}},{"node":{"number":"A-2","status":"Picking","customer":{"name":"Corvane"}}}]}}""",
                ],
                false,
                """
                    each <- $.orders.edges[*] | $.orders.edges[*] is a list whose items carry what tells one order from another.
                    order.number <- $.node.number | It is called 'number', is there in 2 of 2 orders, and is never the same twice: 'A-1', 'A-2'.
                    order.status <- $.node.status | 2 of its 2 words are a status's.
                    order.customer.name <- $.node.customer.name | It is called 'name' in $.orders.edges[*].node.customer.name: 'Tarn', 'Corvane'.
                    """
            },
            {
                "a body that is a list",
                ["""[{"number":"A-1","status":"Received"},{"number":"A-2","status":"Picking"}]"""],
                false,
                """
                    each <- $[*] | $[*] is a list whose items carry what tells one order from another.
                    order.number <- $.number | It is called 'number', is there in 2 of 2 orders, and is never the same twice: 'A-1', 'A-2'.
                    order.status <- $.status | 2 of its 2 words are a status's.
                    """
            },
            {
                "a list within a member, and articles called items",
                ["""{"order":{"no":"A-1","lines":{"line":[{"item":"S1","qty":"2","desc":"Rope"},{"item":"S2","qty":"1","desc":"Tar"}]}}}"""],
                false,
                """
                    order.number <- $.order.no | It is called 'no': 'A-1'.
                    lines <- $.order.lines.line[*] | $.order.lines.line[*] is a list with 'item' as article number, 'desc' as title, 'qty' as quantity.
                      sku <- $.item
                      title <- $.desc
                      quantity <- $.qty
                    """
            },
            {
                "an amount with its currency",
                [
                    """{"orderRef":"A-1","total":{"amount":"128.40","currencyCode":"EUR"},"shipping":{"method":"van","address":{"name":"Tarn","phone":"+447700900123","state":"CA"}},"promisedFor":"2026-11-24T15:30:00Z"}""",
                ],
                false,
                """
                    order.number <- $.orderRef | It is called 'orderRef': 'A-1'.
                    order.dueAt <- $.promisedFor | It is called 'promisedFor', and its values are times of RFC 3339.
                    order.total <- $.total.amount | It is called 'amount', and its values are numbers.
                    order.currency <- $.total.currencyCode | Every value is a code of ISO 4217: 'EUR'.
                    order.customer.phone <- $.shipping.address.phone | Every value is a phone number with its country: '+447700900123'.
                    """
            },
            {
                "words with what they are about",
                [
                    """{"event_type":"ORDER_PLACED","occurred_at":"2026-11-24T10:00:00Z","payload":{"order":{"id":"A-1","state":"NEW","deliver_by":"2026-11-24T15:30:00Z","grand_total":12.5}}}""",
                    """{"event_type":"ORDER_CANCELLED","occurred_at":"2026-11-24T11:00:00Z","payload":{"order":{"id":"A-2","state":"CANCELLED","deliver_by":"2026-11-25T15:30:00Z","grand_total":13.5}}}""",
                ],
                false,
                """
                    event <- $.event_type ORDER_CANCELLED=order.cancelled, ORDER_PLACED=order.placed | 'event_type' says what happened: ORDER_PLACED is order.placed, ORDER_CANCELLED is order.cancelled.
                    time <- $.occurred_at | It is called 'occurred_at', and its values are times of RFC 3339.
                    order.number <- $.payload.order.id | It is called 'id', is there in 2 of 2 bodies, and is never the same twice: 'A-1', 'A-2'.
                    order.status <- $.payload.order.state | 1 of its 2 words are a status's; no status has the word 'NEW' yet.
                    order.dueAt <- $.payload.order.deliver_by | It is called 'deliver_by', and its values are times of RFC 3339.
                    order.total <- $.payload.order.grand_total | It is called 'grand_total', and its values are numbers.
                    """
            },
            {
                "a name in two parts, beside bodies that are something else",
                ["""["a1","b2"]""", """{"firstName":"Ana"}""", """[{"customer":{"vorname":"Ana","nachname":"Tarn","id":"7"},"orderId":"A-1"}]"""],
                false,
                """
                    each <- $[*] | $[*] is a list whose items carry what tells one order from another.
                    order.number <- $.orderId | It is called 'orderId': 'A-1'.
                    order.customer.code <- $.customer.id | It is called 'id' in $[*].customer.id: '7'.
                    order.customer.name <- $.customer.vorname + $.customer.nachname | 'vorname' and 'nachname' stand together: 'Ana' and 'Tarn'.
                    """
            },
            {
                "a line's place is no article",
                ["""{"id":"A-1","items":[{"no":1,"price":"3.00"},{"no":2,"price":"4.00"}]}"""],
                false,
                """
                    order.number <- $.id | It is called 'id': 'A-1'.
                    lines <- $.items[*] | $.items[*] is a list with 'price' as unit price.
                      unitPrice <- $.price
                    """
            },
            {
                "a list of orders beside its customers' numbers",
                ["""{"orders":[{"customer_no":"C2","id":19,"status":"Picking"},{"customer_no":"C2","id":20,"status":"Received"}]}"""],
                false,
                """
                    each <- $.orders[*] | $.orders[*] is a list whose items carry what tells one order from another.
                    order.number <- $.id | It is called 'id', is there in 2 of 2 orders, and is never the same twice: '19', '20'.
                    order.status <- $.status | 2 of its 2 words are a status's.
                    order.customer.code <- $.customer_no | It is called 'customer_no' in $.orders[*].customer_no: 'C2'.
                    """
            },
            {
                "two dates on which it may be due, two scores, two codes, two amounts",
                [
                    """{"orderNo":"A-1","due":"2026-12-14T15:30:00Z","shipDate":"2026-12-15T15:30:00Z","score":5,"riskScore":61,"customer_no":"C1","customerCode":"X1","amount":9.50,"total":12.25}""",
                ],
                false,
                """
                    order.number <- $.orderNo | It is called 'orderNo': 'A-1'.
                    order.dueAt <- $.due | It is called 'due', and its values are times of RFC 3339.
                    order.total <- $.total | It is called 'total', and its values are numbers.
                    order.customer.code <- $.customer_no | It is called 'customer_no': 'C1'.
                    order.risk.score <- $.riskScore | It is called 'riskScore', and its values are numbers.
                    """
            },
            { "nothing at all", ["{}"], false, "" },
        };

    [Theory]
    [MemberData(nameof(Book))]
    public void A_proposal_is_whole_and_says_why(string about, string[] bodies, bool rows, string proposed)
    {
        var proposal = ReadingProposal.Of([.. bodies.Select(Element)], ReadingProposalTests.Words, Lisbon, rows);
        Assert.True(proposed.ReplaceLineEndings("\n") == Told(proposal), $"{about}:\n{Told(proposal)}");
    }

    private static string[] Many(int n, Func<int, string> body) => [.. Enumerable.Range(1, n).Select(body)];

    internal static string Told(Proposal proposal)
    {
        var (reading, why, lines) = (proposal.Reading, proposal.Because, new List<string>());
        void Say(string name, string from, string? because) => lines.Add($"{name} <- {from}{(because is null ? "" : " | " + because)}");
        if (reading.Event?.Path is not null)
        {
            Say("event", From(reading.Event), why["event"]);
        }

        if (reading.Each is { } each)
        {
            Say("each", each.Text, why["each"]);
        }

        if (reading.Time is { } time)
        {
            Say("time", From(time), why["time"]);
        }

        foreach (var field in reading.Fields)
        {
            Say(field.Field.Path, From(field.Value), why[field.Field.Path]);
        }

        if (reading.Lines is { } list)
        {
            Say("lines", list.Each.Text, why["order.lines"]);
            lines.AddRange(list.Fields.Select(f => $"  {f.Field.Path} <- {From(f.Value)}"));
        }

        return string.Join('\n', lines);
    }

    private static string From(ValueReading value) =>
        string.Join(
            ' ',
            new[]
            {
                value.Join.Count > 0 ? value.From
                : value.Column is null ? value.Path?.Text
                : $"column {value.Column}",
                value.Forms.Count == 0 ? null : $"as {string.Join(" or ", value.Forms.Select(f => f.Text))}",
                value.Zone is null ? null : $"in {value.Zone.Id}",
                value.Decimal is null ? null : $"with {value.Decimal}",
                value.Minor == 0 ? null : $"by 10^{value.Minor}",
                value.Words is null ? null : string.Join(", ", value.Words.OrderBy(w => w.Key, StringComparer.Ordinal).Select(w => $"{w.Key}={w.Value}")),
            }.OfType<string>()
        );
}
