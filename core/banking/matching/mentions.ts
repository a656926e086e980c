import { addDays } from '../../calendar'
import { datesIn, isSlip, referenceKey, shapeOf, tokensIn } from './numbers'
import { textOf } from './payers'
import type { Setting } from './setting'
import type { Closed, MatchItem } from './types'

/** So many items of a customer are searched for slips, those that fell due first. */
const MOST_SLIPS = 400
/** A day so near to the booking is that of the transfer. */
const LATELY_DAYS = 5
/** The end of a number has so many digits at least, and is enough only where nothing else ends so. */
const LEAST_TAIL = 3

/** How the text names items of a customer beside their numbers. */
export interface Mentions {
  tail: Set<number>
  slip: Set<number>
  order: Set<number>
  date: Set<number>
  /** Numbers of the form of ours that nothing explains. */
  unknown: string[]
  /** Longer numbers that are neither ours nor the end of one, nor the customer's or an order's. */
  unexplained: string[]
  /** Days that the text tells. */
  days: Set<string>
}

export function mentionsOf(
  s: Setting,
  debits: readonly MatchItem[],
  referred: ReadonlySet<number>,
): Mentions {
  const text = textOf(s.line)
  const tokens = tokensIn(text)
  const mentions: Mentions = {
    tail: new Set(),
    slip: new Set(),
    order: new Set(),
    date: new Set(),
    unknown: [],
    unexplained: [],
    days: new Set(),
  }
  for (const i of s.named.byOrder) mentions.order.add(i.id)
  const some =
    debits.length > MOST_SLIPS
      ? [...debits].sort((a, b) => (a.dueDate < b.dueDate ? -1 : 1)).slice(0, MOST_SLIPS)
      : debits
  const keys = some.map(i => referenceKey(i.number))
  for (const token of tokens) {
    if (s.known(token)) continue
    const digits = token.replace(/\D/g, '')
    const tails = digits.length >= LEAST_TAIL ? some.filter((_, n) => endsIn(keys[n]!, token)) : []
    if (tails.length === 1 && !referred.has(tails[0]!.id)) mentions.tail.add(tails[0]!.id)
    const slips = token.length >= 4 ? some.filter((_, n) => keys[n] !== token && isSlip(keys[n]!, token)) : []
    for (const i of slips.slice(0, 3)) if (!referred.has(i.id)) mentions.slip.add(i.id)
    if (tails.length) continue
    if (s.shapes.has(shapeOf(token))) mentions.unknown.push(token)
    else if (digits.length >= 4 && !slips.length && !s.explains(token)) mentions.unexplained.push(token)
  }
  // A number of somebody else's may be a slip for one of this customer's.
  for (const other of s.named.items)
    if (other.customerId !== debits[0]?.customerId) {
      const key = referenceKey(other.number)
      some.forEach((i, n) => {
        if (isSlip(keys[n]!, key) && !referred.has(i.id)) mentions.slip.add(i.id)
      })
    }
  // Banks write the day of the transfer into the text.
  const lately = addDays(s.line.bookingDate, -LATELY_DAYS)
  mentions.days = new Set(datesIn(text).filter(d => d < lately))
  for (const i of debits) if (mentions.days.has(i.documentDate)) mentions.date.add(i.id)
  return mentions
}

/** Whether a token is the end of a number, or its digits without leading zeros are. */
function endsIn(key: string, token: string): boolean {
  if (key === token) return false
  if (key.endsWith(token)) return true
  const digits = /\d+$/.exec(key)?.[0].replace(/^0+/, '')
  return digits !== undefined && digits !== '' && digits === token.replace(/^0+/, '')
}

/** Whether a text means a settled document without its whole number. */
export function isHinted(d: Closed, text: string): boolean {
  const key = referenceKey(d.number)
  return (
    datesIn(text).includes(d.documentDate) ||
    tokensIn(text).some(t => t.length >= LEAST_TAIL && (endsIn(key, t) || (t.length >= 4 && isSlip(key, t))))
  )
}
