import type { Customers, LedgerImage, Moment, Open } from '../image'
import { netted, type AgedBalance, type Bucket } from './index'

/*
 * The aging of the whole ledger, from its image: open items summed by customer and age, gathered into groups,
 * netted, sorted and cut to a page.
 */

/** What rows are grouped by. */
export type Dimension = 'customer' | 'group' | 'class' | 'controller' | 'sales' | 'currency' | 'country'

export interface PositionAsk {
  moment: Moment
  /** The date that items age by. */
  basis: 'due' | 'document'
  /** Only items in this currency, in its minor units; null: all, in base currency. */
  currency: string | null
  buckets: readonly Bucket[]
  /** One dimension, or two: class within country. */
  by: readonly Dimension[]
  net: boolean
  /** By row of a customer, 1 for those that count; null for all. */
  wanted: Uint8Array | null
}

/** A line of the aging: what it stands for, by dimension, and its figures. */
export interface PositionRow extends AgedBalance {
  keys: string[]
  names: string[]
  /** The earliest date that an open debit ages by, in days since 1970; null without one. */
  oldest: number | null
}

export interface Position {
  rows: PositionRow[]
  totals: AgedBalance & { count: number }
}

/** What a row of customers is called by a dimension. */
export type Named = (customerRow: number, currency: string) => { key: string; name: string }

const NEVER = 0x7fffffff

/** Sums by slot: a customer, or a customer and a currency. */
interface Sums {
  /** Figures of a slot: one a bucket, then credit on account. */
  width: number
  figures: Float64Array
  oldest: Int32Array
  currencies: number
}

/** Days late up to which a bucket goes, and the place of the bucket by days late. */
function placeOf(bounds: readonly number[], late: number): number {
  for (let i = 0; i < bounds.length; i++) if (late <= bounds[i]!) return i
  return bounds.length
}

function sumsOf(image: LedgerImage, customers: Customers, open: Open, ask: PositionAsk): Sums {
  const { items } = image
  const { customer, debit, currency, documentDay, dueDay } = items.column
  const agesBy = ask.basis === 'due' ? dueDay : documentDay
  const only = ask.currency === null ? -1 : image.currencies.indexOf(ask.currency)
  const currencies = ask.by.includes('currency') ? Math.max(1, image.currencies.length) : 1
  const width = ask.buckets.length + 1
  const slots = customers.count * currencies
  const sums: Sums = {
    width,
    currencies,
    figures: new Float64Array(slots * width),
    oldest: new Int32Array(slots).fill(NEVER),
  }
  if (ask.currency !== null && only < 0) return sums
  const bounds = ask.buckets.slice(0, -1).map(b => b.to!)
  const amounts = ask.currency === null ? open.base : open.amount
  for (let row = 0; row < items.count; row++) {
    if (open.amount[row] === 0 && open.base[row] === 0) continue
    if (only >= 0 && currency[row] !== only) continue
    const who = customers.rowOf(customer[row]!)
    if (who < 0 || (ask.wanted && ask.wanted[who] === 0)) continue
    const slot = currencies === 1 ? who : who * currencies + currency[row]!
    if (debit[row] === 0) {
      sums.figures[slot * width + width - 1]! -= amounts[row]!
      continue
    }
    const day = agesBy[row]!
    sums.figures[slot * width + placeOf(bounds, ask.moment.day - day)]! += amounts[row]!
    if (day < sums.oldest[slot]!) sums.oldest[slot] = day
  }
  return sums
}

/** Slots in which anything stands, with the currency of each. */
function* usedSlots({ figures, width, currencies }: Sums): Generator<{ slot: number; customerRow: number }> {
  const slots = figures.length / width
  for (let slot = 0; slot < slots; slot++) {
    for (let i = slot * width; i < (slot + 1) * width; i++)
      if (figures[i] !== 0) {
        yield { slot, customerRow: Math.floor(slot / currencies) }
        break
      }
  }
}

function balanceOf({ figures, width }: Sums, slot: number): AgedBalance {
  const amounts = Array.from(figures.subarray(slot * width, (slot + 1) * width - 1))
  const onAccount = figures[(slot + 1) * width - 1]!
  return { amounts, onAccount: onAccount || 0, total: amounts.reduce((a, b) => a + b, onAccount) }
}

function addTo(to: AgedBalance, more: AgedBalance): void {
  more.amounts.forEach((amount, i) => (to.amounts[i]! += amount))
  to.onAccount += more.onAccount
  to.total += more.total
}

/** The aging of a moment. `named`: what a customer is called by each dimension of `by`. */
export function position(
  image: LedgerImage,
  customers: Customers,
  open: Open,
  ask: PositionAsk,
  named: readonly Named[],
): Position {
  const sums = sumsOf(image, customers, open, ask)
  const rows = new Map<string, PositionRow>()
  for (const { slot, customerRow } of usedSlots(sums)) {
    const currency = sums.currencies === 1 ? '' : image.currencies[slot % sums.currencies]!
    const labels = named.map(name => name(customerRow, currency))
    const key = labels.map(l => l.key).join('\n')
    const balance = balanceOf(sums, slot)
    const oldest = sums.oldest[slot] === NEVER ? null : sums.oldest[slot]!
    const there = rows.get(key)
    if (there) {
      addTo(there, balance)
      if (oldest !== null) there.oldest = Math.min(oldest, there.oldest ?? oldest)
    } else rows.set(key, { keys: labels.map(l => l.key), names: labels.map(l => l.name), oldest, ...balance })
  }
  const list = [...rows.values()]
  const totals = { amounts: ask.buckets.map(() => 0), onAccount: 0, total: 0, count: list.length }
  for (const row of list) {
    if (ask.net) Object.assign(row, netted(row))
    addTo(totals, row)
  }
  return { rows: list, totals }
}
