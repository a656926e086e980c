import fc from 'fast-check'
import { itemOf, lineOf, worldOf } from './world'
import { isSlip } from '../../../core/banking/matching/numbers'
import { Matcher, numbersIn, type MatchItem, type MatchLine } from '../../../core/banking/matching'

/*
 * Bank lines as people write them: large accounts, dates and amounts beside numbers, ranges and lists, slips
 * of the finger, every discount step. Each was answered wrongly once.
 */

const item = (id: number, open: number, over: Partial<MatchItem> = {}): MatchItem =>
  itemOf(id, open, { number: `4711${String(id).padStart(3, '0')}`, ...over })
const IBAN = 'IE29AIBK93115212345678'
const CUSTOMERS = [
  { id: 1, number: 'K1', name: 'Hollin & Sedge Foods', iban: IBAN, parentId: null },
  { id: 2, number: 'K2', name: 'Fjordlys Fisk', iban: '', parentId: null },
]
const match = (items: readonly MatchItem[], line: Partial<MatchLine>) =>
  new Matcher(worldOf(CUSTOMERS, { items })).match(lineOf({ iban: IBAN, ...line }))
const answer = (items: readonly MatchItem[], line: Partial<MatchLine>) => {
  const { proposals, asks } = match(items, line)
  const [best] = proposals
  const parts = best?.action.kind === 'receipt' ? best.action.parts : []
  return {
    customer: parts[0]?.customerId,
    took: parts.flatMap(p => p.allocations.map(a => [a.itemId, a.amount, a.discount, a.difference])),
    onAccount: parts.reduce((a, p) => a + p.onAccount, 0),
    confidence: best?.confidence ?? 0,
    asks,
    why: best?.reasons.join('; ') ?? '',
  }
}
/** So many open items, no two sums of few of them alike. */
const many = (n: number) =>
  Array.from({ length: n }, (_, i) =>
    item(i + 1, 10_007 + i * 137 + ((i * i) % 89) * 3, {
      dueDate: `2026-${i % 2 ? '10' : '09'}-${String((i % 28) + 1).padStart(2, '0')}`,
    }),
  )

describe('an account with many open items', () => {
  const items = many(400)
  test('an item that is named is looked at, however young it is', () => {
    const last = items[399]!
    expect(answer(items, { amount: last.open, text: last.number })).toMatchObject({
      took: [[400, last.open, 0, 0]],
    })
  })
  test('named and a part of it', () => {
    const last = items[399]!
    const short = answer(items, { amount: 5000, text: last.number })
    expect(short).toMatchObject({ took: [[400, 5000, 0, 0]] })
    expect(short.confidence).toBeLessThan(0.95)
  })
  test('one of exactly this amount, and all that is due, are found among all', () => {
    const one = { ...item(401, 987_654), dueDate: '2026-12-30' }
    expect(answer([...items, one], { amount: 987_654 })).toMatchObject({ took: [[401, 987_654, 0, 0]] })
    const due = items.filter(i => i.dueDate <= '2026-09-10')
    const all = due.reduce((a, i) => a + i.open, 0)
    const found = answer(items, { amount: all })
    expect(found.took).toHaveLength(due.length)
    expect(found.onAccount).toBe(0)
  })
  test('a reason does not say more than was tried', () => {
    expect(answer(items, { amount: 3 }).why).not.toMatch(/^no set|; no set of its/)
    expect(answer(items.slice(0, 4), { amount: 3 }).why).toMatch(/no set of its 4 open items makes this/)
  })
  test('five thousand are decoded within a second', () => {
    const all = many(5000)
    const begun = performance.now()
    answer(all, { amount: 7_777_777 })
    expect(performance.now() - begun).toBeLessThan(2000)
  })
})

describe('discounts', () => {
  const steps = [
    { date: '2026-11-12', amount: 3000 },
    { date: '2026-11-20', amount: 2000 },
    { date: '2026-11-30', amount: 1000 },
  ]
  const one = item(1, 100_000, { discounts: steps })
  test.each([
    ['the step within its grace', 97_000, [[1, 97_000, 3000, 0]]],
    ['the next step, though the first is still to be had', 98_000, [[1, 98_000, 2000, 0]]],
    ['the last step', 99_000, [[1, 99_000, 1000, 0]]],
    ['a step and a few cents beside it', 96_958, [[1, 96_958, 3000, 42]]],
  ])('%s', (_, amount, took) => {
    expect(answer([one], { amount, text: one.number, valueDate: '2026-11-13' }).took).toEqual(took)
    expect(answer([one], { amount, valueDate: '2026-11-13' }).took).toEqual(took)
  })
  test('a shortfall that is an offered discount, late, is no small difference', () => {
    const small = item(1, 10_000, { discounts: [{ date: '2026-09-30', amount: 200 }] })
    const late = answer([small], { amount: 9800, text: small.number })
    expect(late.took).toEqual([[1, 9800, 0, 0]])
    expect(late.asks).toBe(true)
    expect(late.why).toMatch(/the discount, which is no longer/)
    expect(answer([small], { amount: 9850, text: small.number }).took).toEqual([[1, 9850, 0, 150]])
  })
})

