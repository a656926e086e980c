import fc from 'fast-check'
import {
  decideAnswer,
  decidePassOn,
  decideShort,
  type AnswerKind,
  type AnswerLine,
  type Facility,
  type FactorItem,
} from '../../../core/factoring'
import { postDocument } from '../../../core/documents'
import { applyPosting, type Posting } from '../../../core/ledger'
import { postReceipt } from '../../../core/receipts'
import { books, ok, rules, TODAY } from '../books'
import { FACILITY } from './facility'

/** Books with invoices that were offered on one schedule, and what the factor has told so far. */
class World {
  readonly b = books()
  readonly settled = new Set<string>()
  items: FactorItem[] = []

  constructor(
    readonly facility: Facility,
    amounts: readonly number[],
  ) {
    amounts.forEach((amount, n) => {
      const number = `26-${n + 1}`
      const posting = ok(
        postDocument(this.b.state, {
          ...{ number, kind: 'invoice', customerId: 1, currency: 'EUR', amount, tax: 0 },
          ...{ documentDate: '2026-10-01', order: '', text: '', rate: '1', series: null, discounts: [] },
          parts: [{ amount, dueDate: '2026-10-31' }],
        }),
      )
      const itemId = [...applyPosting(this.b, posting).items.values()][0]!
      this.items.push({
        ...{
          id: n + 1,
          itemId,
          number,
          schedule: 'FS-1',
          customerId: 1,
          currency: 'EUR',
          amount,
          base: amount,
        },
        ...{
          state: 'sent',
          advance: 0,
          collected: 0,
          commission: 0,
          commissionTax: 0,
          interest: 0,
          repaid: 0,
        },
        ...{ saleItemId: null, acceptedOn: null, advancedOn: null, collectedOn: null },
      })
    })
  }

  line(kind: AnswerKind, invoice: string, amount = 0, settlement = ''): AnswerLine {
    return { kind, schedule: 'FS-1', invoice, date: TODAY, currency: 'EUR', amount, settlement, text: '' }
  }

  decide(...lines: AnswerLine[]) {
    const { b, facility, items, settled } = this
    return decideAnswer({ ledger: b.state, facility, items, settled }, lines)
  }

  take(...lines: AnswerLine[]): string[] {
    const done = this.decide(...lines)
    if (!done.ok) return rules(done)
    const ids = done.postings.map(p => this.post(p))
    this.items = done.facts.items
    for (const { posting, itemId } of done.facts.saleOf) {
      const own = this.items.find(i => i.itemId === itemId)!
      own.saleItemId = [...ids[posting]!.values()][0]!
    }
    for (const line of lines) if (line.settlement) this.settled.add(line.settlement)
    return []
  }

  post(posting: Posting): Map<number, number> {
    return applyPosting(this.b, posting).items
  }

  balance(account: string): number {
    return this.b.lines.filter(l => l.account === account).reduce((sum, l) => sum + l.amount, 0)
  }
  open(number: string): number {
    return this.b.state.items.get(this.items.find(i => i.number === number)!.itemId)!.open
  }
}

const whole = (recourse: boolean) => {
  const w = new World({ ...FACILITY, recourse }, [100_000, 50_000])
  expect(w.take(w.line('accepted', '26-1'), w.line('accepted', '26-2', 50_000))).toEqual([])
  return w
}

test('without recourse the invoice is sold when the factor accepts it', () => {
  const w = whole(false)
  expect([w.open('26-1'), w.balance('1310'), w.balance('1100')]).toEqual([0, 150_000, 0])
  expect(w.take(w.line('accepted', '26-1'))).toEqual(['factor.state'])
})

test('with recourse it stays, the advance is owed, and the debtor paying the factor closes it', () => {
  const w = whole(true)
  expect([w.open('26-1'), w.balance('1310')]).toEqual([100_000, 0])
  expect(w.take(w.line('advance', '', 120_000))).toEqual([])
  expect(w.items.map(i => i.advance)).toEqual([80_000, 40_000])
  expect(w.take(w.line('collected', '26-1', 100_000))).toEqual([])
  expect([w.open('26-1'), w.balance('1310'), w.items[0]!.state]).toEqual([0, 100_000, 'collected'])
})

