import type { Customers, LedgerImage, Moment, Open } from '../image'
import type { AgedBalance, Bucket } from './index'

/*
 * The aging of the whole ledger, from its image: open items summed by customer and age, gathered into groups,
 * netted. Figures lie in flat arrays, a group after the other; only the rows of a page are made into objects.
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
  /** Whether it is wanted since when the oldest open debit of each ages: a list is sorted by it. */
  withOldest: boolean
  /** By row of a customer, 1 for those that count; null for all. */
  wanted: Uint8Array | null
  /** Items that do not count, by id. */
  without?: readonly number[]
}

/** A line of the aging: what it stands for, by dimension, and its figures. */
export interface PositionRow extends AgedBalance {
  keys: string[]
  names: string[]
}

/** What a row of customers is called by a dimension. */
export type Named = (customerRow: number, currency: string) => { key: string; name: string }

const NEVER = 0x7fffffff

/** Figures in flat arrays: of each slot one a bucket, then credit on account. */
interface Sums {
  width: number
  figures: Float64Array
  /** The earliest day of an open debit, when it is wanted; NEVER without one. */
  oldest: Int32Array
}

const emptySums = (slots: number, width: number, scratch = new Scratch()): Sums => ({
  width,
  figures: scratch.float('figures', slots * width),
  oldest: scratch.int('oldest', slots).fill(NEVER),
})

/** The groups of an aging, in flat arrays. */
export interface Position {
  sums: Sums
  /** Groups in which anything stands. */
  used: Int32Array
  totals: AgedBalance & { count: number }
  /** What a group is called. */
  labels: (group: number) => { keys: string[]; names: string[] }
  /** Groups are customers, in the order of their names. */
  inOrderOfNames: boolean
}

/** Days late of which a table knows the bucket; earlier and later ones are as the first and the last. */
const REACH = 4000

/** The place of a bucket by days late, for `placeAt`. */
export function placesOf(buckets: readonly Bucket[]): Uint8Array {
  const places = new Uint8Array(2 * REACH + 1).fill(buckets.length - 1)
  let late = -REACH
  buckets.forEach((bucket, place) => {
    for (; bucket.to !== null && late <= bucket.to; late++) places[late + REACH] = place
  })
  return places
}

/** The place of the bucket of so many days late. */
export function placeAt(places: Uint8Array, late: number): number {
  const within = late > REACH ? REACH : late < -REACH ? -REACH : late
  return places[within + REACH]!
}

/** Arrays that are used again from question to question: making large ones anew takes longer than filling. */
export class Scratch {
  private readonly floats = new Map<string, Float64Array>()
  private readonly ints = new Map<string, Int32Array>()

  float(name: string, size: number): Float64Array {
    const known = this.floats.get(name)
    const array = known?.length === size ? known.fill(0) : new Float64Array(size)
    this.floats.set(name, array)
    return array
  }

  int(name: string, size: number): Int32Array {
    const known = this.ints.get(name)
    const array = known?.length === size ? known : new Int32Array(size)
    this.ints.set(name, array)
    return array
  }
}

/** Sums by slot: a customer, or with `currencies` above 1 a customer and a currency. */
function sumsOf(
  image: LedgerImage,
  customers: Customers,
  open: Open,
  ask: PositionAsk,
  currencies: number,
  scratch: Scratch,
): Sums {
  const { table } = open
  const { customer, debit, currency, documentDay, dueDay, amount: openAmount, base: openBase } = table
  const agesBy = ask.basis === 'due' ? dueDay : documentDay
  const only = ask.currency === null ? -1 : image.currencies.indexOf(ask.currency)
  const width = ask.buckets.length + 1
  const sums = emptySums(customers.count * currencies, width, scratch)
  if (ask.currency !== null && only < 0) return sums
  const { figures, oldest } = sums
  const places = placesOf(ask.buckets)
  const [amounts, others] = ask.currency === null ? [openBase, openAmount] : [openAmount, openBase]
  const { day: today } = ask.moment
  const { wanted, withOldest } = ask
  const { rowById } = customers
  const { count } = table
  const onAccount = width - 1
  const left = rowsOf(image, ask.without ?? [])
  // Items of one customer mostly stand side by side.
  let last = -1
  let who = -1
  for (let place = 0; place < count; place++) {
    const amount = amounts[place]!
    if (amount === 0 && others[place] === 0) continue
    const id = customer[place]!
    if (id !== last) {
      last = id
      who = id < rowById.length ? rowById[id]! : -1
      if (wanted !== null && who >= 0 && wanted[who] === 0) who = -1
    }
    if (who < 0 || (only >= 0 && currency[place] !== only)) continue
    if (left !== null && left.has(table.item[place]!)) continue
    const slot = currencies === 1 ? who : who * currencies + currency[place]!
    if (debit[place] === 0) {
      figures[slot * width + onAccount]! -= amount
      continue
    }
    const day = agesBy[place]!
    figures[slot * width + placeAt(places, today - day)]! += amount
    if (withOldest && day < oldest[slot]!) oldest[slot] = day
  }
  return sums
}

