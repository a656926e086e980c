import { isValid, parse } from 'date-fns'
import { de } from 'date-fns/locale/de'
import { enGB } from 'date-fns/locale/en-GB'
import { es } from 'date-fns/locale/es'
import { fr } from 'date-fns/locale/fr'
import { it } from 'date-fns/locale/it'
import countries from 'i18n-iso-countries'
import languagesDe from 'i18n-iso-countries/langs/de.json'
import languagesEn from 'i18n-iso-countries/langs/en.json'
import languagesEs from 'i18n-iso-countries/langs/es.json'
import languagesFr from 'i18n-iso-countries/langs/fr.json'
import languagesIt from 'i18n-iso-countries/langs/it.json'
import { isIsoDate } from '../../core/calendar'
import { plainWords, type DateOrder, type ImportMap } from './guess'
import type { Cell, Sheet } from './read'
import { KIND_WORDS, ORDER_STATE_WORDS } from './words'

for (const names of [languagesDe, languagesEn, languagesEs, languagesFr, languagesIt])
  countries.registerLocale(names)

/** A table in our own strict form, and where each row came from. */
export interface Converted {
  header: string[]
  rows: string[][]
  /** Line of the file for each row, in order. */
  lines: number[]
  /** Rows that were left out since they are over nothing, or are no records such as a total. */
  leftOut: number
}

const LOCALES = [enGB, de, fr, it, es]
const NAMED_MONTHS = ['d MMM yyyy', 'd MMMM yyyy', 'd MMM yy', 'MMM d yyyy', 'd. MMM yyyy', 'd. MMMM yyyy']
/** Days of the 1900 system of spreadsheets: 25569 is 1 January 1970 (ECMA-376, part 1, 18.17.4). */
const SERIAL_OF_1970 = 25_569
const DAY_MS = 86_400_000
/** Serials that are days of this age: 1954 to 2119. */
const isSerial = (n: number) => n >= 20_000 && n <= 80_000

/** A day as YYYY-MM-DD; what is none stays as it is, so that it is told as a fault with its cell. */
export function dayOf(cell: Cell, order: DateOrder): string {
  if (typeof cell === 'number')
    return isSerial(cell)
      ? new Date((Math.floor(cell) - SERIAL_OF_1970) * DAY_MS).toISOString().slice(0, 10)
      : String(cell)
  const text = cell.trim()
  const iso = /^(\d{4}-\d{2}-\d{2})(?:[T ]\d{2}:\d{2}.*)?$/.exec(text)?.[1]
  if (iso) return iso
  if (/^\d{5}$/.test(text) && isSerial(Number(text))) return dayOf(Number(text), order)
  const digits = /^\d{8}$/.exec(text)
  if (digits) return `${text.slice(0, 4)}-${text.slice(4, 6)}-${text.slice(6)}`
  const parts = /^(\d{1,4})[./\- ](\d{1,2})[./\- ](\d{1,4})(?:[ T]\d{1,2}:\d{2}.*)?$/.exec(text)
  if (parts) {
    const [a, b, c] = [parts[1]!, parts[2]!, parts[3]!]
    const [y, m, d] = a.length === 4 ? [a, b, c] : order === 'MDY' ? [c, a, b] : [c, b, a]
    const year = y!.length === 2 ? `20${y}` : y!
    const day = `${year}-${m!.padStart(2, '0')}-${d!.padStart(2, '0')}`
    return isIsoDate(day) ? day : text
  }
  const words = text.replace(/[,-]/g, ' ').replace(/\s+/g, ' ')
  if (!/[a-zà-ÿ]{3}/i.test(words)) return text
  for (const format of NAMED_MONTHS)
    for (const locale of LOCALES) {
      const found = parse(words, format, new Date(Date.UTC(2000, 0, 1)), { locale })
      // The library answers midnight of this machine; its own parts are the day.
      if (isValid(found) && found.getFullYear() > 1900)
        return `${found.getFullYear()}-${String(found.getMonth() + 1).padStart(2, '0')}-${String(found.getDate()).padStart(2, '0')}`
    }
  return text
}

