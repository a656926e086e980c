import type { IsoDate } from '../calendar'
import { share } from '../money'
import { dateRefusals, decide, decided, refuse } from '../ledger/rules'
import type { Decided, Decision, LedgerState, Line, Means } from '../ledger/types'

/** Cheques and cash of a receipt that wait in the Tray. */
export interface TrayMeans {
  id: number
  receipt: string
  means: Means
  currency: string
  amount: number
  baseAmount: number
  date: IsoDate
  /** Taken to the bank on this slip already, or its receipt was reversed. */
  slip: string | null
  reversed: boolean
}

export interface SlipIntent {
  date: IsoDate
  means: readonly TrayMeans[]
  wanted: readonly number[]
  cashKept: number
}

/**
 * A paying-in slip: money leaves *Receipts on hand*; what goes to the bank waits in clearing until the
 * statement shows it as one line, cash kept back goes to petty cash.
 */
export function postSlip(state: LedgerState, intent: SlipIntent): Decision {
  const refusals = dateRefusals(state, intent.date, 'date')
  if (!intent.wanted.length)
    refusals.push(
      refuse(
        'slip.some',
        'means',
        'nothing was chosen for the slip',
        'choose at least one cheque or some cash',
      ),
    )
  intent.wanted.forEach((id, i) => {
    const m = intent.means.find(x => x.id === id)
    if (!m)
      refusals.push(
        refuse('slip.known', `means.${i}`, `there is nothing ${id} in the tray`, 'choose from the tray'),
      )
    else if (m.slip)
      refusals.push(
        refuse(
          'slip.once',
          `means.${i}`,
          `${m.receipt} went to the bank on slip ${m.slip}`,
          'reload the tray',
        ),
      )
    else if (m.reversed)
      refusals.push(refuse('slip.reversed', `means.${i}`, `${m.receipt} was reversed`, 'leave it out'))
    else if (m.date > intent.date)
      refusals.push(refuse('slip.date', 'date', `${m.receipt} is dated ${m.date}`, `use ${m.date} or later`))
  })
  if (new Set(intent.means.map(m => m.currency)).size > 1)
    refusals.push(
      refuse('slip.currency', 'means', 'a slip is in one currency', 'make a slip for each currency'),
    )
  const total = intent.means.reduce((a, m) => a + m.amount, 0)
  const cash = intent.means.filter(m => m.means === 'cash').reduce((a, m) => a + m.amount, 0)
  if (!Number.isSafeInteger(intent.cashKept) || intent.cashKept < 0)
    refusals.push(
      refuse('slip.kept', 'cashKept', 'cash kept back cannot be less than zero', 'enter zero or more'),
    )
  else if (intent.cashKept > cash)
    refusals.push(
      refuse(
        'slip.kept',
        'cashKept',
        `only ${cash} minor units of cash are on the slip`,
        `keep back at most ${cash}`,
      ),
    )
  else if (intent.cashKept > 0 && intent.cashKept === total)
    refusals.push(refuse('slip.kept', 'cashKept', 'nothing would be left for the bank', 'keep back less'))
  return decide(refusals, () => {
    const base = intent.means.reduce((a, m) => a + m.baseAmount, 0)
    const keptBase = share(base, intent.cashKept, total)
    const line = { currency: intent.means[0]!.currency, customerId: null, item: null, allocation: null }
    const lines: Line[] = [
      {
        ...line,
        account: state.chart.clearing,
        amount: total - intent.cashKept,
        baseAmount: base - keptBase,
      },
    ]
    if (intent.cashKept)
      lines.push({
        ...line,
        account: state.chart['petty-cash'],
        amount: intent.cashKept,
        baseAmount: keptBase,
      })
    lines.push({ ...line, account: state.chart['on-hand'], amount: -total, baseAmount: -base })
    return {
      kind: 'slip',
      date: intent.date,
      text: 'Paying-in slip',
      series: 'slip',
      items: [],
      allocations: [],
      lines,
    }
  })
}

/** Takes a slip back: everything on it lies in the Tray again. */
export function voidSlip(
  state: LedgerState,
  intent: {
    date: IsoDate
    slip: string
    slipDate: IsoDate
    voided: boolean
    settled: boolean
    reversedReceipt: string | null
    lines: readonly Line[]
  },
): Decision {
  const refusals = dateRefusals(state, intent.date, 'date')
  if (intent.voided)
    refusals.push(refuse('slip.void-once', 'slip', `${intent.slip} was voided before`, 'see its history'))
  if (intent.settled)
    refusals.push(
      refuse(
        'slip.settled',
        'slip',
        `the bank shows ${intent.slip} on its statement`,
        'unmatch the bank line first',
      ),
    )
  if (intent.reversedReceipt)
    refusals.push(
      refuse(
        'slip.void-reversed',
        'slip',
        `${intent.reversedReceipt} on it was reversed after it went to the bank`,
        'leave the slip as it is',
      ),
    )
  if (intent.date < intent.slipDate)
    refusals.push(
      refuse('slip.date', 'date', `the slip is dated ${intent.slipDate}`, `use ${intent.slipDate} or later`),
    )
  return decide(refusals, () => ({
    kind: 'slip',
    date: intent.date,
    text: `Slip ${intent.slip} voided`,
    items: [],
    allocations: [],
    lines: intent.lines.map(l => ({ ...l, amount: -l.amount, baseAmount: -l.baseAmount })),
  }))
}

export interface SlipState {
  ledger: LedgerState
  means: readonly TrayMeans[]
}

export const decideSlip = (
  state: SlipState,
  ask: { date: IsoDate; means: readonly number[]; cashKept: number },
): Decided => {
  const { date, means: wanted, cashKept } = ask
  return decided(postSlip(state.ledger, { date, wanted, cashKept, means: state.means }))
}

/** A slip as it stands behind its lock. */
export interface SlipVoidState {
  ledger: LedgerState
  slip: string
  slipDate: IsoDate
  voided: boolean
  settled: boolean
  reversedReceipt: string | null
  lines: readonly Line[]
}

export const decideSlipVoid = ({ ledger, ...slip }: SlipVoidState, ask: { date: IsoDate }): Decided =>
  decided(voidSlip(ledger, { ...slip, date: ask.date }))
