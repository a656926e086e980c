import type { Ingredients } from './ingredients'
import { countBack } from './countBack'

/*
 * The measures of collection. Each is one row: what it is called, how it is made of sums of the ledger, and
 * in which direction it is better. Definitions after the Credit Research Foundation (from memory), where it
 * defines one; the others are common practice.
 */

/** `money`: base currency, minor units; `days`; `percent`, 0 to 100. */
export type MeasureUnit = 'money' | 'days' | 'percent'

export interface MeasureRow {
  label: string
  unit: MeasureUnit
  /** What it says, in a sentence. */
  definition: string
  /** How it is worked out, in the names of its parts. */
  formula: string
  better: 'less' | 'more'
  /** The parts it is made of, in the order of the formula. */
  parts: readonly Part[]
  /** Null when its parts do not say it, as days of sales where nothing was sold. */
  of: (i: Ingredients) => number | null
}

/** Sums of the ledger that a measure is made of, and whose items one can look at. */
export const PARTS = {
  receivables: 'open receivables',
  current: 'not overdue',
  overdue: 'overdue',
  over90: 'overdue by more than 90 days',
  onAccount: 'credit on account',
  unallocated: 'money not allocated',
  disputed: 'disputed',
  opening: 'open receivables at the start of the period',
  sales: 'sales of the period',
  paid: 'paid in the period',
} as const
export type Part = keyof typeof PARTS

const ratio = (part: number, whole: number): number | null => (whole > 0 ? part / whole : null)
const times = (value: number | null, by: number): number | null => (value === null ? null : value * by)

const ROWS = {
  overdue: {
    label: 'Overdue',
    unit: 'money',
    definition: 'What customers owe and should have paid by now.',
    formula: 'open receivables whose due date is past',
    better: 'less',
    parts: ['overdue'],
    of: i => i.overdue,
  },
  overdueShare: {
    label: 'Share overdue',
    unit: 'percent',
    definition: 'How much of what is open is overdue.',
    formula: 'overdue ÷ open receivables × 100',
    better: 'less',
    parts: ['overdue', 'receivables'],
    of: i => times(ratio(i.overdue, i.receivables), 100),
  },
  over90Share: {
    label: 'Share over 90 days',
    unit: 'percent',
    definition: 'How much of what is open is more than 90 days late.',
    formula: 'overdue by more than 90 days ÷ open receivables × 100',
    better: 'less',
    parts: ['over90', 'receivables'],
    of: i => times(ratio(i.over90, i.receivables), 100),
  },
  dso: {
    label: 'Days sales outstanding',
    unit: 'days',
    definition: 'How many days of sales customers still owe, by the sales of the period.',
    formula: 'open receivables ÷ sales of the period × days of the period',
    better: 'less',
    parts: ['receivables', 'sales'],
    of: i => times(ratio(i.receivables, i.sales), i.days),
  },
  countBack: {
    label: 'DSO by count-back',
    unit: 'days',
    definition:
      'The same, taking sales off the balance month by month, so that a season does not distort it.',
    formula: 'whole months of sales off open receivables from the newest, the rest as a share of its month',
    better: 'less',
    parts: ['receivables'],
    of: i => countBack(i.receivables, i.months),
  },
  bestDso: {
    label: 'Best possible DSO',
    unit: 'days',
    definition: 'The days of sales outstanding if nobody were late: what the terms alone cost.',
    formula: 'not overdue ÷ sales of the period × days of the period',
    better: 'less',
    parts: ['current', 'sales'],
    of: i => times(ratio(i.current, i.sales), i.days),
  },
  delinquent: {
    label: 'Average days delinquent',
    unit: 'days',
    definition: 'What lateness adds to the days of sales outstanding.',
    formula: 'days sales outstanding − best possible DSO',
    better: 'less',
    parts: ['overdue', 'sales'],
    of: i => times(ratio(i.receivables - i.current, i.sales), i.days),
  },
  daysLate: {
    label: 'Days late of what was paid',
    unit: 'days',
    definition:
      'How late the money of the period came, each payment weighted by its amount; early counts less.',
    formula: 'paid amounts × their days late ÷ paid in the period',
    better: 'less',
    parts: ['paid'],
    of: i => ratio(i.paidDays, i.paid),
  },
  effectiveness: {
    label: 'Collection effectiveness',
    unit: 'percent',
    definition: 'How much was collected of what could be: 100 when nothing that is due stayed open.',
    formula: '(opening + sales − open receivables) ÷ (opening + sales − not overdue) × 100',
    better: 'more',
    parts: ['opening', 'sales', 'receivables', 'current'],
    of: i => times(ratio(i.opening + i.sales - i.receivables, i.opening + i.sales - i.current), 100),
  },
  promisesKept: {
    label: 'Promises kept',
    unit: 'percent',
    definition:
      'How much of what was promised for days of the period came in time; the promises are listed under Promises.',
    formula: 'came in time ÷ promised for days of the period × 100',
    better: 'more',
    parts: [],
    of: i => times(ratio(i.promiseKept, i.promised), 100),
  },
  unallocated: {
    label: 'Unallocated cash',
    unit: 'money',
    definition: 'Money that came and closes nothing yet.',
    formula: 'receipts and advances, as far as they are not allocated',
    better: 'less',
    parts: ['unallocated'],
    of: i => i.unallocated,
  },
  disputed: {
    label: 'Disputed',
    unit: 'money',
    definition: 'What customers deducted and say they do not owe.',
    formula: 'deductions, as far as their items are open',
    better: 'less',
    parts: ['disputed'],
    of: i => i.disputed,
  },
} satisfies Record<string, MeasureRow>

export type Measure = keyof typeof ROWS
export const MEASURES: Readonly<Record<Measure, MeasureRow>> = ROWS
export const MEASURE_NAMES = Object.keys(MEASURES) as Measure[]

export type Figures = Record<Measure, number | null>

/** Days and percents to a tenth: more would say more than is known. */
const rounded = (value: number | null, unit: MeasureUnit): number | null =>
  value === null ? null : unit === 'money' ? value : Math.round(value * 10) / 10

/** All measures of one day and group. */
export function figuresOf(ingredients: Ingredients): Figures {
  const figures = MEASURE_NAMES.map(name => {
    const { unit, of } = MEASURES[name]
    return [name, rounded(of(ingredients), unit)]
  })
  return Object.fromEntries(figures) as Figures
}
