import { Directory } from '../core/banking/matching'
import { Matcher, type MatchItem, type MatchWorld, type Proposal } from '../core/banking/matching'
import { paymentLines, type Delivered, type Payer, type Truth } from '../simulators/payers'

/** The ledger as the matching would see it for invented payers, and their payments with the truth of each. */
export function matchWorldOf(
  payers: readonly Payer[],
  after: string,
  day: string,
): {
  world: MatchWorld
  delivered: Delivered[]
  numbers: Map<number, string>
  customerNumbers: Map<number, string>
} {
  const items: MatchItem[] = []
  payers.forEach((p, n) => {
    for (const i of p.invoices)
      items.push({
        id: items.length + 1,
        customerId: n + 1,
        number: i.number,
        kind: 'invoice',
        side: 'debit',
        amount: i.amount,
        open: i.open,
        documentDate: i.date,
        dueDate: i.due,
        discounts: i.discounts,
      })
    for (const k of p.credits)
      items.push({
        id: items.length + 1,
        customerId: n + 1,
        number: k.number,
        kind: 'credit-note',
        side: 'credit',
        amount: k.open,
        open: k.open,
        documentDate: after,
        dueDate: after,
        discounts: [],
      })
  })
  return {
    world: {
      directory: new Directory(
        payers.map((p, n) => ({
          id: n + 1,
          number: p.number,
          name: p.name,
          iban: p.iban,
          parentId: null,
        })),
      ),
      items,
      covered: [],
      learnt: [],
      rules: [],
      returnable: [],
      closed: () => undefined,
      graceDays: 2,
      tolerance: 500,
    },
    delivered: paymentLines(payers, after, day, 'measure'),
    numbers: new Map(items.map(i => [i.id, i.number])),
    customerNumbers: new Map(payers.map((p, n) => [n + 1, p.number])),
  }
}

/** Whether a proposal is what the payer meant: same customer, same amount on each item. */
export function isRight(
  p: Proposal,
  t: Truth,
  numbers: Map<number, string>,
  customerNumbers: Map<number, string>,
): boolean {
  if (p.action.kind !== 'receipt' || p.action.parts.length !== 1) return false
  const [part] = p.action.parts
  if (customerNumbers.get(part!.customerId) !== t.customer) return false
  const told = (list: readonly { number: string; amount: number; discount: number }[]) =>
    list
      .map(a => `${a.number} ${a.amount} ${a.discount}`)
      .sort()
      .join('; ')
  return (
    told(
      part!.allocations.map(a => ({
        number: numbers.get(a.itemId)!,
        amount: a.amount,
        discount: a.discount,
      })),
    ) === told(t.allocations) &&
    part!.credits.reduce((a, c) => a + c.amount, 0) === t.credits.reduce((a, c) => a + c.amount, 0)
  )
}

export interface MatchScore {
  lines: number
  automatic: number
  automaticRight: number
  rest: number
  restFirstRight: number
  milliseconds: number
  wrong: { how: string; reasons: string[]; confidence: number }[]
  missed: { how: string; reasons: string[]; confidence: number }[]
}

export function score(
  payers: readonly Payer[],
  after: string,
  day: string,
  threshold: number,
  most = Infinity,
): MatchScore {
  const { world, delivered, numbers, customerNumbers } = matchWorldOf(payers, after, day)
  const started = performance.now()
  const matcher = new Matcher(world)
  const s: MatchScore = {
    lines: 0,
    automatic: 0,
    automaticRight: 0,
    rest: 0,
    restFirstRight: 0,
    milliseconds: 0,
    wrong: [],
    missed: [],
  }
  for (const { line, currency, truth } of delivered.slice(0, most)) {
    const { proposals, tie } = matcher.match({ ...line, currency })
    const best = proposals[0]
    const right = best !== undefined && isRight(best, truth, numbers, customerNumbers)
    s.lines++
    const told = { how: truth.how, reasons: best?.reasons ?? [], confidence: best?.confidence ?? 0 }
    if (best && !tie && best.confidence >= threshold) {
      s.automatic++
      if (right) s.automaticRight++
      else s.wrong.push(told)
      matcher.use(best)
    } else if (truth.answerable) {
      s.rest++
      if (right) s.restFirstRight++
      else s.missed.push(told)
    }
  }
  s.milliseconds = performance.now() - started
  return s
}
