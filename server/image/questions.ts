import { accountList, type AccountList, type AccountListAsk } from '../../core/accounts'
import { callList, type CallAsk, type CallList } from '../../core/callList'
import {
  exposedOf,
  stoodOn,
  type Exposed,
  type ExposedAsk,
  type HistoryAsk,
  type StoodOn,
} from '../../core/impairment'
import { knownLedger, type KnownAsk, type KnownLedger } from '../../core/forecast'
import { convert } from '../../core/money'
import {
  bridge,
  namedBy,
  pageOf,
  position,
  type Dimension,
  type PageAsk,
  type PersonName,
} from '../../core/aging'
import type { Bridge, BridgeAsk, BridgePart, Position, PositionAsk, SortedRow } from '../../core/aging'
import type { Customers } from '../../core/image'
import {
  ingredientsOf,
  partItems,
  type Disputed,
  type Ingredients,
  type MeasuredDay,
  type PartAsk,
  type PartItem,
  type PromiseDue,
} from '../../core/measures'
import { dayFigures, type DayAsk, type DayFigures } from '../../core/today'
import type { Books } from './image'

/*
 * What can be asked of the ledger in memory. A question is a pure function of `core/` over its columns; what
 * is asked and answered goes from thread to thread, so both are plain values.
 */

/** Customers that count; what is left out does not matter. */
export interface Wanted {
  /** Those a search found; null for all. */
  ids: number[] | null
  salesId?: number
  class?: string
  country?: string
  /** null: nobody's. */
  controllerId?: number | null
}

/** By row, 1 for those that are wanted; null when all are. */
export function wantedRows(customers: Customers, wanted: Wanted): Uint8Array | null {
  const { ids, ...fields } = wanted
  if (ids === null && Object.values(fields).every(v => v === undefined)) return null
  const found = ids && new Set(ids)
  return Uint8Array.from(customers.rows, c =>
    (!found || found.has(c.id)) &&
    (fields.salesId === undefined || c.salesId === fields.salesId) &&
    (fields.class === undefined || c.class === fields.class) &&
    (fields.country === undefined || c.country === fields.country) &&
    (fields.controllerId === undefined || c.controllerId === fields.controllerId)
      ? 1
      : 0,
  )
}

export interface AgingQuestion extends Omit<PositionAsk, 'wanted' | 'withOldest'> {
  wanted: Wanted
  people: [id: number, person: PersonName][]
  classes: [code: string, name: string][]
  page: PageAsk
}

export interface AgingPage {
  rows: SortedRow[]
  totals: Position['totals']
  /** The whole ledger in base currency, whoever asks. */
  ledger: number
}

function aging(books: Books, { wanted, people, classes, page, ...ask }: AgingQuestion): AgingPage {
  const { ledger, customers } = books
  const open = books.openAt(ask.moment)
  const naming = {
    people: new Map(people),
    classes: new Map(classes),
    salesId: wanted.salesId ?? null,
  }
  const named = ask.by.map((dimension: Dimension) => namedBy(dimension, customers, naming))
  const ofCustomers = {
    ...ask,
    withOldest: page.column === 'oldest',
    wanted: wantedRows(customers, wanted),
  }
  const found = position(ledger, customers, open, ofCustomers, named, books.scratch)
  return { rows: pageOf(found, page), totals: found.totals, ledger: open.table.whole }
}

export interface BridgeQuestion extends Omit<BridgeAsk, 'wanted'> {
  wanted: Wanted
}

/** What is open on a day, as it is known now. */
const openOn = (books: Books) => (day: number) => books.openAt({ day, known: null })

/** What moved from one day to another. */
const bridgeOf = (books: Books, { wanted, ...ask }: BridgeQuestion): Bridge =>
  bridge(books.ledger, books.customers, openOn(books), {
    ...ask,
    wanted: wantedRows(books.customers, wanted),
  })

export interface MovesQuestion extends BridgeQuestion {
  part: BridgePart
  /** A bucket, or credit on account behind the last; null for all columns. */
  column: number | null
  limit: number
}

export interface Moves {
  /** The largest first. */
  items: { itemId: number; amount: number }[]
  count: number
  total: number
}

/** The items that a part of the bridge is made of. */
function moves(books: Books, { wanted, part, column, limit, ...ask }: MovesQuestion): Moves {
  const { ledger, customers } = books
  const byItem = new Map<number, number>()
  bridge(ledger, customers, openOn(books), { ...ask, wanted: wantedRows(customers, wanted) }, move => {
    if (move.part !== part || (column !== null && move.column !== column)) return
    byItem.set(move.itemId, (byItem.get(move.itemId) ?? 0) + move.amount)
  })
  const items = [...byItem]
    .filter(([, amount]) => amount !== 0)
    .map(([itemId, amount]) => ({ itemId, amount }))
  items.sort((a, b) => Math.abs(b.amount) - Math.abs(a.amount) || a.itemId - b.itemId)
  return {
    items: items.slice(0, limit),
    count: items.length,
    total: items.reduce((sum, i) => sum + i.amount, 0),
  }
}

export interface MeasuresQuestion {
  wanted: Wanted
  days: MeasuredDay[]
  /** Null: all together. */
  by: Dimension | null
  people: [id: number, person: PersonName][]
  classes: [code: string, name: string][]
  disputed: Disputed[]
  promises: PromiseDue[]
}

