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

export interface AgingQuestion extends Omit<PositionAsk, 'wanted'> {
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
  const found = position(ledger, customers, open, { ...ask, wanted: wantedRows(customers, wanted) }, named)
  let whole = 0
  const { debit } = ledger.items.column
  for (let row = 0; row < ledger.items.count; row++)
    whole += debit[row] === 1 ? open.base[row]! : -open.base[row]!
  return {
    rows: pageOf(found, page),
    totals: found.totals,
    ledger: whole,
  }
}

export interface BridgeQuestion extends Omit<BridgeAsk, 'wanted'> {
  wanted: Wanted
}

/** What moved from one day to another. */
const bridgeOf = ({ ledger, customers }: Books, { wanted, ...ask }: BridgeQuestion): Bridge =>
  bridge(ledger, customers, { ...ask, wanted: wantedRows(customers, wanted) })

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
function moves({ ledger, customers }: Books, { wanted, part, column, limit, ...ask }: MovesQuestion): Moves {
  const byItem = new Map<number, number>()
  bridge(ledger, customers, { ...ask, wanted: wantedRows(customers, wanted) }, move => {
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

export const QUESTIONS = { aging, bridge: bridgeOf, moves }

export type QuestionName = keyof typeof QUESTIONS
export type Ask<Name extends QuestionName> = Parameters<(typeof QUESTIONS)[Name]>[1]
export type Answer<Name extends QuestionName> = ReturnType<(typeof QUESTIONS)[Name]>

/** Answers a question; `name` and `ask` belong together. */
export function answer<Name extends QuestionName>(books: Books, name: Name, ask: Ask<Name>): Answer<Name> {
  const question = QUESTIONS[name] as (books: Books, ask: Ask<Name>) => Answer<Name>
  return question(books, ask)
}
