import type { LetterText } from './text'

/** What reminders, interest notes and claims say beside the texts of their policy, in seven languages. */
export interface ReminderWords {
  notice: string
  interestNote: string
  fee: string
  interest: string
  compensation: string
  toPay: string
  from: string
  to: string
  days: string
  rate: string
  base: string
  withdrawn: string
  withdrawnText: (number: string) => string
  claimText: (law: string) => string
}

const en: ReminderWords = {
  notice: 'Notice',
  interestNote: 'Interest note',
  fee: 'Reminder fee',
  interest: 'Late interest',
  compensation: 'Fixed compensation',
  toPay: 'Total to pay',
  from: 'From',
  to: 'To',
  days: 'Days',
  rate: 'Rate',
  base: 'On',
  withdrawn: 'Our reminder is withdrawn',
  withdrawnText: number =>
    `We withdraw our notice ${number}: please regard it as not written. Any fee or interest in it has been taken back. We are sorry for the trouble.`,
  claimText: law => `For late payment we claim the following, as ${law} provides:`,
}
const de: ReminderWords = {
  notice: 'Mahnung',
  interestNote: 'Zinsnote',
  fee: 'Mahngebühr',
  interest: 'Verzugszinsen',
  compensation: 'Pauschale',
  toPay: 'Zu zahlen',
  from: 'Von',
  to: 'Bis',
  days: 'Tage',
  rate: 'Satz',
  base: 'Auf',
  withdrawn: 'Unsere Mahnung ist zurückgenommen',
  withdrawnText: number =>
    `wir nehmen unsere Mahnung ${number} zurück: bitte betrachten Sie sie als gegenstandslos. Gebühren und Zinsen daraus sind storniert. Wir bitten um Entschuldigung.`,
  claimText: law => `für die verspätete Zahlung verlangen wir nach ${law}:`,
}
const fr: ReminderWords = {
  notice: 'Relance',
  interestNote: 'Note d’intérêts',
  fee: 'Frais de relance',
  interest: 'Intérêts de retard',
  compensation: 'Indemnité forfaitaire',
  toPay: 'Total à payer',
  from: 'Du',
  to: 'Au',
  days: 'Jours',
  rate: 'Taux',
  base: 'Sur',
  withdrawn: 'Notre relance est annulée',
  withdrawnText: number =>
    `Nous annulons notre relance ${number} : merci de ne pas en tenir compte. Les frais et intérêts correspondants sont annulés. Veuillez nous excuser.`,
  claimText: law => `Pour retard de paiement, nous demandons selon ${law} :`,
}
const it: ReminderWords = {
  notice: 'Sollecito',
  interestNote: 'Nota interessi',
  fee: 'Spese di sollecito',
  interest: 'Interessi di mora',
  compensation: 'Indennizzo forfettario',
  toPay: 'Totale da pagare',
  from: 'Dal',
  to: 'Al',
  days: 'Giorni',
  rate: 'Tasso',
  base: 'Su',
  withdrawn: 'Il nostro sollecito è annullato',
  withdrawnText: number =>
    `annulliamo il nostro sollecito ${number}: vi preghiamo di non tenerne conto. Le spese e gli interessi relativi sono stornati. Ci scusiamo per il disturbo.`,
  claimText: law => `per il ritardo di pagamento chiediamo, secondo ${law}:`,
}
const es: ReminderWords = {
  notice: 'Recordatorio',
  interestNote: 'Nota de intereses',
  fee: 'Gastos de recordatorio',
  interest: 'Intereses de demora',
  compensation: 'Indemnización fija',
  toPay: 'Total a pagar',
  from: 'Desde',
  to: 'Hasta',
  days: 'Días',
  rate: 'Tipo',
  base: 'Sobre',
  withdrawn: 'Nuestro recordatorio queda anulado',
  withdrawnText: number =>
    `Anulamos nuestro recordatorio ${number}: les rogamos que no lo tengan en cuenta. Los gastos e intereses quedan anulados. Disculpen las molestias.`,
  claimText: law => `Por el retraso en el pago reclamamos, según ${law}:`,
}
const no: ReminderWords = {
  notice: 'Purring',
  interestNote: 'Rentenota',
  fee: 'Purregebyr',
  interest: 'Forsinkelsesrente',
  compensation: 'Fast kompensasjon',
  toPay: 'Å betale',
  from: 'Fra',
  to: 'Til',
  days: 'Dager',
  rate: 'Sats',
  base: 'Av',
  withdrawn: 'Purringen vår er trukket tilbake',
  withdrawnText: number =>
    `vi trekker tilbake purring ${number}: se bort fra den. Gebyr og renter i den er tilbakeført. Vi beklager bryet.`,
  claimText: law => `for forsinket betaling krever vi etter ${law}:`,
}
const ja: ReminderWords = {
  notice: '督促状',
  interestNote: '遅延利息明細書',
  fee: '督促手数料',
  interest: '遅延利息',
  compensation: '定額補償金',
  toPay: 'お支払総額',
  from: '自',
  to: '至',
  days: '日数',
  rate: '利率',
  base: '対象額',
  withdrawn: '督促状の取り消しについて',
  withdrawnText: number =>
    `弊社の督促状 ${number} を取り消しいたします。なかったものとしてお取り扱いください。手数料および利息も取り消しました。ご迷惑をおかけしましたことをお詫び申し上げます。`,
  claimText: law => `お支払いの遅延につきまして、${law} に基づき下記をご請求いたします。`,
}

