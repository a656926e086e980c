interface Text {
  subject: string
  body: string
}
const text = (subject: string, ...body: string[]): Text => ({ subject, body: body.join('\n\n') })

/** Reminder texts of three levels in the languages that the standard policy began without. */
export const REMINDER_TEXTS: Record<'it' | 'es' | 'no' | 'ja', [Text, Text, Text]> = {
  it: [
    text(
      'Promemoria: {{ total }} scaduti',
      'Buongiorno,',
      'le partite qui sotto hanno superato la scadenza. Vi preghiamo di versare {{ total }} entro il {{ deadline }}. Se il pagamento è già in corso, vi ringraziamo.',
      'Cordiali saluti\n{{ company }}',
    ),
    text(
      'Secondo sollecito: vi preghiamo di pagare {{ total }} entro il {{ deadline }}',
      'Buongiorno,',
      'non abbiamo ancora ricevuto gli importi qui sotto.{% if has_fee %} Addebitiamo spese di {{ fee }}.{% endif %} Vi preghiamo di versare {{ total }} entro il {{ deadline }}.',
      'Cordiali saluti\n{{ company }}',
    ),
    text(
      'Ultimo sollecito prima di altri passi: {{ total }}',
      'Buongiorno,',
      'nonostante due solleciti gli importi qui sotto restano dovuti.{% if has_fee %} Si aggiungono spese di {{ fee }}.{% endif %} Senza il pagamento di {{ total }} entro il {{ deadline }} sospenderemo le consegne e affideremo il credito al recupero.',
      'Distinti saluti\n{{ company }}',
    ),
  ],
  es: [
    text(
      'Recordatorio: {{ total }} vencidos',
      'Buenos días:',
      'Los documentos de abajo han pasado su vencimiento. Les rogamos que abonen {{ total }} antes del {{ deadline }}. Si el pago está en camino, muchas gracias.',
      'Un cordial saludo\n{{ company }}',
    ),
    text(
      'Segundo recordatorio: rogamos el pago de {{ total }} antes del {{ deadline }}',
      'Buenos días:',
      'Todavía no hemos recibido los importes de abajo.{% if has_fee %} Añadimos gastos de {{ fee }}.{% endif %} Les rogamos que abonen {{ total }} antes del {{ deadline }}.',
      'Un cordial saludo\n{{ company }}',
    ),
    text(
      'Último recordatorio antes de otras medidas: {{ total }}',
      'Buenos días:',
      'A pesar de dos recordatorios, los importes de abajo siguen pendientes.{% if has_fee %} Se añaden gastos de {{ fee }}.{% endif %} Si no recibimos {{ total }} antes del {{ deadline }}, suspenderemos las entregas y cederemos el cobro.',
      'Atentamente\n{{ company }}',
    ),
  ],
  no: [
    text(
      'Vennlig påminnelse: {{ total }} er forfalt',
      'Hei,',
      'postene nedenfor er forfalt. Vennligst betal {{ total }} innen {{ deadline }}. Er betalingen på vei, takker vi.',
      'Vennlig hilsen\n{{ company }}',
    ),
    text(
      'Andre purring: vennligst betal {{ total }} innen {{ deadline }}',
      'Hei,',
      'vi har ennå ikke mottatt beløpene nedenfor.{% if has_fee %} Vi beregner et gebyr på {{ fee }}.{% endif %} Vennligst betal {{ total }} innen {{ deadline }}.',
      'Vennlig hilsen\n{{ company }}',
    ),
    text(
      'Siste purring før videre skritt: {{ total }}',
      'Hei,',
      'til tross for to purringer er beløpene nedenfor ubetalt.{% if has_fee %} Et gebyr på {{ fee }} kommer i tillegg.{% endif %} Mottar vi ikke {{ total }} innen {{ deadline }}, stanser vi leveransene og sender kravet til inkasso.',
      'Med vennlig hilsen\n{{ company }}',
    ),
  ],
  ja: [
    text(
      'お支払いのご確認：{{ total }}',
      '{{ contact | default: customer }} 様',
      '下記の項目のお支払期日が過ぎております。{{ deadline }} までに {{ total }} をお支払いくださいますようお願いいたします。すでにお手続き済みの場合は御礼申し上げます。',
      '{{ company }}',
    ),
    text(
      '再度のお願い：{{ deadline }} までに {{ total }} をお支払いください',
      '{{ contact | default: customer }} 様',
      '下記の金額をまだ確認できておりません。{% if has_fee %}手数料 {{ fee }} を申し受けます。{% endif %}{{ deadline }} までに {{ total }} をお支払いくださいますようお願いいたします。',
      '{{ company }}',
    ),
    text(
      '最終のご連絡：{{ total }}',
      '{{ contact | default: customer }} 様',
      '二度のご連絡にもかかわらず、下記の金額が未払いです。{% if has_fee %}手数料 {{ fee }} が加算されます。{% endif %}{{ deadline }} までに {{ total }} のご入金がない場合は、出荷を停止し、回収の手続きに移らせていただきます。',
      '{{ company }}',
    ),
  ],
}
