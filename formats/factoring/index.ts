import { ANSWER_KINDS, type AnswerKind, type AnswerLine } from '../../core/factoring'
import { isIsoDate } from '../../core/calendar'
import { parseAmount, toMajor } from '../../core/money'
import { CsvFault, readCsv, writeCsv } from '../csv'

/*
 * Files between us and a factor. No published standard for them is used by all factors: these are plain
 * tables (RFC 4180), in columns of our own. Amounts are major units with a point.
 */

const ANSWER_COLUMNS = [
  ...['kind', 'schedule', 'invoice', 'date', 'currency', 'amount', 'settlement', 'text'],
] as const

const isKind = (text: string): text is AnswerKind => text in ANSWER_KINDS

/** What a factor tells, line by line. Throws CsvFault with every line that is wrong. */
export function readAnswerFile(source: string): AnswerLine[] {
  const { header, rows } = readCsv(source)
  const missing = ANSWER_COLUMNS.filter(c => !header.includes(c) && c !== 'text' && c !== 'settlement')
  if (missing.length) throw new CsvFault(`columns are missing: ${missing.join(', ')}`, 1)
  const faults: { line: number; message: string }[] = []
  const lines = rows.flatMap(({ line, cells }): AnswerLine[] => {
    const wrong = (message: string) => {
      faults.push({ line, message })
      return []
    }
    const text = (column: string) => (cells[column] ?? '').trim()
    const kind = text('kind').toLowerCase()
    const currency = text('currency').toUpperCase()
    const date = text('date')
    if (!isKind(kind)) return wrong(`"${kind}" is none of ${Object.keys(ANSWER_KINDS).join(', ')}`)
    if (!isIsoDate(date)) return wrong(`"${date}" is not a date: write it as YYYY-MM-DD`)
    if (!/^[A-Z]{3}$/.test(currency)) return wrong(`"${currency}" is not a currency: give three letters`)
    const amount = text('amount') === '' ? 0 : readMajor(text('amount'), currency)
    if (amount === null) return wrong(`"${text('amount')}" is not an amount in ${currency}, such as 1000.00`)
    if (amount < 0) return wrong(`${text('amount')} has a sign: the kind says which way it goes`)
    return [
      {
        ...{ kind, date, currency, amount },
        schedule: text('schedule'),
        invoice: text('invoice'),
        settlement: text('settlement').slice(0, 40),
        text: text('text').slice(0, 200),
      },
    ]
  })
  const [first] = faults
  if (first) throw new CsvFault(first.message, first.line, faults)
  return lines
}

function readMajor(text: string, currency: string): number | null {
  try {
    return parseAmount(text, currency)
  } catch {
    return null
  }
}

/** The same the other way round, for whoever stands in for a factor. */
export function writeAnswerFile(lines: readonly AnswerLine[]): string {
  return writeCsv(
    [...ANSWER_COLUMNS],
    lines.map(l => [
      ...[l.kind, l.schedule, l.invoice, l.date, l.currency, toMajor(l.amount, l.currency)],
      ...[l.settlement, l.text],
    ]),
  )
}

/** An invoice as it is offered to a factor. */
export interface Offered {
  number: string
  customer: string
  name: string
  country: string
  documentDate: string
  dueDate: string
  currency: string
  amount: number
}

export const OFFER_COLUMNS = [
  ...[
    'schedule',
    'invoice',
    'customer',
    'name',
    'country',
    'document_date',
    'due_date',
    'currency',
    'amount',
  ],
]

/** A schedule as it is given to a factor. */
export function writeSchedule(schedule: string, offered: readonly Offered[]): string {
  return writeCsv(
    OFFER_COLUMNS,
    offered.map(o => [
      ...[schedule, o.number, o.customer, o.name, o.country, o.documentDate, o.dueDate, o.currency],
      toMajor(o.amount, o.currency),
    ]),
  )
}

/** What was offered, as a factor reads it. */
export function readSchedule(source: string): { schedule: string; offered: Offered[] } {
  const { rows } = readCsv(source)
  return {
    schedule: rows[0]?.cells.schedule ?? '',
    offered: rows.map(({ cells: c }) => ({
      ...{ number: c.invoice!, customer: c.customer!, name: c.name!, country: c.country! },
      ...{ documentDate: c.document_date!, dueDate: c.due_date!, currency: c.currency! },
      amount: parseAmount(c.amount!, c.currency!),
    })),
  }
}
