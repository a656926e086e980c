import type { IsoDate } from '../calendar'
import { dateRefusals, refuse, refused } from '../ledger/rules'
import { reverse } from '../receipts/reversal'
import type { Decided, LedgerState, Line, Posting, Refusal, StateItem } from '../ledger/types'
import { takeOff } from '../ledger/open'
import { amountWords, share, split } from '../money'
import { saleOf } from './close'
import { splitGross, type Facility } from './facility'

/*
 * What a factor tells of invoices that were offered to it, and what each line of it posts. All lines of an
 * answer are posted, or none.
 */

export const ANSWER_KINDS = {
  accepted: 'Accepted',
  refused: 'Refused',
  advance: 'Advance paid',
  collected: 'Paid by the debtor',
  commission: 'Commission, with its tax',
  interest: 'Interest',
  repaid: 'Advance set off',
  recourse: 'Comes back',
  payout: 'Paid out',
} as const
export type AnswerKind = keyof typeof ANSWER_KINDS

export interface AnswerLine {
  kind: AnswerKind
  schedule: string
  /** Empty where it is about the whole schedule or settlement. */
  invoice: string
  date: IsoDate
  currency: string
  /** Minor units, positive. Of an acceptance or a refusal it may be 0: the whole invoice. */
  amount: number
  /** Of a settlement: its lines add up to what it pays out. Empty outside of one. */
  settlement: string
  text: string
}

export type FactorState = 'sent' | 'accepted' | 'collected' | 'refused' | 'back'
export const FACTOR_STATES: Readonly<Record<FactorState, string>> = {
  sent: 'offered',
  accepted: 'with the factor',
  collected: 'paid to the factor',
  refused: 'refused',
  back: 'came back',
}

/** An invoice on a schedule, with what has become of it. Minor units of its currency. */
export interface FactorItem {
  id: number
  itemId: number
  number: string
  schedule: string
  customerId: number
  currency: string
  amount: number
  base: number
  state: FactorState
  advance: number
  collected: number
  commission: number
  commissionTax: number
  interest: number
  repaid: number
  /** The item by which it left our books. */
  saleItemId: number | null
  acceptedOn: IsoDate | null
  advancedOn: IsoDate | null
  collectedOn: IsoDate | null
}

export interface AnswerState {
  ledger: LedgerState
  facility: Facility
  /** Items of the schedules that are named. */
  items: readonly FactorItem[]
  /** Settlements of this factor that were taken in before. */
  settled: ReadonlySet<string>
}

/** What each posting is of: its place among the lines, for whoever keeps the register. */
export interface Answered {
  items: FactorItem[]
  /** By posting, the line it is of. */
  lineOf: number[]
  /** Items whose closing item is the first of a posting. */
  saleOf: { posting: number; itemId: number }[]
}

interface Work {
  state: AnswerState
  items: Map<string, FactorItem>
  ledgerItems: Map<number, StateItem>
  postings: Posting[]
  lineOf: number[]
  saleOf: Answered['saleOf']
  refusals: Refusal[]
}

const keyOf = (schedule: string, invoice: string) => `${schedule}\n${invoice}`

/** Decides an answer: postings, and the items as they are after it. */
export function decideAnswer(state: AnswerState, lines: readonly AnswerLine[]): Decided<Answered> {
  const work: Work = {
    state,
    items: new Map(state.items.map(i => [keyOf(i.schedule, i.number), { ...i }])),
    ledgerItems: new Map(state.ledger.items),
    postings: [],
    lineOf: [],
    saleOf: [],
    refusals: [],
  }
  if (!lines.length)
    work.refusals.push(refuse('factor.some', 'lines', 'the answer is empty', 'check the file'))
  lines.forEach((line, n) => takeLine(work, line, n))
  work.refusals.push(...settlementRefusals(state, lines))
  if (work.refusals.length) return refused(work.refusals)
  const { lineOf, saleOf: sales } = work
  return {
    ok: true,
    postings: work.postings,
    facts: { items: [...work.items.values()], lineOf, saleOf: sales },
  }
}

/** About the whole schedule or settlement, not about one invoice. */
const OF_ALL: readonly AnswerKind[] = ['advance', 'payout']

function takeLine(work: Work, line: AnswerLine, n: number): void {
  const { state, refusals } = work
  const path = `lines.${n}`
  const before = refusals.length
  refusals.push(...dateRefusals(state.ledger, line.date, `${path}.date`))
  if (!Number.isSafeInteger(line.amount) || line.amount < 0)
    refusals.push(refuse('factor.amount', `${path}.amount`, 'this is no amount', 'give it without a sign'))
  if (refusals.length > before) return
  if (OF_ALL.includes(line.kind)) {
    if (line.kind === 'advance') takeAdvance(work, line, path)
    return
  }
  const item = work.items.get(keyOf(line.schedule, line.invoice))
  if (!item) {
    const message = `${line.invoice || 'an invoice without a number'} is not on schedule ${line.schedule}`
    refusals.push(refuse('factor.known', path, message, 'ask the factor which invoice it means'))
    return
  }
  if (item.currency !== line.currency) {
    const message = `${item.number} is in ${item.currency}, not in ${line.currency}`
    refusals.push(refuse('factor.currency', path, message, `give it in ${item.currency}`))
    return
  }
  TAKE[line.kind as keyof typeof TAKE](work, item, line, n)
}

