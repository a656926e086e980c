import { fromDayNumber } from '../calendar'
import type { House } from './past'
import type { PayDays } from './payDays'

/* What was learnt of a house: how each of its customers pays, and what they have in common. */

export interface Model {
  asOf: number
  calendar: PayDays
  house: House
  run: Uint8Array
  /** Days after the due day that it wants to pay. */
  slack: Float64Array
  /** How much that varies from item to item. */
  spread: Float64Array
  /** How well the slack is known: its standard error in days. */
  unsure: Float64Array
  /** Payments behind it, newer ones counting more. */
  paidItems: Float64Array
  /** Chance that it pays as before at all: who has stopped is at 0. */
  alive: Float64Array
  /** Of what is owed, the share that comes as money. */
  share: Float64Array
  lastPaid: Int32Array
  /** Days after the due day that its money came, on average; NaN of who has paid nothing. */
  late: Float64Array
  /** Days more or less by the size of an item: upper bounds of sizes, and days. */
  sizes: { upTo: Float64Array; days: Float64Array }
  /** Days more or less by the month of the due day, January first. */
  season: Float64Array
  /**
   * What is left, in spreads: the share that still waits beyond each of `EDGES`, of one customer after
   * another.
   */
  waits: Float32Array
  /** How alike items of one customer due at one time are; and all of the house at one time. */
  together: number
  common: number
  /** Days after which a payment tells half as much. */
  halving: number
}

export function sizeOf(upTo: Float64Array, amount: number): number {
  let size = 0
  while (size < upTo.length && amount > upTo[size]!) size++
  return size
}
export const monthOf = (day: number): number => Number(fromDayNumber(day).slice(5, 7)) - 1

/** Days after its due day that a customer wants to pay an item. */
export function slackOf(model: Model, customer: number, amount: number, due: number): number {
  return (
    model.slack[customer]! + model.sizes.days[sizeOf(model.sizes.upTo, amount)]! + model.season[monthOf(due)]!
  )
}

/** Days after the due day that a customer's money usually comes; of who paid nothing, what it would want. */
export const usualLate = ({ late, slack }: Model, customer: number): number =>
  Number.isNaN(late[customer]!) ? slack[customer]! : late[customer]!