test('a settlement splits the tax, and its lines make what it pays', () => {
  const w = whole(false)
  w.take(w.line('advance', '', 120_000))
  const settlement = [
    w.line('collected', '26-1', 100_000, 'S-1'),
    w.line('commission', '26-1', 1800, 'S-1'),
    w.line('interest', '26-1', 600, 'S-1'),
    w.line('repaid', '26-1', 80_000, 'S-1'),
  ]
  const wrong = w.decide(...settlement, w.line('payout', '', 17_000, 'S-1'))
  expect(rules(wrong)).toEqual(['factor.sum', ...Array<string>(5).fill('factor.sum-line')])
  expect(!wrong.ok && wrong.refusals[0]!.message).toContain('pays 170.00 EUR, its lines make 176.00 EUR')
  expect(w.take(...settlement, w.line('payout', '', 17_600, 'S-1'))).toEqual([])
  expect([w.balance('6910'), w.balance('2210'), w.balance('6920')]).toEqual([1500, 300, 600])
  // Advances of 1,200.00 and the payout come through the bank: what is left is the second invoice's.
  expect(w.balance('1310') - 120_000 - 17_600).toBe(10_000)
  expect(w.take(...settlement, w.line('payout', '', 17_600, 'S-1'))).toContain('factor.twice')
})

test('a sold invoice that comes back is open again, of one offered with recourse only the mark goes', () => {
  for (const recourse of [false, true]) {
    const w = whole(recourse)
    expect(w.take(w.line('recourse', '26-1'))).toEqual([])
    expect([w.open('26-1'), w.items[0]!.state]).toEqual([100_000, 'back'])
    expect(w.take(w.line('refused', '26-2'))).toEqual([])
    expect([w.open('26-2'), w.balance('1310'), w.balance('1100')]).toEqual([50_000, 0, 150_000])
    expect(w.take(w.line('collected', '26-1', 100))).toEqual(['factor.state'])
  }
})

test('what a factor tells of strangers, too much, or twice is refused with nothing posted', () => {
  const w = whole(true)
  const before = w.b.lines.length
  expect(w.take(w.line('collected', '26-9', 100))).toEqual(['factor.known'])
  expect(w.take(w.line('collected', '26-1', 100_001))).toEqual(['factor.collected'])
  expect(w.take({ ...w.line('collected', '26-1', 100), currency: 'GBP' })).toEqual(['factor.currency'])
  expect(w.take({ ...w.line('commission', '26-1', 100), date: '2027-01-01' })).toEqual(['date.future'])
  expect(w.take(w.line('commission', '26-1', -5))).toEqual(['factor.amount'])
  expect(w.take(w.line('repaid', '26-1', 5))).toEqual(['factor.repaid'])
  expect(w.take(w.line('advance', '', 150_001))).toEqual(['factor.advance'])
  expect(w.take()).toEqual(['factor.some'])
  expect(w.take(w.line('commission', '26-1', 100), w.line('collected', '26-9', 1))).toEqual(['factor.known'])
  expect(w.b.lines.length).toBe(before)
})

test('whatever a factor tells in whatever order: all balances, nothing is closed twice', () => {
  const line = fc.record({
    kind: fc.constantFrom<AnswerKind>(
      ...(['accepted', 'refused', 'advance', 'collected', 'commission', 'interest'] as const),
      ...(['repaid', 'recourse'] as const),
    ),
    invoice: fc.constantFrom('26-1', '26-2', '26-3'),
    amount: fc.oneof(fc.constantFrom(0, 100_000, 50_000, 3), fc.integer({ min: 1, max: 120_000 })),
  })
  let taken = 0
  fc.assert(
    fc.property(fc.array(line, { maxLength: 40 }), fc.boolean(), (lines, recourse) => {
      const w = new World({ ...FACILITY, recourse }, [100_000, 50_000, 3])
      for (const { kind, invoice, amount } of lines)
        if (!w.take(w.line(kind, invoice, amount)).length) taken++
      expect(w.b.lines.reduce((sum, l) => sum + l.baseAmount, 0)).toBe(0)
      let closed = 0
      for (const item of w.items) {
        const { open, amount } = w.b.state.items.get(item.itemId)!
        expect(open).toBeGreaterThanOrEqual(0)
        const expected = recourse
          ? amount - item.collected
          : item.state === 'accepted' || item.state === 'collected'
            ? 0
            : amount
        // With recourse what the debtor paid stays paid, also when the rest comes back.
        expect([item.number, item.state, open]).toEqual([item.number, item.state, expected])
        closed += amount - open
      }
      const kept = w.balance('6910') + w.balance('2210') + w.balance('6920')
      expect(w.balance('1310')).toBe(closed - kept)
      expect(w.balance('1100')).toBe(150_003 - closed)
    }),
    { numRuns: 300 },
  )
  expect(taken).toBeGreaterThan(50)
})