const ALL: Record<string, ReminderWords> = { en, de, fr, it, es, no, ja }
export const reminderWordsOf = (language: string): ReminderWords => ALL[language] ?? en

const text = (subject: string, ...body: string[]): LetterText => ({ subject, body: body.join('\n\n') })

/** What an interest note says. */
export const interestText: Record<string, LetterText> = {
  en: text(
    'Late interest: {{ interest }}',
    'Dear {{ contact | default: customer }},',
    'Some of our invoices were paid late, or are overdue still. As agreed we charge interest for the days below. Please pay {{ interest }} by {{ deadline }}.',
    'Kind regards\n{{ company }}',
  ),
  de: text(
    'Verzugszinsen: {{ interest }}',
    'Guten Tag,',
    'einige unserer Rechnungen wurden verspätet bezahlt oder sind noch überfällig. Für die unten genannten Tage berechnen wir Zinsen. Bitte zahlen Sie {{ interest }} bis zum {{ deadline }}.',
    'Freundliche Grüße\n{{ company }}',
  ),
  fr: text(
    'Intérêts de retard : {{ interest }}',
    'Bonjour,',
    'Certaines de nos factures ont été réglées en retard ou restent échues. Nous facturons des intérêts pour les jours ci-dessous. Merci de régler {{ interest }} avant le {{ deadline }}.',
    'Cordialement\n{{ company }}',
  ),
  it: text(
    'Interessi di mora: {{ interest }}',
    'Buongiorno,',
    'alcune nostre fatture sono state pagate in ritardo o sono ancora scadute. Per i giorni indicati sotto addebitiamo interessi. Vi preghiamo di pagare {{ interest }} entro il {{ deadline }}.',
    'Cordiali saluti\n{{ company }}',
  ),
  es: text(
    'Intereses de demora: {{ interest }}',
    'Buenos días:',
    'Algunas de nuestras facturas se pagaron con retraso o siguen vencidas. Cobramos intereses por los días indicados abajo. Les rogamos el pago de {{ interest }} antes del {{ deadline }}.',
    'Un cordial saludo\n{{ company }}',
  ),
  no: text(
    'Forsinkelsesrente: {{ interest }}',
    'Hei,',
    'noen av fakturaene våre ble betalt for sent eller er fortsatt forfalt. For dagene nedenfor beregner vi renter. Vennligst betal {{ interest }} innen {{ deadline }}.',
    'Vennlig hilsen\n{{ company }}',
  ),
  ja: text(
    '遅延利息のご請求：{{ interest }}',
    '{{ contact | default: customer }} 様',
    '一部のご請求につきまして、お支払いが期日を過ぎております。下記の日数分の利息を申し受けます。{{ deadline }} までに {{ interest }} をお支払いくださいますようお願いいたします。',
    '{{ company }}',
  ),
}