describe('numbers in texts', () => {
  const known = new Set([
    '4711052',
    '4711006',
    '4711007',
    '4711008',
    '4711012',
    '4711015',
    '263381',
    '263382',
  ])
  const found = (text: string) => numbersIn(text, k => known.has(k)).sort()
  test.each([
    ['4711052 v. 29.06.26', ['4711052']],
    ['4711052 vom 06.07.2026', ['4711052']],
    ['4711052 dated 2026-06-07', ['4711052']],
    ['4711052 EUR 1.006,08', ['4711052']],
    ['4711052 1,007.00 EUR', ['4711052']],
    ['4711052 Tel 01 555 0012', ['4711052']],
    ['4711006-4711008', ['4711006', '4711007', '4711008']],
    ['4711006 - 008', ['4711006', '4711007', '4711008']],
    ['4711006 bis 4711008', ['4711006', '4711007', '4711008']],
    ['4711006/07/15', ['4711006', '4711007', '4711015']],
    ['4711006, 07 und 12', ['4711006', '4711007', '4711012']],
    ['26-3381/82', ['263381', '263382']],
    ['47 11 052', ['4711052']],
    ['47110\n52', ['4711052']],
  ])('%s', (text, numbers) => {
    expect(found(text)).toEqual(numbers)
  })
})

describe('slips of the finger', () => {
  const mine = [item(52, 45_600), item(7, 12_000)]
  test.each([
    ['a wrong digit', '4711053'],
    ['two digits changed places', '4711025'],
    ['O for 0', '4711O52'],
    ['a digit left out', '471152'],
    ['a digit too many', '47110552'],
    ['the prefix left out', '1052'],
  ])('%s, from a payer we know', (_, text) => {
    const got = answer(mine, { amount: 45_600, text: `Rechnung ${text}` })
    expect(got).toMatchObject({ customer: 1, took: [[52, 45_600, 0, 0]] })
  })
  test('a wrong digit that makes the number of somebody else’s equal invoice never posts there', () => {
    const theirs = item(53, 45_600, { customerId: 2 })
    const { proposals } = match([...mine, theirs], { amount: 45_600, text: 'Rechnung 4711053' })
    const [best] = proposals
    const customer = best!.action.kind === 'receipt' ? best!.action.parts[0]!.customerId : 0
    expect(customer).toBe(1)
    for (const p of proposals)
      if (p.action.kind === 'receipt' && p.action.parts[0]!.customerId === 2)
        expect(p.confidence).toBeLessThan(0.5)
  })
  test('but a payer we do not know, who names it rightly, pays it', () => {
    const theirs = item(53, 45_600, { customerId: 2 })
    const got = answer([...mine, theirs], { amount: 45_600, text: 'Rechnung 4711053', iban: '' })
    expect(got.customer).toBe(2)
    expect(got.confidence).toBeGreaterThan(0.95)
  })
  test('one slip is seen, two are not; either way round', () => {
    const digits = fc.stringMatching(/^[0-9]{6,9}$/)
    const place = fc.nat(5)
    fc.assert(
      fc.property(digits, place, fc.constantFrom(...'0123456789'), (n, at, d) => {
        const slips = [
          n.slice(0, at) + d + n.slice(at + 1),
          n.slice(0, at) + n.slice(at + 1),
          n.slice(0, at) + d + n.slice(at),
          n.slice(0, at) + (n[at + 1] ?? '') + n[at]! + n.slice(at + 2),
        ]
        for (const slip of slips)
          expect([n, slip, isSlip(n, slip), isSlip(slip, n)]).toEqual([n, slip, true, true])
      }),
    )
    for (const [a, b] of [
      ['4711052', '4711063'],
      ['4711052', '4117052'],
      ['4711052', '471105'.slice(0, 5)],
      ['123456', '234567'],
    ] as const)
      expect([a, b, isSlip(a, b)]).toEqual([a, b, false])
  })
})

describe('money that the bank sends back', () => {
  const returned = (text: string) =>
    new Matcher(
      worldOf(CUSTOMERS, {
        returnable: [
          {
            itemId: 9,
            number: 'R-9',
            customerId: 1,
            amount: 45_600,
            date: '2026-11-10',
            references: ['100200'],
            iban: '',
            name: '',
          },
        ],
      }),
    ).match(lineOf({ amount: -45_600, text }))
  test.each([
    'CHEQUE 100200 RETURNED UNPAID',
    'Rücklastschrift 100200',
    'RUECKLASTSCHRIFT 100200',
    'Rückgabe Scheck 100200',
    'Chèque 100200 impayé',
    'rejet de chèque 100200',
    'assegno 100200 insoluto',
    'devolución 100200',
    'Retur 100200',
    'Gestorneerd 100200',
  ])('%s', text => {
    const { proposals, asks } = returned(text)
    expect(proposals[0]).toMatchObject({ action: { kind: 'return', itemId: 9 } })
    expect(proposals[0]!.reasons.join()).toContain('the bank calls it a return')
    // Reason and fee are a person's, however sure it is.
    expect(asks).toBe(true)
  })
  test('a word that only holds one of these is none', () => {
    const [first] = returned('Returnable crates, ref 100200').proposals
    expect(first!.reasons.join()).not.toContain('the bank calls it a return')
  })
})
