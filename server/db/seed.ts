import { z } from 'zod'
import { cell } from './rows'
import type { Handle } from './handle'
import { int } from './connection'
import { REMINDER_TEXTS } from './reminderTexts'

/** Chart of accounts a new company starts with. Numbers are ours; the types are those of double entry. */
const CHART: [number: string, name: string, type: string, purpose: string | null][] = [
  ['1000', 'Petty cash', 'asset', 'petty-cash'],
  ['1100', 'Trade receivables', 'asset', 'receivables'],
  ['1190', 'Allowance for doubtful debts', 'asset', 'allowance'],
  ['1200', 'Bank', 'asset', 'bank'],
  ['1210', 'Receipts on hand', 'asset', 'on-hand'],
  ['1220', 'Receipts in clearing', 'asset', 'clearing'],
  ['2200', 'Sales tax', 'liability', 'tax'],
  ['2300', 'Advances received', 'liability', 'advances'],
  ['3900', 'Opening balances', 'equity', 'opening'],
  ['4000', 'Revenue', 'income', 'revenue'],
  ['4700', 'Cash discounts allowed', 'income', 'discount'],
  ['4810', 'Reminder fees', 'income', 'reminder-fees'],
  ['4820', 'Bank fees charged on', 'income', 'charges-on'],
  ['4830', 'Late interest', 'income', 'late-interest'],
  ['4840', 'Late-payment compensation', 'income', 'compensation'],
  ['6800', 'Small differences', 'expense', 'difference'],
  ['6850', 'Bank charges', 'expense', 'bank-charges'],
  ['6860', 'Bad debts', 'expense', 'write-off'],
  ['6870', 'Change in allowance', 'expense', 'allowance-change'],
  ['4920', 'Debts recovered', 'income', 'recovery'],
  ['1230', 'Payments to customers on their way', 'asset', 'paying-out'],
  ['1290', 'Transfers to other accounts', 'asset', null],
  ['2310', 'Unclaimed customer credits', 'liability', 'lapsed-owed'],
  ['4910', 'Unclaimed credits taken to income', 'income', 'lapsed-income'],
  ['4900', 'Sundry income', 'income', null],
  ['6890', 'Sundry expense', 'expense', null],
  ['6900', 'Exchange differences', 'expense', 'exchange'],
]
const SERIES = [
  ['entry', '', 1],
  ['receipt', 'R-', 6],
  ['reversal', 'RV-', 5],
  ['fee', 'F-', 5],
  ['notice', 'N-', 5],
  ['interest', 'I-', 5],
  ['compensation', 'LC-', 5],
  ['adjustment', 'A-', 6],
  ['slip', 'P-', 5],
  ['advance', 'AD-', 5],
  ['charge', 'BC-', 5],
  ['conversion', 'X-', 5],
  ['batch', 'B-', 5],
  ['sundry', 'S-', 5],
  ['write-off', 'W-', 5],
  ['credit-note', 'CN-', 5],
  ['refund', 'RF-', 5],
  ['lapse', 'UC-', 5],
  ['recovery', 'RC-', 5],
  ['sale', 'SF-', 5],
  ['factor', 'FC-', 5],
  ['commission', 'CF-', 5],
  ['passed-on', 'PO-', 5],
  ['schedule', 'FS-', 5],
  ['collection', 'DD-', 5],
  ['mandate', 'M-', 5],
  ['payment-file', 'PF-', 5],
  ['refund-cheque', '', 6],
] as const