type Take = (work: Work, item: FactorItem, line: AnswerLine, n: number) => void

const notNow = (item: FactorItem, what: string, path: string): Refusal =>
  refuse(
    'factor.state',
    path,
    `${item.number} is ${FACTOR_STATES[item.state]}: it cannot be ${what}`,
    'ask the factor what it means',
  )

function post(work: Work, posting: Posting, n: number): number {
  work.lineOf.push(n)
  return work.postings.push(posting) - 1
}

/** The invoice leaves our books: the factor owes for it. */
function close(work: Work, item: FactorItem, line: AnswerLine, n: number, amount: number): void {
  const ledgerItem = work.ledgerItems.get(item.itemId)
  if (!ledgerItem || ledgerItem.open < amount) {
    const open = amountWords(ledgerItem?.open ?? 0, item.currency)
    const message = `of ${item.number} ${open} is open, not ${amountWords(amount, item.currency)}`
    work.refusals.push(refuse('factor.open', `lines.${n}`, message, 'it was paid to us: tell the factor'))
    return
  }
  const posting = saleOf(work.state.ledger, work.state.facility, ledgerItem, amount, line)
  const [allocation] = posting.allocations
  work.ledgerItems.set(item.itemId, takeOff(ledgerItem, line.date, amount, allocation!.debitBase))
  work.saleOf.push({ posting: post(work, posting, n), itemId: item.itemId })
}

/** It comes back: a sale is reversed. With recourse it never left; what the debtor paid of it stays paid. */
function comeBack(work: Work, item: FactorItem, line: AnswerLine, n: number): boolean {
  const { ledger } = work.state
  if (work.state.facility.recourse) return true
  // Sold a line before: the sale is not posted yet, so nothing of it could be reversed.
  const isSoldNow = work.saleOf.some(s => s.itemId === item.itemId)
  if (item.saleItemId === null && !isSoldNow) return true
  const sold = item.saleItemId === null ? undefined : ledger.items.get(item.saleItemId)
  const lines = item.saleItemId === null ? undefined : ledger.lines.get(item.saleItemId)
  if (isSoldNow || !sold || !lines) {
    const message = `${item.number} was taken and comes back in one answer`
    work.refusals.push(refuse('factor.order', `lines.${n}`, message, 'take the two in one after the other'))
    return false
  }
  const reason = `${line.text || ANSWER_KINDS[line.kind]}, ${work.state.facility.name}`
  const decision = reverse(ledger, { itemId: sold.id, date: line.date, reason, lines })
  if (!decision.ok) {
    work.refusals.push(...decision.refusals.map(r => ({ ...r, path: `lines.${n}` })))
    return false
  }
  post(work, decision.posting, n)
  return true
}

const TAKE: Record<Exclude<AnswerKind, 'advance' | 'payout'>, Take> = {
  accepted: (work, item, line, n) => {
    if (item.state !== 'sent') {
      work.refusals.push(notNow(item, 'accepted', `lines.${n}`))
      return
    }
    if (line.amount !== 0 && line.amount !== item.amount) {
      const message = `${item.number} was offered with ${amountWords(item.amount, item.currency)}`
      work.refusals.push(refuse('factor.part', `lines.${n}`, message, 'accepted is the whole of it, or none'))
      return
    }
    item.state = 'accepted'
    item.acceptedOn = line.date
    // With recourse it stays ours until the debtor has paid.
    if (!work.state.facility.recourse) close(work, item, line, n, item.amount)
  },
  refused: (work, item, line, n) => {
    if (item.state !== 'sent' && item.state !== 'accepted')
      work.refusals.push(notNow(item, 'refused', `lines.${n}`))
    else if (comeBack(work, item, line, n)) {
      item.state = 'refused'
      item.saleItemId = null
    }
  },
  collected: (work, item, line, n) => {
    const left = item.amount - item.collected
    if (item.state !== 'accepted' || line.amount > left || line.amount === 0) {
      const message = `of ${item.number} ${amountWords(left, item.currency)} is with the factor`
      const stale = item.state !== 'accepted'
      work.refusals.push(
        stale
          ? notNow(item, 'paid to the factor', `lines.${n}`)
          : refuse('factor.collected', `lines.${n}`, message, `at most that`),
      )
      return
    }
    item.collected += line.amount
    if (item.collected === item.amount) {
      item.state = 'collected'
      item.collectedOn = line.date
    }
    if (work.state.facility.recourse) close(work, item, line, n, line.amount)
  },
  commission: (work, item, line, n) => {
    const { net, tax } = splitGross(line.amount, work.state.facility.taxRate)
    item.commission += net
    item.commissionTax += tax
    const { commission, tax: taxAccount } = work.state.facility.accounts
    const parts: [string, number][] = [
      [commission, net],
      [taxAccount, tax],
    ]
    post(work, costPosting(work.state, item, line, parts), n)
  },
  interest: (work, item, line, n) => {
    item.interest += line.amount
    post(work, costPosting(work.state, item, line, [[work.state.facility.accounts.interest, line.amount]]), n)
  },
  repaid: (work, item, line, n) => {
    if (item.repaid + line.amount > item.advance) {
      const message = `${amountWords(item.advance, item.currency)} was advanced on ${item.number}`
      work.refusals.push(refuse('factor.repaid', `lines.${n}`, message, 'no more can be set off'))
      return
    }
    item.repaid += line.amount
  },
  recourse: (work, item, line, n) => {
    if (item.state !== 'accepted') work.refusals.push(notNow(item, 'given back', `lines.${n}`))
    else if (comeBack(work, item, line, n)) {
      item.state = 'back'
      item.saleItemId = null
    }
  },
}

