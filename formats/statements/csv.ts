import { isIsoDate } from '../../core/calendar'
import { minorDigits, parseAmount } from '../../core/money'
import { CsvFault, readCsv, type CsvTable } from '../csv'
import { StatementFault, type Statement } from './types'

/** Which column of a bank's CSV holds what; saved with the bank account. Names are matched without case. */
export interface ColumnMap {
  date: string
  valueDate?: string
  /** One signed column, or one for money in and one for money out. */
  amount?: string
  moneyIn?: string
  moneyOut?: string
  text: string[]
  name?: string
  iban?: string
  reference?: string
  /** Running balance after each line: makes opening and closing checkable. */
  balance?: string
  order: 'YMD' | 'DMY' | 'MDY'
  decimal: '.' | ','
}

// Column names that banks use, in the languages of our users; common practice.
const GUESS: [keyof ColumnMap, RegExp][] = [
  ['valueDate', /^(value ?date|valuta|wertstellung|valutadatum|date de valeur)/i],
  ['date', /^(date|booking|buchung|posted|transaction date|datum|date)/i],
  ['moneyIn', /^(money in|credit|haben|paid in|crédit)/i],
  ['moneyOut', /^(money out|debit|soll|paid out|débit)/i],
  ['amount', /^(amount|betrag|montant|bedrag|value)/i],
  ['name', /(name|payer|counterparty|auftraggeber|beneficiary|payee|contrepartie)/i],
  ['iban', /(iban|account)/i],
  ['balance', /(balance|saldo|solde)/i],
  ['reference', /^(reference|referenz|end.?to.?end)/i],
]

/** A first idea of the map from the header; the user puts it right. */
export function guessMap(
  header: readonly string[],
  sample: readonly Record<string, string>[] = [],
): ColumnMap {
  const map: ColumnMap = { date: '', text: [], order: 'YMD', decimal: '.' }
  const free = new Set(header)
  for (const [key, pattern] of GUESS) {
    const column = [...free].find(h => pattern.test(h))
    if (!column || (key === 'amount' && map.moneyIn && map.moneyOut)) continue
    Object.assign(map, { [key]: column })
    free.delete(column)
  }
  map.text = [...free].filter(h =>
    /(text|purpose|details|description|narrative|verwendungszweck|libell|omschrijving|remittance|memo)/i.test(
      h,
    ),
  )
  const cells = (column?: string) => (column ? sample.map(r => r[column] ?? '').filter(Boolean) : [])
  const dates = cells(map.date)
  if (dates.length && !/^\d{4}/.test(dates[0]!))
    map.order = dates.some(d => Number(d.split(/\D/)[1]) > 12) ? 'MDY' : 'DMY'
  if (cells(map.amount ?? map.moneyIn).some(a => /,\d{1,2}$/.test(a))) map.decimal = ','
  return map
}

export function csvHeader(text: string): CsvTable {
  try {
    return readCsv(text)
  } catch (error) {
    if (error instanceof CsvFault)
      throw new StatementFault(error.message, `line ${error.line}`, 'save it as CSV with a header line')
    throw error
  }
}

