import { share, split } from '../money'
import { addDays, endOfMonth, type IsoDate } from './days'

/**
 * One due date of a document: its share in hundredths of a percent, counted from the document date or its
 * month's end.
 */
export interface TermPart {
  share: number
  from: 'date' | 'month-end'
  days: number
}
/** A cash discount: rate in hundredths of a percent when paid within so many days of the document date. */
export interface TermDiscount {
  rate: number
  days: number
}
export interface Terms {
  parts: TermPart[]
  discounts: TermDiscount[]
}

export interface DuePart {
  dueDate: IsoDate
  amount: number
}
export interface DiscountStep {
  date: IsoDate
  amount: number
}

const HELP =
  'write for example "net 30", "eom 30", "2% 10, net 30", "3% 7, 2% 14, net 30" or "50% net 30 / 50% net 60"'

function percent(text: string): number {
  return Math.round(Number(text) * 100)
}

/** The trade's short forms in our own: "2/10 n/30", "30 days", "30 days eom", "cash". */
function normalised(text: string): string {
  return text
    .toLowerCase()
    .replace(/\bn\s*\/\s*(\d+)/g, 'net $1')
    .replace(/(\d+(?:\.\d+)?)\s*\/\s*(\d+)(?![\d.]|\s*%)\s*,?/g, '$1% $2,')
    .replace(/\bdays?\b/g, '')
    .replace(/^(?:cash|immediate|due on receipt)$/, 'net 0')
    .trim()
}

function duePart(text: string, whole: string): TermPart {
  const match =
    /^(?:(\d+(?:\.\d{1,2})?)\s*%\s*)?(?:(net|eom)\s*\+?\s*(\d{1,3})?|(\d{1,3})\s*(net|eom)?)$/.exec(text)
  if (!match || (match[2] === 'net' && !match[3]))
    throw new RangeError(`"${whole}" are not payment terms: ${HELP}`)
  return {
    share: match[1] ? percent(match[1]) : 10_000,
    from: (match[2] ?? match[5]) === 'eom' ? 'month-end' : 'date',
    days: Number(match[3] ?? match[4] ?? 0),
  }
}

/**
 * Reads payment terms. Net days, end of month + n, up to two cash discount steps, instalments by share.
 * Throws RangeError saying how terms are written.
 */
export function parseTerms(text: string): Terms {
  const whole = text.trim()
  const pieces = normalised(whole)
    .split(',')
    .map(p => p.trim())
  const last = pieces.pop()!
  const parts = last.split('/').map(p => duePart(p.trim(), whole))
  if (parts.reduce((a, p) => a + p.share, 0) !== 10_000)
    throw new RangeError(`"${whole}": the instalments must add up to 100 %`)
  const discounts = pieces.map((piece): TermDiscount => {
    const match = /^(\d+(?:\.\d{1,2})?)\s*%\s*(\d{1,3})$/.exec(piece)
    if (!match || Number(match[1]) <= 0 || Number(match[1]) >= 100)
      throw new RangeError(`"${whole}" are not payment terms: ${HELP}`)
    return { rate: percent(match[1]!), days: Number(match[2]) }
  })
  if (discounts.length > 2) throw new RangeError(`"${whole}" has more than two discount steps`)
  if (
    discounts.length === 2 &&
    !(discounts[0]!.days < discounts[1]!.days && discounts[0]!.rate > discounts[1]!.rate)
  ) {
    throw new RangeError(`"${whole}": the second discount step must be later and smaller than the first`)
  }
  return { parts, discounts }
}

/** Due dates of a document with the amount of each; parts add up to the amount. */
export function dueParts(terms: Terms, documentDate: IsoDate, amount: number): DuePart[] {
  const amounts = split(
    amount,
    terms.parts.map(p => p.share),
  )
  return terms.parts.map((p, i) => ({
    amount: amounts[i]!,
    dueDate: addDays(p.from === 'month-end' ? endOfMonth(documentDate) : documentDate, p.days),
  }))
}

/** The cash discount steps of an amount, earliest and largest first. */
export function discountSteps(terms: Terms, documentDate: IsoDate, amount: number): DiscountStep[] {
  return terms.discounts.map(d => ({
    date: addDays(documentDate, d.days),
    amount: share(amount, d.rate, 10_000),
  }))
}

/** Cash discount still to be had when paid on a date: the first step not yet past, else 0. */
export function discountOn(steps: readonly DiscountStep[], paidOn: IsoDate): number {
  return steps.find(s => paidOn <= s.date)?.amount ?? 0
}

/**
 * What not taking the discount costs a year, as a fraction: d/(1−d) × 365/(days given up). Common in
 * corporate finance handbooks.
 */
export function yearlyCostOfNotTaking(discount: TermDiscount, netDays: number): number {
  const d = discount.rate / 10_000
  return ((d / (1 - d)) * 365) / (netDays - discount.days)
}
