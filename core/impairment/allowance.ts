import { assertBalanced, dateRefusals, refuse, refused } from '../ledger/rules'
import type { IsoDate } from '../calendar'
import type { Decided, LedgerState, Line, Posting, Refusal } from '../ledger/types'
import { share, split, WHOLE } from '../money'

/*
 * What is set aside for debts that will be lost: a matrix of age band and risk class (simplified approach of
 * IFRS 9, B5.5.35), beside cases that are judged by name. Rates are basis points: 10,000 is all of it.
 */

/** Rates by risk class, one for each age band from not due on; `rest` for classes without a row. */
export interface AllowanceMatrix {
  rest: number[]
  byClass: Record<string, number[]>
}

/** What a customer owes in one currency and age band, at the date of the allowance. Minor units. */
export interface OpenInBand {
  customerId: number
  riskClass: string
  currency: string
  band: number
  /** Claims alone: what stands on the account as credit makes none of them safer. */
  gross: number
  base: number
  /** Of it insured, or with a factor who bears the loss. */
  borne: number
  borneBase: number
}

/** A case that is taken out of the matrix. */
export interface NamedCase {
  id: number
  customerId: number
  currency: string
  gross: number
  base: number
  rate: number
  /** Of the same by band, taken out of the matrix there. */
  byBand: readonly { band: number; gross: number; base: number }[]
}

export interface AllowanceAsk {
  matrix: AllowanceMatrix
  /** Looking forward: 10,000 leaves the rates as they are; with a reason where it does not. */
  factor: number
  reason: string
}

/** One cell of the matrix, with all that its figure is made of. */
export interface AllowanceCell {
  riskClass: string
  currency: string
  band: number
  gross: number
  grossBase: number
  borne: number
  borneBase: number
  named: number
  namedBase: number
  /** What the rate is applied to. */
  exposed: number
  exposedBase: number
  rate: number
  allowance: number
  allowanceBase: number
}

export interface NamedAllowance {
  id: number
  customerId: number
  currency: string
  gross: number
  base: number
  rate: number
  allowance: number
  allowanceBase: number
}

/** An allowance, worked out. The note needs gross, allowance and net by band: they are sums of the cells. */
export interface Allowance {
  cells: AllowanceCell[]
  named: NamedAllowance[]
  /** What is set aside for named cases, by band; base currency. */
  namedByBand: number[]
  /** By currency, collective and named together. */
  totals: { currency: string; amount: number; base: number }[]
}

/** Why rates cannot be used; empty when they can. */
export function allowanceRefusals({ matrix, factor, reason }: AllowanceAsk): Refusal[] {
  const refusals: Refusal[] = []
  const rows: [string, readonly number[]][] = [['rest', matrix.rest], ...Object.entries(matrix.byClass)]
  for (const [riskClass, rates] of rows) {
    rates.forEach((rate, band) => {
      if (Number.isInteger(rate) && rate >= 0 && rate <= WHOLE) return
      const path = `matrix.${riskClass}.${band}`
      refusals.push(
        refuse('allowance.rate', path, `${rate / 100} % is no rate of loss`, 'between 0 and 100 %'),
      )
    })
    if (rates.length !== matrix.rest.length)
      refusals.push(
        refuse(
          'allowance.bands',
          `matrix.${riskClass}`,
          `${rates.length} rates stand for ${matrix.rest.length} age bands`,
          'give one rate for each band',
        ),
      )
  }
  if (!Number.isInteger(factor) || factor < 0 || factor > 10 * WHOLE)
    refusals.push(
      refuse('allowance.factor', 'factor', 'this is no factor', 'between 0 and 10; 1 changes nothing'),
    )
  if (factor !== WHOLE && !reason.trim())
    refusals.push(
      refuse('allowance.reason', 'reason', 'a forward-looking factor needs a reason', 'say what is expected'),
    )
  return refusals
}

/** The rate of a cell: of its class, with the factor, never above the whole. */
export function rateOfCell({ matrix, factor }: AllowanceAsk, riskClass: string, band: number): number {
  const rates = matrix.byClass[riskClass] ?? matrix.rest
  return Math.min(WHOLE, share(rates[band] ?? rates.at(-1) ?? 0, factor, WHOLE))
}

/**
 * The allowance of a day. Each cell is rounded once, so that anyone who multiplies its sum by its rate gets
 * its figure. Example: 15,000,000 at 0.3 %, 7,500,000 at 1.6 %, 4,000,000 at 3.6 %, 2,500,000 at 6.6 % and
 * 1,000,000 at 10.6 % make 580,000 (IFRS 9, Illustrative Example 12).
 */