const text = (subject: string, ...body: string[]) => ({ subject, body: body.join('\n\n') })
const byLevel = [
  {
    days: 5,
    sincePrevious: 7,
    deadlineDays: 10,
    minimum: { EUR: 2500, GBP: 2500, USD: 2500, NOK: 25000, JPY: 4000 },
    fee: {},
    texts: {
      en: text(
        'Friendly reminder: {{ total }} is overdue',
        'Dear {{ contact | default: customer }},',
        'Looking through our books we see that {% if items == 1 %}the item{% else %}the {{ items }} ' +
          'items{% endif %} below went past the due date. If your payment is on its way, thank you. If ' +
          'not, please let us have {{ total }} by {{ deadline }}.',
        'Is something wrong with a delivery or an invoice? Tell us and we will look into it.',
        'Kind regards\n{{ company }}',
      ),
      de: text(
        'Freundliche Erinnerung: {{ total }} sind überfällig',
        'Guten Tag,',
        'die unten genannten Posten sind über das Fälligkeitsdatum hinaus. Bitte überweisen Sie ' +
          '{{ total }} bis zum {{ deadline }}. Falls Ihre Zahlung unterwegs ist: vielen Dank.',
        'Freundliche Grüße\n{{ company }}',
      ),
      fr: text(
        'Rappel amical : {{ total }} échus',
        'Bonjour,',
        'Les postes ci-dessous ont dépassé leur échéance. Merci de nous régler {{ total }} avant le ' +
          '{{ deadline }}. Si votre paiement est en route, nous vous en remercions.',
        'Cordialement\n{{ company }}',
      ),
    },
  },
  {
    days: 20,
    sincePrevious: 14,
    deadlineDays: 10,
    minimum: { EUR: 2500, GBP: 2500, USD: 2500, NOK: 25000, JPY: 4000 },
    fee: { EUR: 1500, GBP: 1200, USD: 1500, NOK: 15000, JPY: 2000 },
    texts: {
      en: text(
        'Second reminder: please pay {{ total }} by {{ deadline }}',
        'Dear {{ contact | default: customer }},',
        'We wrote to you before and have not yet received the amounts below.{% if has_fee %} We have ' +
          'added a fee of {{ fee }}.{% endif %} Please pay {{ total }} by {{ deadline }}.',
        'If you cannot pay in full, call us before that date: an arrangement is better than silence.',
        'Kind regards\n{{ company }}',
      ),
      de: text(
        'Zweite Mahnung: bitte zahlen Sie {{ total }} bis {{ deadline }}',
        'Guten Tag,',
        'die unten genannten Beträge haben wir noch nicht erhalten.{% if has_fee %} Wir berechnen eine ' +
          'Gebühr von {{ fee }}.{% endif %} Bitte zahlen Sie {{ total }} bis zum {{ deadline }}.',
        'Freundliche Grüße\n{{ company }}',
      ),
      fr: text(
        'Deuxième relance : merci de régler {{ total }} avant le {{ deadline }}',
        'Bonjour,',
        'Nous n’avons pas encore reçu les montants ci-dessous.{% if has_fee %} Des frais de {{ fee }} ' +
          's’y ajoutent.{% endif %} Merci de régler {{ total }} avant le {{ deadline }}.',
        'Cordialement\n{{ company }}',
      ),
    },
  },
  {
    days: 40,
    sincePrevious: 14,
    deadlineDays: 7,
    minimum: { EUR: 2500, GBP: 2500, USD: 2500, NOK: 25000, JPY: 4000 },
    fee: { EUR: 4000, GBP: 4000, USD: 4000, NOK: 40000, JPY: 6000 },
    texts: {
      en: text(
        'Last reminder before further steps: {{ total }}',
        'Dear {{ contact | default: customer }},',
        'Despite two reminders the amounts below are unpaid.{% if has_fee %} A fee of {{ fee }} has ' +
          'been added.{% endif %} If {{ total }} does not reach us by {{ deadline }}, we will stop ' +
          'deliveries and hand the claim over for collection.',
        'Yours sincerely\n{{ company }}',
      ),
      de: text(
        'Letzte Mahnung vor weiteren Schritten: {{ total }}',
        'Guten Tag,',
        'trotz zweier Mahnungen sind die unten genannten Beträge offen.{% if has_fee %} Eine Gebühr ' +
          'von {{ fee }} kommt hinzu.{% endif %} Geht {{ total }} nicht bis zum {{ deadline }} ein, ' +
          'stellen wir die Lieferungen ein und übergeben die Forderung.',
        'Mit freundlichen Grüßen\n{{ company }}',
      ),
      fr: text(
        'Dernière relance avant d’autres démarches : {{ total }}',
        'Bonjour,',
        'Malgré deux relances, les montants ci-dessous restent dus.{% if has_fee %} Des frais de ' +
          '{{ fee }} s’y ajoutent.{% endif %} Sans règlement de {{ total }} avant le {{ deadline }}, nous ' +
          'cesserons de livrer et confierons la créance au recouvrement.',
        'Cordialement\n{{ company }}',
      ),
    },
  },
]

/** The standard policy, with the texts of the languages that have a file of their own. */
async function seedPolicy(tx: Handle): Promise<void> {
  const levels = byLevel.map((level, n) => {
    const others = Object.entries(REMINDER_TEXTS).map(([language, texts]) => [language, texts[n]!])
    return { ...level, texts: { ...level.texts, ...Object.fromEntries(others) } }
  })
  await tx.insert('reminder_policy', [{ code: 'standard', name: 'Standard, three levels' }])
  await tx.insert('reminder_policy_version', [
    { code: 'standard', valid_from: '2000-01-01', form: JSON.stringify({ levels }), person_id: 0 },
  ])
}

const seedBasicsRow = z.object({
  n: cell.sum,
})

/**
 * What every database needs: chart, number series, the standard reminder policy. Adds what a newer version
 * brought, changes nothing that is there.
 */
export async function seedBasics(database: Handle): Promise<void> {
  const [there] = await database.rows(seedBasicsRow, 'SELECT COUNT(*) AS n FROM reminder_policy')
  await database.transaction(async transaction => {
    await transaction.insert(
      'ledger_account',
      CHART.map(([number, name, type, purpose]) => ({ number, name, type, purpose })),
      { ignore: true },
    )
    await transaction.insert(
      'series',
      SERIES.map(([name, prefix, width]) => ({ name, prefix, next: 1, width })),
      { ignore: true },
    )
    // Postings hold these rows while they are decided; what changes, changes them.
    await transaction.insert(
      'setting',
      [
        { name: 'chart', value: '0' },
        { name: 'closedUntil', value: 'null' },
        { name: 'customers', value: '0' },
      ],
      { ignore: true },
    )
    if (!int(there!.n)) await seedPolicy(transaction)
  })
}
