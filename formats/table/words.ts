/*
 * What the columns of customers and documents are called in the files of other programs, in the languages we
 * ship: English, German, French, Italian, Spanish. Common practice, from memory; written without accents, in
 * small letters, words apart by one blank.
 */

export const CUSTOMER_WORDS = {
  number:
    'customer number|customer no|customer id|account number|account no|debtor number|debtor no|kundennummer|' +
    'kundennr|kunden nr|kundenkonto|debitorennummer|debitornr|debitor|kontonummer|numero client|no client|' +
    'n client|code client|compte client|codice cliente|numero cliente|cod cliente|n cliente|codigo cliente|' +
    'codigo|code|number|nummer|nr|id|account',
  name:
    'customer name|company name|name|company|firma|firmenname|kundenname|kunde|raison sociale|nom du client|' +
    'nom client|nom|ragione sociale|denominazione|nome cliente|nome|societe|razon social|nombre|empresa|' +
    'customer|client|cliente',
  street:
    'street|street address|address line 1|address 1|address|strasse|anschrift|adresse|rue|via|indirizzo|calle|' +
    'direccion|domicilio',
  postcode: 'postcode|post code|postal code|zip code|zip|plz|postleitzahl|code postal|cp|cap|codigo postal',
  city: 'city|town|ort|stadt|ville|citta|comune|localita|ciudad|poblacion',
  country: 'country|country code|land|landercode|landeskennzeichen|pays|paese|nazione|pais',
  language: 'language|sprache|langue|lingua|idioma',
  currency: 'currency|currency code|wahrung|devise|monnaie|valuta|divisa|moneda|ccy',
  terms:
    'payment terms|terms|zahlungsbedingungen|zahlungsbedingung|zahlungsziel|conditions de paiement|' +
    'delai de paiement|condizioni di pagamento|pagamento|condiciones de pago|forma de pago|plazo',
  credit_limit:
    'credit limit|limit|kreditlimit|kreditrahmen|limite de credit|encours autorise|fido|limite di credito|' +
    'limite de credito',
  contact: 'contact|contact person|ansprechpartner|kontakt|interlocuteur|referente|contatto|contacto',
  email:
    'email|e mail|e mail address|email address|mail|courriel|posta elettronica|correo|correo electronico',
  phone: 'phone|telephone|phone number|telefon|telefonnummer|tel|telefono',
  iban: 'iban|bank account',
  vat_number:
    'vat number|vat no|vat id|vat|ust id|ust idnr|ust id nr|ustid|n tva|numero de tva|tva|partita iva|p iva|' +
    'nif|cif|tax number|tax id',
  parent: 'parent|head office|parent account|konzern|zentrale|hauptkunde|siege|groupe|capogruppo|matriz',
  class: 'class|category|group|kundengruppe|gruppe|kategorie|categorie|categoria|grupo',
} as const

