import { emptyBooks, type Books, type Chart, type Decision, type Posting } from '../../core/ledger'

/** The chart and the day that the tests of the core share. */
export const CHART: Chart = {
  receivables: '1100',
  bank: '1200',
  'on-hand': '1210',
  clearing: '1220',
  revenue: '4000',
  tax: '2200',
  'reminder-fees': '4810',
  'late-interest': '4830',
  compensation: '4840',
  exchange: '6900',
  discount: '4700',
  difference: '6800',
  'petty-cash': '1000',
  advances: '2300',
  'charges-on': '4820',
  'bank-charges': '6850',
  opening: '3900',
  'write-off': '6860',
  allowance: '1190',
  'allowance-change': '6870',
  recovery: '4920',
  'paying-out': '1230',
  'lapsed-income': '4910',
  'lapsed-owed': '2310',
}
export const TODAY = '2026-11-16'
export const books = (): Books => emptyBooks('EUR', TODAY, CHART)

/** The posting of a decision that must not be refused. */
export function ok(decision: Decision): Posting {
  if (!decision.ok) throw new Error(JSON.stringify(decision.refusals))
  return decision.posting
}

/** The rules by which a decision is refused; none when it is not. */
export const rules = (decision: { ok: boolean; refusals?: readonly { rule: string }[] }): string[] =>
  decision.ok ? [] : (decision.refusals ?? []).map(r => r.rule)
