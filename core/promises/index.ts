import { addBankWorkingDays, type IsoDate } from '../calendar'
import { refuse, type Refusal } from '../ledger'
import { amountWords } from '../money'

/*
 * What customers promise to pay, and what became of it. Nobody says whether a promise was kept: the money
 * says it. Amounts are minor units of the promise's currency.
 */

export interface PromisePart {
  date: IsoDate
  amount: number
}

/** A promise as it was given: for chosen items, or for the account as a whole. */
export interface Promised {
  id: number
  madeOn: IsoDate
  currency: string
  /** With what was open of each then; null: for the account. */
  items: readonly { itemId: number; amount: number }[] | null
  /** By date. One date, or the instalments of a plan. */
  parts: readonly PromisePart[]
  /** The last entry of the ledger when it was given: what was posted before is not its payment. */
  afterEntry: number
  withdrawnOn: IsoDate | null
}

/** Money that came, and what it went to. */
export interface Payment {
  entry: number
  date: IsoDate
  currency: string
  /** All of it; what is not in `to` lies on account. */
  amount: number
  to: readonly { itemId: number; amount: number }[]
}

/** What was taken off an item without money that came since: a credit note, a discount, older money. */
export interface Credited {
  entry: number
  itemId: number
  amount: number
  /** The entry of the money, when it was money; null when it was none. */
  moneyOf: number | null
}

/** `due`: its day and the grace after it are not over. `partly`: some of it came. */
export type PartState = 'due' | 'kept' | 'partly' | 'broken'
/** Of the whole: `open` while nothing is missed and something is still to come. */
export type PromiseState = 'open' | 'kept' | 'partly' | 'broken' | 'withdrawn'

export interface PartStand extends PromisePart {
  /** Last day on which the money is in time: the grace of the house, in bank working days. */
  until: IsoDate
  paid: number
  state: PartState
}

export interface PromiseStand {
  state: PromiseState
  paid: number
  parts: PartStand[]
}

/** Money of one payment that no promise has counted yet. */
interface Purse extends Payment {
  left: number
}

/** Takes up to so much out of purses, oldest first; answers how much, with the day of each piece. */
function take(
  purses: readonly Purse[],
  want: number,
  most: (purse: Purse) => number,
): { date: IsoDate; amount: number }[] {
  const pieces: { date: IsoDate; amount: number }[] = []
  let open = want
  for (const purse of purses) {
    if (open <= 0) break
    const amount = Math.min(open, purse.left, most(purse))
    if (amount <= 0) continue
    purse.left -= amount
    open -= amount
    pieces.push({ date: purse.date, amount })
  }
  return pieces
}

const sum = (list: readonly { amount: number }[]): number => list.reduce((a, p) => a + p.amount, 0)

/** What a payment brought to the items of a promise. */
const forItems = (purse: Purse, items: NonNullable<Promised['items']>): number =>
  sum(purse.to.filter(t => items.some(i => i.itemId === t.itemId)))

/** What a payment left on account. */
const onAccount = (purse: Purse): number => Math.max(0, purse.amount - sum(purse.to))

/**
 * How promises of one customer stand today. Each piece of money counts once: first for the promise whose
 * items it went to, then what lies on account for the promise with the earliest date; a promise for the
 * account takes what is left. What was credited meanwhile need not be paid any more: it comes off the last
 * instalments.
 *
 * Whether an instalment was kept: what came by its last day, all dates before it included, is at least what
 * was promised up to it. The rule is ours.
 */
export function standOfPromises(
  promises: readonly Promised[],
  payments: readonly Payment[],
  credited: readonly Credited[],
  today: IsoDate,
  graceDays: number,
): Map<number, PromiseStand> {
  const purses = [...payments]
    .sort((a, b) => (a.date < b.date ? -1 : a.date > b.date ? 1 : a.entry - b.entry))
    .map(p => ({ ...p, left: p.amount }))
  const inTurn = [...promises].sort(
    (a, b) => (a.items === null ? 1 : 0) - (b.items === null ? 1 : 0) || compareFirst(a, b),
  )
  const stands = new Map<number, PromiseStand>()
  for (const promise of inTurn) {
    const own = purses.filter(p => p.currency === promise.currency && p.entry > promise.afterEntry)
    const parts = lessCredited(promise, credited)
    const total = sum(parts)
    const { items } = promise
    const pieces = take(own, total, items === null ? p => p.left : p => forItems(p, items))
    if (items !== null) pieces.push(...take(own, total - sum(pieces), onAccount))
    stands.set(promise.id, judge(promise, parts, pieces, today, graceDays))
  }
  return stands
}

const compareFirst = (a: Promised, b: Promised): number => {
  const [x, y] = [a.parts[0]!.date, b.parts[0]!.date]
  return x < y ? -1 : x > y ? 1 : a.id - b.id
}

/** Parts less what was credited of the items since, the last first. */
function lessCredited({ items, parts, afterEntry }: Promised, credited: readonly Credited[]): PromisePart[] {
  if (items === null) return parts.map(p => ({ ...p }))
  let off = sum(
    credited.filter(
      c =>
        c.entry > afterEntry &&
        (c.moneyOf === null || c.moneyOf <= afterEntry) &&
        items.some(i => i.itemId === c.itemId),
    ),
  )
  const left = parts.map(p => ({ ...p }))
  for (const part of [...left].reverse()) {
    const amount = Math.max(0, Math.min(part.amount, off))
    part.amount -= amount
    off -= amount
  }
  return left
}