/**
 * An amount as digits with a point; what is none stays as it is. A sign may stand behind, or brackets around.
 */
export function amountOf(cell: Cell, decimal: '.' | ','): string {
  if (typeof cell === 'number') return plainNumber(cell)
  const text = cell.trim()
  if (!text) return ''
  const [thousands, point] = decimal === ',' ? [/\./g, ','] : [/,/g, '.']
  const bare = text
    .replace(/[\s'’\u00a0\u202f]/g, '')
    .replace(/^[A-Z]{3}|[A-Z]{3}$/g, '')
    .replace(/[€£$¥]/g, '')
    .replace(thousands, '')
    .replace(point, '.')
  const negative =
    /^\(.*\)$/.test(bare) || /^[-−]/.test(bare) || /[-−]$/.test(bare) || /(?:CR|H)$/i.test(bare)
  const digits = bare
    .replace(/[()−-]/g, '')
    .replace(/(?:CR|DR|H|S)$/i, '')
    .replace(/^\+/, '')
  return /^\d*\.?\d+$|^\d+\.$/.test(digits) ? `${negative ? '-' : ''}${digits.replace(/\.$/, '')}` : text
}

/** Without exponent, and without the dust of binary fractions. */
function plainNumber(n: number): string {
  const rounded = Math.round(n * 1e6) / 1e6
  return rounded.toFixed(6).replace(/\.?0+$/, '')
}

const LANGUAGES: Record<string, string> = Object.fromEntries(
  Object.entries({
    en: 'english|englisch|anglais|inglese|ingles|eng',
    de: 'german|deutsch|allemand|tedesco|aleman|deu|ger',
    fr: 'french|franzosisch|francais|francese|frances|fra|fre',
    it: 'italian|italienisch|italien|italiano|ita',
    es: 'spanish|spanisch|espagnol|spagnolo|espanol|spa|esp',
    no: 'norwegian|norwegisch|norvegien|norvegese|noruego|nor|norsk',
    nl: 'dutch|niederlandisch|neerlandais|olandese|neerlandes|nld|nederlands',
  }).flatMap(([code, words]) => words.split('|').map(w => [w, code])),
)
const SIGNS: Record<string, string> = { '€': 'EUR', '£': 'GBP', $: 'USD', '¥': 'JPY', EURO: 'EUR' }

export function countryOf(text: string): string {
  if (/^[A-Za-z]{2}$/.test(text)) return text.toUpperCase()
  if (/^[A-Za-z]{3}$/.test(text)) return countries.alpha3ToAlpha2(text.toUpperCase()) ?? text
  for (const language of ['en', 'de', 'fr', 'it', 'es']) {
    const code = countries.getAlpha2Code(text, language) ?? countries.getSimpleAlpha2Code(text, language)
    if (code) return code
  }
  return text
}

/**
 * Payment terms as we write them: "30 Tage netto" is "net 30", "14 Tage 2 % Skonto, 30 netto" is "2% 14, net
 * 30".
 */
export function termsOf(text: string): string {
  const plain = text.trim()
  if (!plain || /^(?:net|eom|\d+(?:\.\d+)?% \d+, )/i.test(plain)) return plain
  const numbers = (plain.match(/\d+(?:[.,]\d+)?/g) ?? []).map(n => n.replace(',', '.'))
  const percent = /(\d+(?:[.,]\d+)?)\s*%/.exec(plain)?.[1]?.replace(',', '.')
  const days = percent === undefined ? numbers : numbers.filter((n, i) => i !== numbers.indexOf(percent))
  const last = days.at(-1)
  if (last === undefined) return plain
  const monthEnd = /eom|end of month|monatsende|fin de mois|fine mese|fin de mes/i.test(plain)
  const net = `${monthEnd ? 'eom' : 'net'} ${last}`
  return percent !== undefined && days.length > 1 ? `${percent}% ${days[0]}, ${net}` : net
}

const byWord = (table: Record<string, string>) =>
  new Map(Object.entries(table).flatMap(([ours, words]) => words.split('|').map(w => [w, ours] as const)))
const KINDS = byWord(KIND_WORDS)
const ORDER_STATES = byWord(ORDER_STATE_WORDS)
const DAYS = ['date', 'due_date', 'discount_date']
const AMOUNTS = [
  'amount',
  'tax',
  'discount_amount',
  'credit_limit',
  'debit',
  'credit',
  'delivered',
  'invoiced',
]

function converted(ours: string, cell: Cell, map: ImportMap): string {
  if (DAYS.includes(ours)) return dayOf(cell, map.order)
  if (AMOUNTS.includes(ours)) return amountOf(cell, map.decimal)
  // Our own exports keep formulas from running by a sign before them.
  const text = typeof cell === 'number' ? plainNumber(cell) : cell.trim().replace(/^'(?=[=+\-@])/, '')
  if (ours === 'country') return countryOf(text)
  if (ours === 'language') return LANGUAGES[plainWords(text)] ?? text.toLowerCase()
  if (ours === 'currency') return SIGNS[text.toUpperCase()] ?? text.toUpperCase()
  if (ours === 'terms') return termsOf(text)
  if (ours === 'kind') return KINDS.get(plainWords(text)) ?? text
  if (ours === 'state') return ORDER_STATES.get(plainWords(text)) ?? text
  return text.replace(/\s*\n\s*/g, ' ')
}

/** One side of debit and credit, as one amount. */
function balanceOf(row: Record<string, string>): string {
  const [debit, credit] = [row.debit || '0', row.credit || '0']
  if (Number(credit) === 0) return debit
  return Number(debit) === 0 ? negated(credit) : String(Number(debit) - Number(credit))
}
const negated = (amount: string) => (amount.startsWith('-') ? amount.slice(1) : `-${amount}`)

/** A document of less than nothing is a credit note over as much. */
function asCredit(row: Record<string, string>): void {
  if (!row.amount?.startsWith('-') || !['', 'invoice', 'credit-note', undefined].includes(row.kind)) return
  row.kind = 'credit-note'
  row.amount = row.amount.slice(1)
  if (row.tax?.startsWith('-')) row.tax = row.tax.slice(1)
}

/**
 * A table of another program in our own form. What cannot be read stays as it is, so that the import tells it
 * as a fault of its cell.
 */
export function convertSheet(sheet: Sheet, map: ImportMap): Converted {
  const mapped = Object.entries(map.columns)
  const fixed = Object.entries(map.fixed).filter(([ours]) => !(ours in map.columns))
  const twoSided = 'debit' in map.columns || 'credit' in map.columns
  const header = [...new Set([...mapped.map(([ours]) => ours), ...fixed.map(([ours]) => ours)])].filter(
    ours => ours !== 'debit' && ours !== 'credit',
  )
  if (twoSided && !header.includes('amount')) header.push('amount')
  if (map.kind === 'documents' && !header.includes('kind')) header.push('kind')
  const rows: string[][] = []
  const lines: number[] = []
  let leftOut = 0
  sheet.rows.slice(map.headerRow + 1).forEach((cells, n) => {
    const row: Record<string, string> = Object.fromEntries(fixed)
    for (const [ours, place] of mapped) row[ours] = converted(ours, cells[place] ?? '', map)
    if (twoSided) row.amount = balanceOf(row)
    if (map.kind === 'documents' && map.negativeIsCredit) asCredit(row)
    const nothing = map.kind === 'documents' && map.leaveOutZero && Number(row.amount) === 0
    // A line of sums has a word and a figure, and nothing that makes it a record.
    const isSum = map.kind === 'customers' ? !row.number && !row.name : !row.customer && !row.date
    if (nothing || isSum) {
      leftOut++
      return
    }
    rows.push(header.map(ours => row[ours] ?? ''))
    lines.push(sheet.lines[map.headerRow + 1 + n]!)
  })
  return { header, rows, lines, leftOut }
}
