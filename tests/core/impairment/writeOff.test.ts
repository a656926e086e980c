import {
  IMPAIRMENT_POLICY,
  decideRecovery,
  decideWriteOff,
  reliefOn,
  RELIEF_START,
  taxIn,
  type WriteOffAsk,
  type WriteOffState,
  type WrittenOff,
} from '../../../core/impairment'
import { applyPosting } from '../../../core/ledger'
import { postDocument } from '../../../core/documents'
import { postReceipt } from '../../../core/receipts'
import { books, ok, rules, TODAY } from '../books'

const ask = (items: WriteOffAsk['items'], over: Partial<WriteOffAsk> = {}): WriteOffAsk => ({
  ...{ items, reason: 'uncollectable', text: 'gone away', against: 'expense', commission: 'kept' },
  ...over,
})

/** Books with an invoice of 121.00 with 21.00 tax, due long ago. */
function withInvoice(country = 'IE') {
  const b = books()
  const posting = ok(
    postDocument(b.state, {
      ...{ number: '26-1', kind: 'invoice', customerId: 1, currency: 'EUR', amount: 12_100, tax: 2100 },
      ...{ documentDate: '2025-11-01', order: '', text: '', rate: '1', series: null, discounts: [] },
      parts: [{ amount: 12_100, dueDate: '2025-12-01' }],
    }),
  )
  const { items } = applyPosting(b, posting)
  const id = [...items.values()][0]!
  const state = (over: Partial<WriteOffState> = {}): WriteOffState => ({
    ledger: b.state,
    policy: IMPAIRMENT_POLICY.relief,
    countries: new Map([[1, country]]),
    evidence: new Map([[id, { dueDate: '2025-12-01', remindedLevel: 2, insolvent: false }]]),
    kept: new Map(),
    allowance: 0,
    ...over,
  })
  return { b, id, state }
}
const balance = (b: ReturnType<typeof books>, account: string) =>
  b.lines.filter(l => l.account === account).reduce((a, l) => a + l.amount, 0)

test('the loss goes to expense without the tax where that may be claimed back', () => {
  const { b, id, state } = withInvoice()
  const done = decideWriteOff(state(), ask([{ itemId: id }]))
  if (!done.ok) throw new Error(JSON.stringify(done.refusals))
  expect(done.facts).toMatchObject([{ relief: 'claimed', tax: 2100 }])
  applyPosting(b, done.postings[0]!)
  expect([balance(b, '1100'), balance(b, '6860'), balance(b, '2200')]).toEqual([0, 10_000, 0])
  expect(b.state.items.get(id)!.open).toBe(0)
})

test('where only an insolvency gives relief the tax waits, and an insolvency claims it', () => {
  const { id, state } = withInvoice('DE')
  const of = (over: Partial<WriteOffAsk>) => {
    const done = decideWriteOff(state(), ask([{ itemId: id, amount: 6050 }], over))
    return done.ok ? done.facts : []
  }
  expect(of({})).toMatchObject([{ relief: 'waits', tax: 1050, amount: 6050 }])
  expect(of({ reason: 'insolvency' })).toMatchObject([{ relief: 'claimed', tax: 1050 }])
  const nowhere = withInvoice('NO')
  const none = decideWriteOff(nowhere.state(), ask([{ itemId: nowhere.id }]))
  expect(none.ok && none.facts).toMatchObject([{ relief: 'none' }])
})

test('relief by age counts from the due date, and asks for the reminder', () => {
  const rule = RELIEF_START.byCountry.IE!
  const evidence = { dueDate: '2026-01-01', remindedLevel: 1, insolvent: false }
  expect(reliefOn(rule, evidence, '2026-10-31')).toMatchObject({ may: false, from: '2026-11-01' })
  expect(reliefOn(rule, evidence, '2026-11-01').may).toBe(true)
  expect(reliefOn(rule, { ...evidence, remindedLevel: 0 }, '2026-12-01').why).toMatch(/level 1/)
  expect(reliefOn(null, evidence, '2026-12-01').may).toBe(false)
})