function judge(
  { withdrawnOn }: Promised,
  parts: readonly PromisePart[],
  pieces: readonly { date: IsoDate; amount: number }[],
  today: IsoDate,
  graceDays: number,
): PromiseStand {
  let before = 0
  const stands = parts.map((part): PartStand => {
    const until = addBankWorkingDays(part.date, graceDays)
    const inTime = sum(pieces.filter(p => p.date <= until))
    const paid = Math.max(0, Math.min(part.amount, inTime - before))
    before += part.amount
    return { ...part, until, paid, state: stateOf(part.amount, paid, until, today) }
  })
  return { state: withdrawnOn === null ? stateOfAll(stands) : 'withdrawn', paid: sum(pieces), parts: stands }
}

function stateOf(amount: number, paid: number, until: IsoDate, today: IsoDate): PartState {
  if (paid >= amount) return 'kept'
  if (today <= until) return 'due'
  return paid > 0 ? 'partly' : 'broken'
}

function stateOfAll(parts: readonly PartStand[]): PromiseState {
  if (parts.every(p => p.state === 'kept')) return 'kept'
  const missed = parts.filter(p => p.state === 'partly' || p.state === 'broken')
  if (!missed.length) return 'open'
  return parts.some(p => p.paid > 0) ? 'partly' : 'broken'
}

/** So many dates a plan has at most. */
export const MOST_PARTS = 60
/** Nobody plans further ahead, in days: two years. */
export const LONGEST_DAYS = 731

export interface PromiseAsk {
  currency: string
  items: readonly { itemId: number; amount: number }[] | null
  parts: readonly PromisePart[]
}

/** What a promise can be about: what is open of the account. */
export interface AccountToPromise {
  today: IsoDate
  /** Open debits of the customer. */
  open: readonly { itemId: number; number: string; currency: string; open: number }[]
}

/** Why a promise cannot be kept in the books as it is said. */
export function promiseRefusals(state: AccountToPromise, ask: PromiseAsk): Refusal[] {
  const refusals: Refusal[] = []
  const money = (minor: number) => amountWords(minor, ask.currency)
  const dates = ask.parts.map(p => p.date)
  ask.parts.forEach(({ date }, n) => {
    if (date < state.today)
      refusals.push(
        refuse('promise.past', `parts.${n}.date`, `${date} is over`, `a day from ${state.today} on`),
      )
    if (n > 0 && date <= dates[n - 1]!)
      refusals.push(
        refuse(
          'promise.order',
          `parts.${n}.date`,
          'dates follow each other',
          'each later than the one before',
        ),
      )
  })
  const own = state.open.filter(i => i.currency === ask.currency)
  for (const [n, { itemId, amount }] of (ask.items ?? []).entries()) {
    const item = own.find(i => i.itemId === itemId)
    if (!item)
      refusals.push(
        refuse(
          'promise.item',
          `items.${n}`,
          'nothing of this item is open in this currency',
          'choose open items of one currency',
        ),
      )
    else if (amount > item.open)
      refusals.push(
        refuse(
          'promise.open',
          `items.${n}.amount`,
          `${money(item.open)} of ${item.number} are open`,
          `at most ${money(item.open)}`,
        ),
      )
  }
  const most = ask.items === null ? own.reduce((a, i) => a + i.open, 0) : sum(ask.items)
  const total = sum(ask.parts)
  if (total > most)
    refusals.push(
      refuse(
        'promise.amount',
        'parts',
        `${money(total)} are promised, ${money(most)} are open`,
        `at most ${money(most)}`,
      ),
    )
  return refusals
}

/**
 * The items that an open promise speaks of, with why reminders leave them out: its own, or for a promise for
 * the account the oldest that what is still to come covers whole.
 */
export function coveredItems(
  promise: Promised,
  stand: PromiseStand,
  open: readonly { itemId: number; currency: string; open: number; dueDate: IsoDate }[],
): number[] {
  if (stand.state !== 'open') return []
  if (promise.items !== null) return promise.items.map(i => i.itemId)
  let left = sum(stand.parts) - stand.paid
  const covered: number[] = []
  const oldestFirst = open
    .filter(i => i.currency === promise.currency && i.open > 0)
    .sort((a, b) => (a.dueDate < b.dueDate ? -1 : a.dueDate > b.dueDate ? 1 : a.itemId - b.itemId))
  for (const item of oldestFirst) {
    if (item.open > left) break
    left -= item.open
    covered.push(item.itemId)
  }
  return covered
}

/** The next part that is still to come. */
export const nextPart = (stand: PromiseStand): PartStand | null =>
  stand.parts.find(p => p.state === 'due') ?? null

/** Equal instalments: so many, so many days or months apart; the first takes the cents that are left. */
export function instalments(total: number, count: number, dates: (n: number) => IsoDate): PromisePart[] {
  const each = Math.floor(total / count)
  return Array.from({ length: count }, (_, n) => ({
    date: dates(n),
    amount: n === 0 ? total - each * (count - 1) : each,
  }))
}
