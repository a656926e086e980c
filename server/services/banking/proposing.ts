import type { Handle } from '../../db/handle'
import type { LineProposal } from '../../../contract/banking/lines'
import type { Action, MatchCustomer, MatchItem, Proposal } from '../../../core/banking/matching'
import { toMajor } from '../../../core/money'
import { type Settings } from '../../db/settings'
import { matcherFor, type CoveredRow } from './world'
import { type LineRow } from './lines'

export interface Proposed {
  lineId: number
  proposals: LineProposal[]
  confidence: number
  tie: boolean
  asks: boolean
  best: Proposal | undefined
}

/** Makes proposals for lines; what a sure one uses is not offered to the next. */
export async function proposeFor(
  database: Handle,
  settings: Settings,
  rows: readonly LineRow[],
  customer?: string,
  progress?: (done: number) => Promise<void>,
): Promise<Proposed[]> {
  const proposed: Proposed[] = []
  for (const currency of new Set(rows.map(r => r.currency))) {
    const own = rows.filter(r => r.currency === currency)
    const asked = customer ? await database.find('customer', { number: customer }, { columns: ['id'] }) : []
    const { matcher, customers, items, covered } = await matcherFor(database, settings, currency, own)
    const forced = asked[0] ? await forcedMatcher(database, settings, currency, own, asked[0].id) : null
    const names = await namesFor(database, covered)
    for (const [n, row] of own.entries()) {
      const { proposals, tie, asks } = forced ? forced.matcher.match(row, asked[0]!.id) : matcher.match(row)
      const best = proposals[0]
      if (best && !tie && !asks && best.confidence >= settings.matching.threshold) matcher.use(best)
      const known = forced ?? { customers, items }
      proposed.push({
        lineId: row.id,
        proposals: proposals.map(p => toldProposal(p, row, known.customers, known.items, names)),
        confidence: best?.confidence ?? 0,
        tie,
        asks,
        best,
      })
      if (progress && n % 200 === 199) await progress(n + 1)
    }
  }
  return proposed
}

/** The matcher with the items of one customer at hand, whoever the line names. */
async function forcedMatcher(
  database: Handle,
  settings: Settings,
  currency: string,
  rows: readonly LineRow[],
  customerId: number,
) {
  const [c] = await database.find('customer', { id: customerId }, { columns: ['name'] })
  return matcherFor(
    database,
    settings,
    currency,
    rows.map(r => ({ ...r, name: c!.name })),
  )
}

async function namesFor(
  database: Handle,
  covered: readonly CoveredRow[],
): Promise<{ accounts: Map<string, string>; covered: Map<string, string> }> {
  const accounts = await database.find('ledger_account', {}, { columns: ['number', 'name'] })
  return {
    accounts: new Map(accounts.map(a => [a.number, a.name])),
    covered: new Map(
      covered.map(c => [`${c.kind} ${c.id}`, `${c.label}${c.customerName ? ` of ${c.customerName}` : ''}`]),
    ),
  }
}

/** A proposal as the API tells it: customers by number, and what it is in a line. */
function toldProposal(
  p: Proposal,
  line: LineRow,
  customers: ReadonlyMap<number, MatchCustomer>,
  items: Map<number, MatchItem>,
  names: Awaited<ReturnType<typeof namesFor>>,
): LineProposal {
  const { action } = p
  const ref = (id: number) => {
    const c = customers.get(id)!
    return { number: c.number, name: c.name }
  }
  const first = action.kind === 'receipt' ? ref(action.parts[0]!.customerId) : null
  return {
    confidence: p.confidence,
    reasons: p.reasons,
    told: tellAction(action, line, customers, items, names),
    customer: first,
    action: outward(action, customers),
  }
}

function outward(action: Action, customers: ReadonlyMap<number, MatchCustomer>): LineProposal['action'] {
  if (action.kind === 'receipt')
    return {
      kind: 'receipt',
      lateDiscount: false,
      parts: action.parts.map(({ customerId, ...p }) => ({
        customer: customers.get(customerId)!.number,
        ...p,
      })),
    }
  if (action.kind === 'covered') return { ...action, restAccount: null }
  if (action.kind === 'ledger') return { ...action, words: '', rememberPayer: false }
  return { ...action, fee: action.fee ?? 0, charge: action.charge ?? 0 }
}

function tellAction(
  action: Action,
  line: LineRow,
  customers: ReadonlyMap<number, MatchCustomer>,
  items: Map<number, MatchItem>,
  names: Awaited<ReturnType<typeof namesFor>>,
): string {
  const listed = (list: string[]) =>
    list.length > 3 ? `${list.slice(0, 2).join(', ')} and ${list.length - 2} more` : list.join(', ')
  if (action.kind === 'ledger') return `${action.account} ${names.accounts.get(action.account) ?? ''}`
  if (action.kind === 'covered')
    return `settles ${listed(action.targets.map(t => names.covered.get(`${t.kind} ${t.id}`) ?? t.kind))}`
  if (action.kind === 'return')
    return action.charge
      ? `${action.reason}; the bank keeps ${grouped(action.charge, line.currency)} for itself`
      : action.reason
  return action.parts
    .map(p => {
      const numbers = p.allocations.map(a => items.get(a.itemId)?.number ?? '?')
      const credits = p.credits.map(c => items.get(c.creditItemId)?.number ?? '?')
      const what = [
        numbers.length ? listed(numbers) : '',
        credits.length ? `less ${listed([...new Set(credits)])}` : '',
        p.onAccount ? `${grouped(p.onAccount, line.currency)} on account` : '',
      ]
        .filter(Boolean)
        .join(', ')
      return `${customers.get(p.customerId)?.name ?? '?'}: ${what}`
    })
    .join('; ')
}

/** Minor units for a sentence: 12,480.50. */
const grouped = (amount: number, currency: string) =>
  toMajor(amount, currency).replace(/\B(?=(\d{3})+(?!\d))(?<!\.\d*)/g, ',')
