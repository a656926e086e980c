import { isIsoDate, type IsoDate } from '../../core/calendar'
import { isCurrency } from '../../core/money'
import { StatementFault, type Statement, type StatementLine } from './types'

/*
 * BAI2: Cash Management Balance Reporting Specifications, version 2 (Bank Administration Institute). Records
 * and codes as they are in common use; written from memory of the specification.
 */

/** Type codes of balances: opening and closing ledger. */
const OPENING = '010'
const CLOSING = '015'
/** Detail codes from 100 are credits, from 400 debits; the hundreds of each are summaries. */
const FIRST_CREDIT = 100
const FIRST_DEBIT = 400
const LAST_DEBIT = 699

interface Row {
  code: string
  fields: string[]
  /** Where it began, for a message. */
  line: number
}

/**
 * Records with their continuations (88) put behind them; a slash ends a record, what follows it is nothing.
 */
function recordsOf(text: string): Row[] {
  const records: { code: string; text: string; line: number }[] = []
  text.split(/\r\n|\r|\n/).forEach((raw, n) => {
    const row = raw.trimEnd()
    if (!row) return
    const code = row.slice(0, 2)
    const rest = row.slice(3)
    const last = records.at(-1)
    if (code !== '88') records.push({ code, text: rest, line: n + 1 })
    else if (!last) throw fault('a continuation (88) stands before any record', n + 1)
    else last.text = last.text.endsWith('/') ? `${last.text.slice(0, -1)},${rest}` : `${last.text} ${rest}`
  })
  return records.map(r => ({ code: r.code, line: r.line, fields: r.text.replace(/\/\s*$/, '').split(',') }))
}

const fault = (message: string, line: number): StatementFault =>
  new StatementFault(message, `line ${line}`, 'it may have been cut off or changed: fetch it again')

/** YYMMDD or YYYYMMDD. */
function dayOf(text: string, line: number): IsoDate {
  const digits = text.length === 6 ? `20${text}` : text
  const day = `${digits.slice(0, 4)}-${digits.slice(4, 6)}-${digits.slice(6, 8)}`
  if (!isIsoDate(day)) throw fault(`"${text}" is not a date as YYMMDD`, line)
  return day
}

/** Amounts are whole minor units, without a decimal point; balances may have a sign. */
function amountOf(text: string, line: number): number {
  if (!/^[+-]?\d{1,15}$/.test(text)) throw fault(`"${text}" is not an amount in minor units`, line)
  return Number(text)
}

/** How many fields a funds type takes after itself: immediate, same day and so on, or by days. */
function fundsFields(fields: readonly string[]): number {
  const [type = '', first = ''] = fields
  if (type === 'S') return 4
  if (type === 'V') return 3
  if (type === 'D') return 2 + 2 * Number(first || 0)
  return 1
}

interface Open {
  statement: Statement
  date: IsoDate
}

/** Reads BAI2 files. One statement for each account of each group. Throws StatementFault. */
export function readBai2(text: string): Statement[] {
  const statements: Statement[] = []
  let date: IsoDate = ''
  let currency = ''
  let file = ''
  let open: Open | undefined
  for (const { code, fields, line } of recordsOf(text)) {
    if (code === '01') file = fields[4] || fields[2] || ''
    else if (code === '02') {
      date = dayOf(fields[3] ?? '', line)
      currency = fields[5] || 'USD'
    } else if (code === '03') {
      if (!date) throw fault('an account (03) stands before its group (02)', line)
      open = { statement: accountOf(fields, { date, currency, file }, line), date }
      statements.push(open.statement)
    } else if (code === '16') {
      if (!open) throw fault('a movement (16) stands before its account (03)', line)
      const own = lineOf(fields, open.date, line)
      if (own) open.statement.lines.push(own)
    } else if (code === '49') open = undefined
    else if (!/^(98|99)$/.test(code)) throw fault(`"${code}" is not a record of BAI2`, line)
  }
  if (!statements.length) throw fault('the file holds no account (03)', 1)
  return statements
}

function accountOf(
  fields: readonly string[],
  group: { date: IsoDate; currency: string; file: string },
  line: number,
): Statement {
  const currency = fields[1] || group.currency
  if (!isCurrency(currency)) throw fault(`"${currency}" is not a currency`, line)
  const balances = new Map<string, number>()
  let at = 2
  while (at < fields.length) {
    const [type, amount] = [fields[at]!, fields[at + 1]]
    if (type && amount) balances.set(type, amountOf(amount, line))
    at += 3 + fundsFields(fields.slice(at + 3))
  }
  return {
    format: 'BAI2',
    id: [group.file, group.date].filter(Boolean).join(' '),
    account: fields[0] ?? '',
    currency,
    from: group.date,
    to: group.date,
    opening: balances.get(OPENING) ?? null,
    closing: balances.get(CLOSING) ?? null,
    lines: [],
  }
}

function lineOf(fields: readonly string[], date: IsoDate, line: number): StatementLine | undefined {
  const [type = '', amount = ''] = fields
  const code = Number(type)
  if (!/^\d{3}$/.test(type)) throw fault(`"${type}" is not a type code`, line)
  if (code < FIRST_CREDIT || code > LAST_DEBIT || !amount) return undefined
  const after = 2 + fundsFields(fields.slice(2))
  const [bankReference = '', reference = '', ...text] = fields.slice(after)
  return {
    bookingDate: date,
    valueDate: date,
    amount: amountOf(amount, line) * (code >= FIRST_DEBIT ? -1 : 1),
    name: '',
    iban: '',
    // The text is the last field and may hold commas.
    text: text.join(',').trim(),
    reference: '',
    endToEndId: reference.trim(),
    bankReference: bankReference.trim(),
    code: `BAI2-${type}`,
    returnReason: '',
  }
}