export function allowanceOf(
  open: readonly OpenInBand[],
  cases: readonly NamedCase[],
  ask: AllowanceAsk,
): Allowance {
  const cells = new Map<string, AllowanceCell>()
  const riskClassOf = new Map<string, string>()
  const cellAt = (riskClass: string, currency: string, band: number): AllowanceCell => {
    const key = `${riskClass} ${currency} ${band}`
    const known = cells.get(key)
    if (known) return known
    const zero = { gross: 0, grossBase: 0, borne: 0, borneBase: 0, named: 0, namedBase: 0 }
    const cell: AllowanceCell = {
      ...{ riskClass, currency, band, ...zero, exposed: 0, exposedBase: 0 },
      rate: rateOfCell(ask, riskClass, band),
      ...{ allowance: 0, allowanceBase: 0 },
    }
    cells.set(key, cell)
    return cell
  }
  for (const o of open) {
    riskClassOf.set(`${o.customerId} ${o.currency}`, o.riskClass)
    const cell = cellAt(o.riskClass, o.currency, o.band)
    cell.gross += o.gross
    cell.grossBase += o.base
    cell.borne += o.borne
    cell.borneBase += o.borneBase
    cell.exposed += o.gross - o.borne
    cell.exposedBase += o.base - o.borneBase
  }
  for (const { customerId, currency, byBand } of cases) {
    const riskClass = riskClassOf.get(`${customerId} ${currency}`) ?? ''
    for (const { band, gross, base } of byBand) {
      const cell = cellAt(riskClass, currency, band)
      cell.named += gross
      cell.namedBase += base
      cell.exposed -= gross
      cell.exposedBase -= base
    }
  }
  for (const cell of cells.values()) {
    cell.allowance = share(Math.max(0, cell.exposed), cell.rate, WHOLE)
    cell.allowanceBase = share(Math.max(0, cell.exposedBase), cell.rate, WHOLE)
  }
  const named = cases.map(({ id, customerId, currency, gross, base, rate }) => ({
    ...{ id, customerId, currency, gross, base, rate },
    allowance: share(gross, rate, WHOLE),
    allowanceBase: share(base, rate, WHOLE),
  }))
  const list = [...cells.values()].sort(
    (a, b) =>
      a.currency.localeCompare(b.currency) || a.riskClass.localeCompare(b.riskClass) || a.band - b.band,
  )
  return { cells: list, named, namedByBand: byBandOf(cases, named), totals: totalsOf([...list, ...named]) }
}

/** The allowance of each case goes to the bands in which its claims stand, by what stands there. */
function byBandOf(cases: readonly NamedCase[], named: readonly NamedAllowance[]): number[] {
  const sums: number[] = []
  cases.forEach(({ byBand }, n) => {
    const { allowanceBase } = named[n]!
    const bases = byBand.map(b => b.base)
    if (allowanceBase === 0) return
    split(allowanceBase, bases).forEach((part, i) => {
      const { band } = byBand[i]!
      sums[band] = (sums[band] ?? 0) + part
    })
  })
  return Array.from(sums, sum => sum ?? 0)
}

function totalsOf(
  parts: readonly { currency: string; allowance: number; allowanceBase: number }[],
): Allowance['totals'] {
  const sums = new Map<string, { amount: number; base: number }>()
  for (const { currency, allowance, allowanceBase } of parts) {
    const sum = sums.get(currency) ?? { amount: 0, base: 0 }
    sums.set(currency, { amount: sum.amount + allowance, base: sum.base + allowanceBase })
  }
  return [...sums].sort().map(([currency, sum]) => ({ currency, ...sum }))
}

/** What stands on the allowance account now, by currency: positive is set aside. */
export type Posted = readonly { currency: string; amount: number; base: number }[]

/** Only the difference between what is set aside and what should be, by currency. */
export function differenceOf(totals: Allowance['totals'], posted: Posted): Allowance['totals'] {
  const currencies = [...new Set([...totals, ...posted].map(t => t.currency))].sort()
  const of = (list: Posted, currency: string) =>
    list.find(t => t.currency === currency) ?? { amount: 0, base: 0 }
  return currencies
    .map(currency => ({
      currency,
      amount: of(totals, currency).amount - of(posted, currency).amount,
      base: of(totals, currency).base - of(posted, currency).base,
    }))
    .filter(d => d.amount !== 0 || d.base !== 0)
}

export interface AllowanceState {
  ledger: LedgerState
  allowance: Allowance
  posted: Posted
  /** Of this day or a later one an allowance stands already: its day. */
  standing: IsoDate | null
  date: IsoDate
}

/** Posts the difference: expense against allowance, or back. Nothing is posted where nothing differs. */
export function decideAllowance(state: AllowanceState, ask: AllowanceAsk): Decided<Allowance['totals']> {
  const { ledger, allowance, posted, date } = state
  const refusals = [...dateRefusals(ledger, date, 'date'), ...allowanceRefusals(ask)]
  if (state.standing === date)
    refusals.push(
      refuse(
        'allowance.twice',
        'date',
        `the allowance of ${date} is posted already`,
        'take that one back first, or choose another date',
      ),
    )
  else if (state.standing)
    refusals.push(
      refuse(
        'allowance.later',
        'date',
        `an allowance of ${state.standing} is posted already`,
        'choose a later date, or take that one back first',
      ),
    )
  if (refusals.length) return refused(refusals)
  const difference = differenceOf(allowance.totals, posted)
  if (!difference.length) return { ok: true, postings: [], facts: [] }
  const { chart } = ledger
  const lines = difference.flatMap(({ currency, amount, base }): Line[] => {
    const line = { currency, customerId: null, item: null, allocation: null }
    return [
      { ...line, account: chart['allowance-change'], amount, baseAmount: base },
      { ...line, account: chart.allowance, amount: -amount, baseAmount: -base },
    ]
  })
  assertBalanced(lines)
  const posting: Posting = {
    kind: 'document',
    date,
    text: `Allowance for doubtful debts as of ${date}`,
    items: [],
    allocations: [],
    lines,
  }
  return { ok: true, postings: [posting], facts: difference }
}