test('against what was set aside: only as much as there is', () => {
  const { b, id, state } = withInvoice()
  const small = ask([{ itemId: id }], { against: 'allowance' })
  expect(rules(decideWriteOff(state({ allowance: 9999 }), small))).toEqual(['write-off.allowance'])
  const done = decideWriteOff(state({ allowance: 10_000 }), small)
  if (!done.ok) throw new Error('refused')
  applyPosting(b, done.postings[0]!)
  expect([balance(b, '1190'), balance(b, '6860')]).toEqual([10_000, 0])
})

test('bad input: more than is open, nothing open, twice, no claim, with somebody else, without a word', () => {
  const { id, state } = withInvoice()
  const of = (items: WriteOffAsk['items'], over: Partial<WriteOffAsk> = {}) =>
    rules(decideWriteOff(state(), ask(items, over)))
  expect(of([{ itemId: id, amount: 12_101 }])).toEqual(['write-off.open'])
  expect(of([{ itemId: id, amount: 0 }])).toEqual(['write-off.open'])
  expect(of([{ itemId: 99 }])).toEqual(['write-off.claim'])
  expect(of([{ itemId: id }, { itemId: id }])).toEqual(['write-off.twice'])
  expect(of([])).toEqual(['write-off.some'])
  expect(of([{ itemId: id }], { text: ' ' })).toEqual(['write-off.text'])
  const kept = state({ kept: new Map([[id, 'is with the factor']]) })
  expect(rules(decideWriteOff(kept, ask([{ itemId: id }])))).toEqual(['write-off.kept'])
  const closed = state({ ledger: { ...state().ledger, closedUntil: TODAY } })
  expect(rules(decideWriteOff(closed, ask([{ itemId: id }])))).toEqual(['period.closed'])
})

/** Money on account, and something that was written off before. */
function withMoney(over: Partial<WrittenOff> = {}) {
  const { b } = withInvoice()
  const receipt = ok(
    postReceipt(b.state, {
      ...{ customerId: 1, currency: 'EUR', date: TODAY, text: '', allocations: [], rate: '1' },
      ...{ means: [{ means: 'transfer', amount: 5000, reference: '' }], onAccount: 5000, advance: false },
    }),
  )
  const creditItemId = [...applyPosting(b, receipt).items.values()][0]!
  const one: WrittenOff = {
    ...{ writeOffId: 50, number: 'W-00001', customerId: 1, currency: 'EUR', amount: 12_100 },
    ...{ recovered: 0, taxClaimed: 2100, ...over },
  }
  return { b, creditItemId, state: { ledger: b.state, writtenOff: new Map([[50, one]]) } }
}

test('a late dividend closes the money, is income, and owes the tax again', () => {
  const { b, creditItemId, state } = withMoney()
  const before = balance(b, '2200')
  const done = decideRecovery(state, { creditItemId, parts: [{ writeOffId: 50, amount: 5000 }] })
  if (!done.ok) throw new Error(JSON.stringify(done.refusals))
  applyPosting(b, done.postings[0]!)
  // 5,000 of 12,100 hold 868 of the 2,100 tax: 5,000 × 2,100 / 12,100 = 867.8.
  expect(balance(b, '2200') - before).toBe(-868)
  expect(balance(b, '4920')).toBe(-4132)
  expect(b.state.items.get(creditItemId)!.open).toBe(0)
})

test('the parts of a write-off owe the whole tax together, and no more comes back than was lost', () => {
  const { state } = withMoney()
  const one = state.writtenOff.get(50)!
  let recovered = 0
  let tax = 0
  for (const amount of [1, 4033, 4033, 4033]) {
    tax += taxIn({ ...one, recovered }, amount)
    recovered += amount
  }
  expect([recovered, tax]).toEqual([12_100, 2100])
  const { creditItemId, state: more } = withMoney({ recovered: 12_000 })
  const of = (parts: { writeOffId: number; amount: number }[]) =>
    rules(decideRecovery(more, { creditItemId, parts }))
  expect(of([{ writeOffId: 50, amount: 101 }])).toEqual(['recovery.left'])
  expect(of([{ writeOffId: 51, amount: 1 }])).toEqual(['recovery.known'])
  expect(of([])).toEqual(['recovery.some'])
  const rich = withMoney()
  expect(
    rules(
      decideRecovery(rich.state, {
        creditItemId: rich.creditItemId,
        parts: [{ writeOffId: 50, amount: 5001 }],
      }),
    ),
  ).toEqual(['recovery.open'])
})