export interface MeasuresGroup {
  key: string
  name: string
  /** Of each day asked for. */
  days: Ingredients[]
}

/** The sums that measures are made of, of each group of customers. */
function measures({ ledger, customers }: Books, question: MeasuresQuestion): MeasuresGroup[] {
  const { wanted, days, by, people, classes } = question
  const isWanted = wantedRows(customers, wanted)
  const naming = { people: new Map(people), classes: new Map(classes), salesId: wanted.salesId ?? null }
  const nameOf = by && namedBy(by, customers, naming)
  const groups: { key: string; name: string }[] = []
  const placeOf = new Map<string, number>()
  const groupOf = new Int32Array(customers.count).fill(-1)
  for (let row = 0; row < customers.count; row++) {
    if (isWanted !== null && isWanted[row] === 0) continue
    const group = nameOf ? nameOf(row, '') : { key: '', name: '' }
    const place = placeOf.get(group.key) ?? groups.push(group) - 1
    placeOf.set(group.key, place)
    groupOf[row] = place
  }
  // Of a ledger in slices, deductions of others are not there.
  const disputed = question.disputed.filter(d => ledger.hasItem(d.itemId))
  const { promises } = question
  const sums = ingredientsOf(ledger, customers, {
    days,
    groupOf,
    groups: groups.length,
    disputed,
    promises,
  })
  return groups.map((group, place) => ({ ...group, days: sums.map(day => day[place]!) }))
}

export interface PartQuestion extends Omit<PartAsk, 'wanted'> {
  wanted: Wanted
  limit: number
}

export interface PartItems {
  /** The largest first. */
  items: PartItem[]
  count: number
  total: number
}

/** The items that a part of a measure is made of. */
function part(books: Books, { wanted, limit, ...ask }: PartQuestion): PartItems {
  const { ledger, customers } = books
  const disputed = ask.disputed.filter(d => ledger.hasItem(d.itemId))
  const found = partItems(ledger, customers, openOn(books), {
    ...ask,
    disputed,
    wanted: wantedRows(customers, wanted),
  })
  const items = [...found].sort((a, b) => Math.abs(b.amount) - Math.abs(a.amount) || a.itemId - b.itemId)
  return {
    items: items.slice(0, limit),
    count: items.length,
    total: items.reduce((sum, i) => sum + i.amount, 0),
  }
}

export interface AccountsQuestion extends Omit<AccountListAsk, 'wanted' | 'inBase'> {
  wanted: Wanted
  base: string
  /** Of currencies that limits are in: one unit in base currency. */
  rates: [currency: string, rate: string][]
}

/** The list of accounts by what the ledger says of each. */
function accounts(books: Books, { wanted, base, rates, ...ask }: AccountsQuestion): AccountList {
  const { customers } = books
  const rateOf = new Map(rates)
  const inBase = (amount: number, currency: string): number | null => {
    if (currency === base || amount === 0) return amount
    const rate = rateOf.get(currency)
    return rate === undefined ? null : convert(amount, currency, base, rate)
  }
  const open = books.openAt({ day: ask.day, known: null })
  return accountList(customers, open, { ...ask, wanted: wantedRows(customers, wanted), inBase })
}

export interface DayQuestion extends Omit<DayAsk, 'wanted'> {
  wanted: Wanted
}

/** The figures of the first screen. */
function day(books: Books, { wanted, ...ask }: DayQuestion): DayFigures {
  const { ledger, customers } = books
  const open = books.openAt({ day: ask.today, known: null })
  return dayFigures(ledger, customers, open, { ...ask, wanted: wantedRows(customers, wanted) })
}

export interface CallsQuestion extends Omit<CallAsk, 'wanted'> {
  wanted: Wanted
}

/** The call list: whom to ring now. */
function calls(books: Books, { wanted, ...ask }: CallsQuestion): CallList {
  const { ledger, customers } = books
  const open = books.openAt({ day: ask.day, known: null })
  return callList(customers, open, ledger, { ...ask, wanted: wantedRows(customers, wanted) })
}

/** What an allowance is worked out from. */
const exposed = (books: Books, ask: ExposedAsk): Exposed =>
  exposedOf(books.ledger, books.customers, openOn(books)(ask.day), ask)

/** What stood on past days, and what became of it. */
const history = (books: Books, ask: HistoryAsk): StoodOn[] => stoodOn(books.ledger, openOn(books), ask)

/** What a forecast is made from. */
const known = ({ ledger, customers }: Books, ask: Omit<KnownAsk, 'only'>): KnownLedger =>
  knownLedger(ledger, customers, ask)

export const QUESTIONS = {
  ...{ aging, bridge: bridgeOf, moves, measures, part, accounts, day, calls },
  ...{ exposed, history, known },
}

export type QuestionName = keyof typeof QUESTIONS
export type Ask<Name extends QuestionName> = Parameters<(typeof QUESTIONS)[Name]>[1]
export type Answer<Name extends QuestionName> = ReturnType<(typeof QUESTIONS)[Name]>

/** Answers a question; `name` and `ask` belong together. */
export function answer<Name extends QuestionName>(books: Books, name: Name, ask: Ask<Name>): Answer<Name> {
  const question = QUESTIONS[name] as (books: Books, ask: Ask<Name>) => Answer<Name>
  return question(books, ask)
}