/** Reads a bank's CSV by its map into one statement. Throws StatementFault with the line. */
export function readCsvStatement(text: string, map: ColumnMap, currency: string, account: string): Statement {
  const { header, rows } = csvHeader(text)
  const key = (name?: string) => name?.trim().toLowerCase()
  const wanted = [
    map.date,
    map.valueDate,
    map.amount,
    map.moneyIn,
    map.moneyOut,
    map.name,
    map.iban,
    map.reference,
    map.balance,
    ...map.text,
  ]
    .filter(Boolean)
    .map(n => key(n)!)
  const missing = wanted.find(n => !header.includes(n))
  if (!map.date || !(map.amount || (map.moneyIn && map.moneyOut)))
    throw new StatementFault(
      'the column map names no date or no amount',
      'map',
      'choose the columns of date and amount',
    )
  if (missing)
    throw new StatementFault(
      `the file has no column "${missing}"`,
      'line 1',
      `it has ${header.join(', ')}: change the column map of this account`,
    )
  if (!rows.length)
    throw new StatementFault('the file has a header but no line', 'line 2', 'choose another file')
  const lines = rows.map(({ line, cells }) => {
    const cell = (name?: string) => (name ? (cells[key(name)!] ?? '') : '')
    const amount = map.amount
      ? amountIn(cell(map.amount), map, currency, line)
      : amountIn(cell(map.moneyIn), map, currency, line) -
        Math.abs(amountIn(cell(map.moneyOut), map, currency, line))
    const bookingDate = dateIn(cell(map.date), map, line)
    return {
      bookingDate,
      valueDate: cell(map.valueDate) ? dateIn(cell(map.valueDate), map, line) : bookingDate,
      amount,
      name: cell(map.name),
      iban: cell(map.iban).replace(/\s/g, ''),
      text: map.text
        .map(c => cell(c))
        .filter(Boolean)
        .join(' '),
      reference: cell(map.reference),
      endToEndId: '',
      bankReference: '',
      code: '',
      returnReason: '',
      balance: map.balance ? amountIn(cell(map.balance), map, currency, line) : null,
    }
  })
  // Banks list upwards or downwards in time: each balance must follow from the one before it.
  const ordered = [...lines]
  const follows = (list: typeof lines) =>
    list.every((l, i) => i === 0 || l.balance === list[i - 1]!.balance! + l.amount)
  if (map.balance && !follows(ordered) && follows([...lines].reverse())) ordered.reverse()
  else if (map.balance && !follows(ordered))
    throw new StatementFault(
      'the running balance does not follow from line to line',
      'balance',
      'the file is not whole, or the map names the wrong columns',
    )
  else if (!map.balance)
    ordered.sort((a, b) => (a.bookingDate < b.bookingDate ? -1 : a.bookingDate > b.bookingDate ? 1 : 0))
  const [first, last] = [ordered[0]!, ordered.at(-1)!]
  return {
    format: 'CSV',
    id: `${first.bookingDate} to ${last.bookingDate}`,
    account,
    currency,
    from: first.bookingDate,
    to: last.bookingDate,
    opening: first.balance === null ? null : first.balance - first.amount,
    closing: last.balance,
    lines: ordered.map(({ balance: _, ...l }) => l),
  }
}

function amountIn(text: string, map: ColumnMap, currency: string, line: number): number {
  const plain = text
    .replace(/[\s'’]/g, '')
    .replace(map.decimal === ',' ? /\./g : /,/g, '')
    .replace(',', '.')
    .replace(/^\((.*)\)$/, '-$1')
    .replace(/^(.*)-$/, '-$1')
    .replace(/[A-Z€£$¥]/g, '')
  if (!plain) return 0
  try {
    return parseAmount(plain, currency)
  } catch {
    throw new StatementFault(
      `"${text}" is not an amount in ${currency} with ${minorDigits(currency)} decimals and "${map.decimal}"`,
      `line ${line}`,
      'check the decimal mark of the column map',
    )
  }
}

function dateIn(text: string, map: ColumnMap, line: number): string {
  const parts = text.trim().slice(0, 10).split(/[./-]/)
  const [a = '', b = '', c = ''] =
    parts.length === 1 && /^\d{8}$/.test(text.trim())
      ? [text.slice(0, 4), text.slice(4, 6), text.slice(6, 8)]
      : parts
  const [y, m, d] = /^\d{4}$/.test(a) ? [a, b, c] : map.order === 'MDY' ? [c, a, b] : [c, b, a]
  const date = `${y!.length === 2 ? `20${y}` : y}-${m!.padStart(2, '0')}-${d!.padStart(2, '0')}`
  if (!isIsoDate(date))
    throw new StatementFault(
      `"${text}" is not a date in the order ${map.order}`,
      `line ${line}`,
      'check the date order of the column map',
    )
  return date
}