/** An invoice of 1,000.00, and so much money of the factor on the account. */
function short(paid: number, over: Partial<Facility> = {}) {
  const w = new World({ ...FACILITY, commissionRate: 708, commissionFloor: 7083, ...over }, [100_000])
  const receipt = ok(
    postReceipt(w.b.state, {
      ...{ customerId: 1, currency: 'EUR', date: TODAY, rate: '1', text: 'Tern Finance', order: '' },
      ...{ means: [{ means: 'transfer', amount: paid, reference: '' }], onAccount: paid, allocations: [] },
      ...{ lateDiscount: false, advance: false, keep: [] },
    } as never),
  )
  const creditItemId = [...w.post(receipt).values()][0]!
  const ask = { date: TODAY, creditItemId, itemId: w.items[0]!.itemId }
  return { w, ask, decide: () => decideShort({ ledger: w.b.state, facility: w.facility }, ask) }
}

/* Fact of the trade, common practice: 1,000.00 paid with 915.00 leaves 85.00 = 70.83 and 14.17 of tax. */
test('a short payment closes invoice, money and commission in one step', () => {
  const { w, ask, decide } = short(91_500)
  const done = decide()
  if (!done.ok) throw new Error(JSON.stringify(done.refusals))
  w.post(done.postings[0]!)
  expect([w.open('26-1'), w.b.state.items.get(ask.creditItemId)!.open]).toEqual([0, 0])
  expect([w.balance('6910'), w.balance('2210'), w.balance('1100')]).toEqual([7083, 1417, 0])
})

test('what is short must be what the terms say', () => {
  expect(rules(short(91_400).decide())).toEqual(['short.terms'])
  expect(rules(short(100_000).decide())).toEqual(['short.whole'])
  // A unit of rounding is none.
  expect(rules(short(91_501).decide())).toEqual([])
})

test('money of a debtor that is the factor’s goes off the account, and is owed', () => {
  const { w, ask } = short(91_500)
  const state = { ledger: w.b.state, facility: w.facility }
  const pass = (amount: number) =>
    decidePassOn(state, { date: TODAY, creditItemId: ask.creditItemId, amount })
  expect(rules(pass(91_501))).toEqual(['allocation.open'])
  const done = pass(91_500)
  if (!done.ok) throw new Error('refused')
  w.post(done.postings[0]!)
  expect([w.balance('1310'), w.balance('1100')]).toEqual([-91_500, 100_000])
})

/* Each rule is provoked, and its opposite, just inside the bound, is accepted. */
describe('what a factor or a person may not say', () => {
  test('accepted is the whole of an invoice', () => {
    const w = new World(FACILITY, [100_000])
    expect(w.take(w.line('accepted', '26-1', 99_999))).toEqual(['factor.part'])
    expect(w.take(w.line('accepted', '26-1', 100_000))).toEqual([])
  })

  test('what was paid to us meanwhile is not sold: not a cent more than is open', () => {
    const w = new World(FACILITY, [100_000, 100_000])
    const [first, second] = w.items.map(i => i.itemId) as [number, number]
    const leave = (id: number, open: number) =>
      w.b.state.items.set(id, { ...w.b.state.items.get(id)!, open, baseOpen: open })
    leave(first, 99_999)
    expect(w.take(w.line('accepted', '26-1'))).toEqual(['factor.open'])
    leave(second, 100_000)
    expect(w.take(w.line('accepted', '26-2'))).toEqual([])
  })

  test('taken and come back is told in two answers', () => {
    const w = new World(FACILITY, [100_000])
    expect(w.take(w.line('accepted', '26-1'), w.line('recourse', '26-1'))).toEqual(['factor.order'])
    expect(w.take(w.line('accepted', '26-1'))).toEqual([])
    expect(w.take(w.line('recourse', '26-1'))).toEqual([])
  })

  test('a short payment has money and an invoice, of one account in one currency', () => {
    const { w, ask, decide } = short(91_500)
    const state = { ledger: w.b.state, facility: w.facility }
    const swapped = { ...ask, creditItemId: ask.itemId, itemId: ask.creditItemId }
    expect(rules(decideShort(state, swapped))).toEqual(['short.items'])
    const invoice = w.b.state.items.get(ask.itemId)!
    for (const over of [{ customerId: 2 }, { currency: 'GBP' }]) {
      w.b.state.items.set(ask.itemId, { ...invoice, ...over })
      expect(rules(decide())).toEqual(['short.account'])
    }
    w.b.state.items.set(ask.itemId, invoice)
    expect(rules(decide())).toEqual([])
  })

  test('passed on is a credit, and more than nothing', () => {
    const { w, ask } = short(91_500)
    const pass = (creditItemId: number, amount: number) =>
      rules(decidePassOn({ ledger: w.b.state, facility: w.facility }, { date: TODAY, creditItemId, amount }))
    expect(pass(ask.itemId, 1)).toEqual(['pass-on.credit'])
    expect(pass(ask.creditItemId, 0)).toContain('pass-on.amount')
    expect(pass(ask.creditItemId, 1)).toEqual([])
  })
})
