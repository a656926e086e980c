import { KINDS, type ItemKind } from '~~/core/ledger'
import { minorDigits, toMajor } from '~~/core/money'

// Making a formatter costs more than a hundred uses of it: each is made once.
const DATE = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
})
const WEEKDAY = new Intl.DateTimeFormat('en-GB', { weekday: 'short', timeZone: 'UTC' })
const NUMBERS = new Map<number, Intl.NumberFormat>()
function numberFormat(digits: number): Intl.NumberFormat {
  const known = NUMBERS.get(digits)
  if (known) return known
  const made = new Intl.NumberFormat(undefined, {
    minimumFractionDigits: digits,
    maximumFractionDigits: digits,
  })
  NUMBERS.set(digits, made)
  return made
}

/** Amount as the user's locale writes it, in units and cents, so that cents can be set lighter. */
export function amountParts(
  amount: number,
  currency: string,
  cents = true,
): { units: string; cents: string } {
  const digits = minorDigits(currency)
  const shown = numberFormat(cents ? digits : 0).formatToParts(Math.abs(Number(toMajor(amount, currency))))
  const at = shown.findIndex(p => p.type === 'decimal')
  const text = (parts: Intl.NumberFormatPart[]) => parts.map(p => p.value).join('')
  return at < 0
    ? { units: text(shown), cents: '' }
    : { units: text(shown.slice(0, at)), cents: text(shown.slice(at)) }
}

/** "12,480.50", true minus; for sentences and titles. */
export function amountText(amount: number, currency: string, withCode = false): string {
  const { units, cents } = amountParts(amount, currency)
  return `${amount < 0 ? '−' : ''}${withCode ? `${currencySign(currency)} ` : ''}${units}${cents}`
}

/** "12,481": rounded to whole units, for what is only expected. */
export function wholeText(amount: number, currency: string, withCode = false): string {
  const code = withCode ? `${currencySign(currency)} ` : ''
  return `${amount < 0 ? '−' : ''}${code}${amountParts(amount, currency, false).units}`
}

export function currencySign(currency: string): string {
  return { EUR: '€', GBP: '£', USD: '$', JPY: '¥' }[currency] ?? currency
}

/** 14 Sep 2026. */
export function dateText(date: string | null | undefined): string {
  if (!date) return ''
  const time = Date.parse(date.length > 10 ? date : `${date}T00:00:00Z`)
  const [d, m, y] = DATE.formatToParts(time)
    .filter(p => p.type !== 'literal')
    .map(p => p.value)
  return `${d} ${m!.slice(0, 3)} ${y}`
}

/** A day without its year, where the years are plain. */
export const shortDay = (date: string): string => dateText(date).replace(/ \d{4}$/, '')

/** Amounts of a currency and dates inside a sentence of the server, written as people write them. */
export const proseText = (text: string) =>
  text
    .replace(/\b\d{4}-\d{2}-\d{2}\b/g, date => dateText(date))
    .replace(/(-?\d+(?:\.\d{2,3})?) ([A-Z]{3})\b/g, (whole, amount: string, currency: string) => {
      const digits = minorDigits(currency)
      const isAmount = (amount.split('.')[1] ?? '').length === digits
      if (!isAmount && /^-?\d+$/.test(amount))
        return `${wholeText(Number(amount) * 10 ** digits, currency)} ${currency}`
      return isAmount
        ? `${amountText(Math.round(Number(amount) * 10 ** digits), currency)} ${currency}`
        : whole
    })

/** Mon. */
export function weekdayText(date: string): string {
  return date ? WEEKDAY.format(Date.parse(`${date}T00:00:00Z`)) : ''
}

/** The house's time zone: stamps are shown in it. The session sets it. */
export const house = { timeZone: 'UTC' }

/** A stamp of the server, which is in UTC, as date and time of the house. */
export function timeText(at: string, timeZone = house.timeZone): string {
  const utc = /[zZ]|[+-]\d\d:?\d\d$/.test(at) ? at : `${at.replace(' ', 'T')}Z`
  const instant = new Date(utc)
  if (Number.isNaN(instant.getTime())) return at
  // The Swedish form is that of ISO 8601.
  const local = new Intl.DateTimeFormat('sv-SE', { timeZone, dateStyle: 'short', timeStyle: 'short' })
  const [day, time] = local.format(instant).split(' ')
  return `${dateText(day!)}, ${time}`
}

/** A kind of item as a person reads it; what is no kind of ours stays as it is. */
export const kindText = (kind: string) => KINDS[kind as ItemKind]?.label ?? kind
/** Whether a kind of item is money received. */
export const isReceived = (kind: string) => KINDS[kind as ItemKind]?.money ?? false

export const plural = (n: number, one: string, many = `${one}s`) =>
  `${numberFormat(0).format(n)} ${n === 1 ? one : many}`

/** Reads what a person types as an amount: "1,210.40", "1210,4" or "1 210". Null when it is none. */
export function readAmount(text: string, currency: string): number | null {
  const digits = minorDigits(currency)
  let s = text.replace(/[\s'’€£$¥]/g, '')
  const last = Math.max(s.lastIndexOf('.'), s.lastIndexOf(','))
  const after = s.length - last - 1
  // The last mark is a decimal mark unless exactly three digits follow and the currency has fewer.
  const decimal = last >= 0 && !(after === 3 && digits < 3)
  s = decimal ? `${s.slice(0, last).replace(/[.,]/g, '')}.${s.slice(last + 1)}` : s.replace(/[.,]/g, '')
  if (!/^\d+(\.\d*)?$/.test(s) || (s.split('.')[1] ?? '').length > digits) return null
  const minor = Math.round(Number(s) * 10 ** digits)
  return Number.isSafeInteger(minor) ? minor : null
}

/** What became of a bank line, in a sentence: 1,210.40 EUR settled, R-000012. */
export function settledText(line: {
  amount: number
  currency: string
  match: { receipts: readonly { number: string }[] } | null
}): string {
  const numbers = line.match?.receipts.map(r => r.number) ?? []
  return `${[`${amountText(line.amount, line.currency, true)} settled`, ...numbers].join(', ')}.`
}

/**
 * An exchange rate for a column, so that points stand below each other: 1.1 as 1.1000, quoted with four
 * decimals at least (common practice), with eight when it has more.
 */
export function rateText(rate: string): string {
  const [whole, decimals = ''] = rate.split('.')
  return `${whole}.${decimals.padEnd(decimals.length > 4 ? 8 : 4, '0')}`
}
/** Whether a kind of item is a fee, interest or the like. */
export const isCharge = (kind: string) => KINDS[kind as ItemKind]?.remindable === 'along'