/** Rows of items; null for none. */
function rowsOf(image: LedgerImage, ids: readonly number[]): ReadonlySet<number> | null {
  const there = ids.filter(id => image.hasItem(id))
  return there.length ? new Set(there.map(id => image.rowOf(id))) : null
}

/** Slots in which anything stands. */
function usedOf({ figures, width }: Sums, scratch = new Scratch()): Int32Array {
  const slots = figures.length / width
  const used = scratch.int('used', slots)
  let count = 0
  for (let slot = 0; slot < slots; slot++) {
    const at = slot * width
    for (let i = at; i < at + width; i++)
      if (figures[i] !== 0) {
        used[count++] = slot
        break
      }
  }
  return used.subarray(0, count)
}

interface Gathered {
  sums: Sums
  labels: { keys: string[]; names: string[] }[]
}

/** Slots gathered into groups of one name. */
function gather(sums: Sums, labelsOf: (slot: number) => { key: string; name: string }[]): Gathered {
  const { width, figures, oldest } = sums
  const groups = new Map<string, number>()
  const labels: Gathered['labels'] = []
  const used = usedOf(sums)
  const groupOf = new Int32Array(used.length)
  used.forEach((slot, n) => {
    const own = labelsOf(slot)
    const key = own.map(l => l.key).join('\n')
    let group = groups.get(key)
    if (group === undefined) {
      group = labels.push({ keys: own.map(l => l.key), names: own.map(l => l.name) }) - 1
      groups.set(key, group)
    }
    groupOf[n] = group
  })
  const gathered = emptySums(labels.length, width)
  used.forEach((slot, n) => {
    const group = groupOf[n]!
    for (let i = 0; i < width; i++) gathered.figures[group * width + i]! += figures[slot * width + i]!
    if (oldest[slot]! < gathered.oldest[group]!) gathered.oldest[group] = oldest[slot]!
  })
  return { sums: gathered, labels }
}

/** Sets credit off against the oldest buckets first, in place: as `netted` does for one balance. */
function netInPlace({ figures, width }: Sums, used: Int32Array): void {
  for (const group of used) {
    const at = group * width
    const account = at + width - 1
    let credit = -figures[account]!
    for (let i = account - 1; i >= at && credit > 0; i--) {
      const taken = Math.min(figures[i]!, credit)
      figures[i]! -= taken
      credit -= taken
    }
    figures[account] = credit > 0 ? -credit : 0
  }
}

function totalsOf({ figures, width }: Sums, used: Int32Array): Position['totals'] {
  const columns = new Float64Array(width)
  for (let n = 0; n < used.length; n++) {
    const at = used[n]! * width
    for (let i = 0; i < width; i++) columns[i]! += figures[at + i]!
  }
  const [amounts, onAccount] = [Array.from(columns.subarray(0, width - 1)), columns[width - 1]! || 0]
  return { amounts, onAccount, total: columns.reduce((a, b) => a + b, 0), count: used.length }
}

/**
 * The aging of a moment. `named`: what a customer is called by each dimension of `by`. With a `scratch` it
 * holds until the next one is made with the same.
 */
export function position(
  image: LedgerImage,
  customers: Customers,
  open: Open,
  ask: PositionAsk,
  named: readonly Named[],
  scratch = new Scratch(),
): Position {
  const currencies = ask.by.includes('currency') ? Math.max(1, image.currencies.length) : 1
  const bySlot = sumsOf(image, customers, open, ask, currencies, scratch)
  const labelsOf = (slot: number) => {
    const currency = currencies === 1 ? '' : image.currencies[slot % currencies]!
    return named.map(name => name(Math.floor(slot / currencies), currency))
  }
  const inOrderOfNames = ask.by.length === 1 && ask.by[0] === 'customer'
  const gathered = inOrderOfNames ? null : gather(bySlot, labelsOf)
  const sums = gathered?.sums ?? bySlot
  const used = usedOf(sums, gathered ? new Scratch() : scratch)
  // A group whose parts cancel each other stands there all the same.
  const shown = gathered ? Int32Array.from(gathered.labels.keys()) : used
  if (ask.net) netInPlace(sums, shown)
  return {
    sums,
    used: shown,
    totals: totalsOf(sums, shown),
    labels: group => {
      if (gathered) return gathered.labels[group]!
      const own = labelsOf(group)
      return { keys: own.map(l => l.key), names: own.map(l => l.name) }
    },
    inOrderOfNames,
  }
}

/** One group as a row. */
export function rowOf({ sums, labels }: Position, group: number): PositionRow {
  const { figures, width } = sums
  const own = figures.subarray(group * width, (group + 1) * width)
  const amounts = Array.from(own.subarray(0, width - 1))
  const onAccount = own[width - 1]! || 0
  return {
    ...labels(group),
    amounts,
    onAccount,
    total: own.reduce((a, b) => a + b, 0),
  }
}

/** The earliest day of an open debit of a group; null without one. */
export const oldestOf = ({ sums }: Position, group: number): number | null =>
  sums.oldest[group] === NEVER ? null : sums.oldest[group]!