/** What the factor keeps for itself: an expense, that it owes us less for. */
function costPosting(
  { facility }: AnswerState,
  item: FactorItem,
  line: AnswerLine,
  parts: readonly [account: string, amount: number][],
): Posting {
  const inBase = (amount: number) => share(item.base, amount, item.amount)
  const own = { currency: item.currency, customerId: null, item: null, allocation: null }
  const debits = parts
    .filter(([, amount]) => amount !== 0)
    .map(([account, amount]): Line => ({ ...own, account, amount, baseAmount: inBase(amount) }))
  const base = debits.reduce((sum, d) => sum + d.baseAmount, 0)
  return {
    kind: 'document',
    date: line.date,
    text: `${facility.code}: ${ANSWER_KINDS[line.kind].toLowerCase()} of ${item.number}`,
    series: 'factor',
    items: [],
    allocations: [],
    lines: [
      ...debits,
      { ...own, account: facility.accounts.current, amount: -line.amount, baseAmount: -base },
    ],
  }
}

/** Spread over what was accepted of the schedule and has none yet. */
function takeAdvance(work: Work, line: AnswerLine, path: string): void {
  const items = [...work.items.values()].filter(
    i =>
      i.schedule === line.schedule &&
      i.currency === line.currency &&
      i.state === 'accepted' &&
      i.advance === 0,
  )
  const sum = items.reduce((total, i) => total + i.amount, 0)
  if (!items.length || line.amount > sum) {
    const message = items.length
      ? `${amountWords(sum, line.currency)} were accepted on ${line.schedule}`
      : `nothing on ${line.schedule} waits for an advance`
    work.refusals.push(refuse('factor.advance', path, message, 'ask the factor what it advances'))
    return
  }
  split(
    line.amount,
    items.map(i => i.amount),
  ).forEach((part, n) => {
    items[n]!.advance = part
    items[n]!.advancedOn = line.date
  })
}

/** What a line adds to what its settlement pays out. */
const SIGN: Partial<Record<AnswerKind, 1 | -1>> = { collected: 1, commission: -1, interest: -1, repaid: -1 }

/** Settlements whose lines do not add up to what they pay: each line is told, and nothing is posted. */
export function settlementRefusals(state: AnswerState, lines: readonly AnswerLine[]): Refusal[] {
  const refusals: Refusal[] = []
  for (const settlement of new Set(lines.map(l => l.settlement).filter(Boolean))) {
    if (state.settled.has(settlement)) {
      const message = `settlement ${settlement} was taken in before`
      refusals.push(refuse('factor.twice', 'settlement', message, 'nothing is to be done'))
      continue
    }
    const own = lines.map((line, n) => ({ line, n })).filter(({ line }) => line.settlement === settlement)
    for (const currency of new Set(own.map(({ line }) => line.currency))) {
      const mine = own.filter(({ line }) => line.currency === currency)
      const counted = mine.reduce((sum, { line }) => sum + (SIGN[line.kind] ?? 0) * line.amount, 0)
      const paid = mine.reduce((sum, { line }) => sum + (line.kind === 'payout' ? line.amount : 0), 0)
      if (counted === paid) continue
      const message =
        `settlement ${settlement} pays ${amountWords(paid, currency)}, its lines make ` +
        `${amountWords(counted, currency)}: ${amountWords(Math.abs(paid - counted), currency)} apart`
      refusals.push(refuse('factor.sum', 'settlement', message, 'ask the factor for a right one'))
      for (const { line, n } of mine) {
        const sign = SIGN[line.kind] ?? 0
        const counts =
          line.kind === 'payout'
            ? 'what it pays'
            : sign > 0
              ? 'added'
              : sign < 0
                ? 'taken off'
                : 'not counted'
        const what = `${ANSWER_KINDS[line.kind]} ${line.invoice} ${amountWords(line.amount, currency)}`
        refusals.push(
          refuse('factor.sum-line', `lines.${n}`, `${what}: ${counts}`, 'compare it with the statement'),
        )
      }
    }
  }
  return refusals
}
