/*
 * What the forecast learns from: debit items with the day on which money came for them, or how long they have
 * waited. Columns, since there may be a million. Days are days since 1970, amounts minor units of base.
 */

/** How an item ended. */
export const ENDED = {
  /** It is open. */
  open: 0,
  /** Money came for most of it. */
  paid: 1,
  /** Credited, written off, netted: it waits no more, and no money came. */
  otherwise: 2,
} as const

export interface Past {
  count: number
  /**
   * Row of the customer in the house. Items of one customer stand together, in the order of their due
   * days.
   */
  customer: Uint32Array
  due: Int32Array
  written: Int32Array
  amount: Float64Array
  /** Of it: what is open still, or of an ended one what came as money. */
  part: Float64Array
  ended: Uint8Array
  /** The day of its end; of an open one the day of the forecast. */
  end: Int32Array
}

export const COLUMNS = ['customer', 'due', 'written', 'amount', 'part', 'ended', 'end'] as const

/** The customers of a house by row. */
export interface House {
  customers: number
  /** A class or country: those of one group borrow from each other first. */
  group: Uint16Array
  groups: number
  /** Ids by which each is tried by a chance of its own, whatever its row; rows where left out. */
  ids?: Uint32Array
}

export function emptyPast(count: number): Past {
  return {
    count,
    customer: new Uint32Array(count),
    due: new Int32Array(count),
    written: new Int32Array(count),
    amount: new Float64Array(count),
    part: new Float64Array(count),
    ended: new Uint8Array(count),
    end: new Int32Array(count),
  }
}

/** Where the items of each customer begin; one more at the end. The items stand in the order of customers. */
export function startsOf(past: Past, customers: number): Uint32Array {
  const starts = new Uint32Array(customers + 1)
  for (let i = 0; i < past.count; i++) starts[past.customer[i]! + 1]!++
  for (let c = 0; c < customers; c++) starts[c + 1]! += starts[c]!
  return starts
}