export const DOCUMENT_WORDS = {
  number:
    'invoice number|invoice no|document number|document no|invoice|belegnummer|belegnr|beleg nr|beleg|' +
    'rechnungsnummer|rechnungsnr|rechnung nr|rechnung|numero de facture|n facture|no facture|facture|' +
    'numero de piece|n piece|piece|numero fattura|n fattura|fattura|numero documento|n documento|' +
    'numero de factura|n factura|num factura|factura|doc no|number|nummer|numero|nr',
  kind: 'document type|kind|type|belegart|art|typ|nature|type de piece|tipo documento|tipo de documento|tipo|clase',
  customer:
    'customer number|customer no|customer id|account number|account no|debtor number|debtor no|kundennummer|' +
    'kundennr|kunden nr|debitorennummer|debitornr|debitor|kontonummer|konto|numero client|no client|n client|' +
    'code client|compte client|compte|codice cliente|cod cliente|n cliente|codigo cliente|customer|kunde|client|' +
    'cliente|account',
  date:
    'invoice date|document date|date|issue date|belegdatum|rechnungsdatum|datum|date de facture|date facture|' +
    'date de piece|date piece|data fattura|data documento|data|fecha de factura|fecha factura|fecha|posting date',
  due_date:
    'due date|due on|due|falligkeitsdatum|falligkeit|fallig am|fallig|date d echeance|date echeance|echeance|' +
    'data scadenza|scadenza|fecha de vencimiento|fecha vencimiento|vencimiento',
  currency: 'currency|currency code|wahrung|devise|monnaie|valuta|divisa|moneda|ccy',
  amount:
    'open amount|outstanding|amount due|open balance|open|offener betrag|offen|restbetrag|rest|reste du|' +
    'montant du|residuo|importo residuo|saldo pendiente|pendiente|balance|solde|saldo|gross amount|amount|gross|' +
    'total|bruttobetrag|brutto|betrag|summe|montant ttc|ttc|montant|importo|totale|importe|total factura',
  debit: 'debit|debit amount|soll|dare|debe',
  credit: 'credit|credit amount|haben|avere|haber',
  tax: 'tax|tax amount|vat|vat amount|mwst|mehrwertsteuer|steuer|steuerbetrag|tva|montant tva|iva|imposta|impuesto',
  discount_date:
    'discount date|discount until|skonto bis|skontodatum|date escompte|data sconto|fecha descuento',
  discount_amount: 'discount amount|discount|skontobetrag|skonto|escompte|sconto|descuento',
  order:
    'order number|order no|purchase order|po number|po|order|bestellnummer|bestellung|auftragsnummer|auftrag|' +
    'commande|n commande|ordine|n ordine|pedido|n pedido',
  text:
    'description|text|buchungstext|bezeichnung|libelle|descrizione|causale|concepto|descripcion|memo|narrative|' +
    'details|reference|comment',
} as const

export const ORDER_WORDS = {
  number:
    'order number|order no|order id|sales order|order|auftragsnummer|auftragsnr|auftrag nr|auftrag|bestellnummer|' +
    'numero de commande|n commande|no commande|commande|numero ordine|n ordine|ordine|numero de pedido|n pedido|' +
    'pedido|document number|number|nummer|numero|nr',
  customer: DOCUMENT_WORDS.customer,
  date:
    'order date|date|auftragsdatum|bestelldatum|datum|date de commande|date commande|data ordine|data|' +
    'fecha de pedido|fecha pedido|fecha',
  currency: DOCUMENT_WORDS.currency,
  amount:
    'order amount|order value|amount|value|total|auftragswert|auftragssumme|betrag|wert|summe|montant|valeur|' +
    'importo|valore|importe|valor',
  delivered:
    'delivered|delivered amount|shipped|geliefert|gelieferter wert|lieferwert|livre|montant livre|consegnato|' +
    'spedito|entregado|enviado',
  invoiced:
    'invoiced|invoiced amount|billed|fakturiert|berechnet|facture|montant facture|fatturato|facturado',
  state: 'state|status|order status|zustand|auftragsstatus|etat|statut|stato|estado',
} as const

/** What states of an order are called. */
export const ORDER_STATE_WORDS = {
  open: 'open|offen|in arbeit|active|ouvert|ouverte|en cours|aperto|in corso|abierto|en curso|confirmed',
  closed:
    'closed|done|complete|completed|geschlossen|erledigt|abgeschlossen|ferme|cloture|termine|chiuso|evaso|cerrado|completado',
  cancelled: 'cancelled|canceled|storniert|annule|annulee|annullato|anulado|cancelado',
} as const

/** What kinds of document are called. */
export const KIND_WORDS: Record<string, string> = {
  invoice: 'invoice|inv|rechnung|re|rg|ar|facture|fac|fattura|factura|ri|dr',
  'credit-note':
    'credit note|credit|credit memo|cn|cm|gutschrift|gs|gu|rechnungskorrektur|avoir|note de credit|' +
    'nota di credito|nota credito|nc|abono|nota de credito|factura rectificativa',
  'debit-note': 'debit note|debit memo|dn|belastung|lastschrift|note de debit|nota di debito|nota de debito',
}
