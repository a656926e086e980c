import fc from 'fast-check'
import {
  creditorReference,
  decode,
  isCreditorReference,
  Matcher,
  NameIndex,
  numbersIn,
  type MatchItem,
  type MatchLine,
  type MatchWorld,
} from '../../../core/banking/matching'
import { MOST_ASKED, possibleNumbers } from '../../../core/banking/matching/numbers'
import { askAll, goalsOf, reliability } from '../../../scripts/match/score'
import { matchWorldOf } from '../../../scripts/match/world'
import { unrulyWorld } from '../../../simulators/unruly/lines'
import { itemOf, lineOf, worldOf } from './world'
import { inventWorld } from '../../../simulators/payers'

const item = (id: number, open: number, over: Partial<MatchItem> = {}): MatchItem => {
  const day = String((id % 28) + 1).padStart(2, '0')
  return itemOf(id, open, { documentDate: `2026-09-${day}`, dueDate: `2026-10-${day}`, ...over })
}
const CUSTOMERS = [
  { id: 1, number: 'K1', name: 'Hollin & Sedge Foods', iban: 'IE29AIBK93115212345678', parentId: null },
  { id: 2, number: 'K2', name: 'Fjordlys Fisk', iban: '', parentId: null },
  { id: 3, number: 'K3', name: 'Hollin Bakers', iban: '', parentId: 1 },
]
const world = (over: Partial<MatchWorld> = {}) => worldOf(CUSTOMERS, over)
const first = (w: MatchWorld, l: Partial<MatchLine>) => {
  const m = new Matcher(w).match(lineOf(l))
  return { ...m, best: m.proposals[0] }
}
const allocated = (p: ReturnType<typeof first>['best']) =>
  p?.action.kind === 'receipt'
    ? p.action.parts.flatMap(x => x.allocations.map(a => [a.itemId, a.amount, a.discount, a.difference]))
    : p?.action

describe('references', () => {
  test('creditor references by ISO 11649', () => {
    expect(isCreditorReference('RF18 5390 0754 7034')).toBe(true)
    expect(creditorReference('539007547034')).toBe('RF18539007547034')
    expect(() => creditorReference('1234567890123456789012')).toThrow(/1 to 21/)
    // ISO 7064 mod 97-10 finds every single wrong digit and every swap of neighbours.
    fc.assert(
      fc.property(
        fc.stringMatching(/^[A-Z0-9]{1,21}$/),
        fc.nat(),
        fc.integer({ min: 1, max: 9 }),
        (text, at, by) => {
          const ref = creditorReference(text)
          expect(isCreditorReference(ref)).toBe(true)
          const digits = [...ref].flatMap((c, i) => (i > 1 && /\d/.test(c) ? [i] : []))
          const i = digits[at % digits.length]!
          expect(
            isCreditorReference(ref.slice(0, i) + String((Number(ref[i]) + by) % 10) + ref.slice(i + 1)),
          ).toBe(false)
        },
      ),
    )
  })
  test.each([
    ['Invoice 26-3381', ['263381']],
    ['RE 26/3381 und 26 3382', ['263381', '263382']],
    ['26-3381/82/95', ['263381', '263382', '263395']],
    ['RF18263381 thanks', ['263381']],
    ['paid 263381.', ['263381']],
    ['order 99-12345', []],
    ['26-338', []],
  ])('numbers in “%s”', (text, found) => {
    const known = new Set(['263381', '263382', '263395'])
    expect(
      numbersIn(text.replace('RF18263381', creditorReference('263381')), k => known.has(k)).sort(),
    ).toEqual([...found].sort())
  })
  test('whatever number a text is read to hold was among those a database is asked for', () => {
    const number = fc.stringMatching(/^(26|INV|A)[-/. ]?\d{3,5}$/)
    const between = fc.constantFrom(' ', ', ', ' + ', '/', ' und ', ' RF18', 'Rg.', ' 99 ')
    fc.assert(
      fc.property(
        fc.array(fc.tuple(number, between), { minLength: 1, maxLength: 4 }),
        fc.array(fc.integer({ min: 10, max: 999 }), { maxLength: 3 }),
        (parts, ends) => {
          const text = `${parts.map(([n, b]) => `${n}${b}`).join('')}${ends.map(e => `/${e}`).join('')}`
          const asked = new Set(possibleNumbers(text))
          if (asked.size === MOST_ASKED) return
          // All numbers with the years and letters above exist: the reader may take any of them.
          for (const found of numbersIn(text, key => /^(26|INV|A)\d{3,5}$/.test(key)))
            expect([text, found, asked.has(found)]).toEqual([text, found, true])
        },
      ),
      { numRuns: 500 },
    )
  })
  test('names: accents, capitals, legal forms, a letter missing, cut off; rare words weigh more', () => {
    const index = new NameIndex([
      ...CUSTOMERS,
      { id: 4, number: 'K4', name: 'Lumière d’Algue', iban: '', parentId: null },
    ])
    for (const [text, id] of [
      ['LUMIERE D ALGUE SARL', 4],
      ['FJORDLYS FSK', 2],
      ['HOLLIN SEDGE FOOD', 1],
      ['hollin bakers ltd', 3],
    ] as const)
      expect(index.find(text)[0]).toMatchObject({ customerId: id })
    expect(index.find('Stonebyre Nutrition')).toEqual([])
  })
})

describe('decoding a lump sum', () => {
  const none = { referred: new Set<number>(), discountsOf: () => [], tolerance: 0, asOf: '2026-11-13' }
  test('every answer meets the amount, and a true set of the simple kinds is among them', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 100, max: 999_999 }), { minLength: 2, maxLength: 30 }),
        fc.array(fc.nat(), { minLength: 1, maxLength: 3 }),
        (amounts, picks) => {
          const items = amounts.map((a, i) => item(i + 1, a))
          const chosen = [...new Set(picks.map(p => p % items.length))]
          const target = chosen.reduce((a, i) => a + items[i]!.open, 0)
          const answers = decode(items, [], target, none)
          expect(answers.length).toBeGreaterThan(0)
          for (const a of answers)
            expect(
              a.take.reduce((s, t) => s + t.item.open - t.discount, 0) -
                a.credits.reduce((s, c) => s + c.open, 0) -
                a.difference,
            ).toBe(target)
        },
      ),
      { numRuns: 200 },
    )
  })
  test('several equally good answers are all told, simple ones before far-fetched ones', () => {
    const items = [item(1, 5000), item(2, 5000), item(3, 2000), item(4, 3000)]
    expect(decode(items, [], 5000, none).map(a => a.take.map(t => t.item.id))).toEqual([[1], [2]])
  })
  test('with discounts, less credits, a few cents short', () => {
    const items = [item(1, 100_000, { discounts: [{ date: '2026-11-20', amount: 2000 }] }), item(2, 50_000)]
    const credit = item(9, 7000, { side: 'credit', number: 'C-9' })
    expect(
      decode(items, [credit], 148_000, {
        ...none,
        discountsOf: i => i.discounts.map(d => d.amount),
      })[0]!.take.map(t => t.discount),
    ).toEqual([2000, 0])
    expect(decode(items, [credit], 43_000, none)[0]).toMatchObject({
      credits: [credit],
      how: '26-1002, less C-9',
    })
    expect(decode(items, [], 49_950, { ...none, tolerance: 100 })[0]).toMatchObject({ difference: 50 })
  })
  test('an accident gets likelier the more sets were tried', () => {
    const many = Array.from({ length: 40 }, (_, i) => item(i + 1, 1000 + ((i * 7919) % 90_000)))
    const pair = decode(many, [], many[3]!.open + many[31]!.open, none)[0]!
    const single = decode(many, [], many[3]!.open, none)[0]!
    expect(pair.accident).toBeGreaterThan(single.accident)
  })
})

describe('matching a line', () => {
  const items = [
    item(1, 121_040),
    item(2, 912_000),
    item(3, 50_000, { customerId: 2 }),
    item(4, 77_700, { customerId: 3 }),
  ]
  test('document number and amount', () => {
    const { best } = first(world({ items }), { amount: 121_040, text: 'Re 26-1001', name: 'Somebody Else' })
    expect(allocated(best)).toEqual([[1, 121_040, 0, 0]])
    expect(best!.confidence).toBeGreaterThan(0.97)
    expect(best!.reasons.join(' ')).toContain('26-1001')
  })
  test('structured creditor reference', () => {
    expect(
      allocated(first(world({ items }), { amount: 50_000, reference: creditorReference('26-1003') }).best),
    ).toEqual([[3, 50_000, 0, 0]])
  })
  test('bank account known, amount exact, no text', () => {
    expect(
      first(world({ items }), { amount: 912_000, iban: 'IE29 AIBK 9311 5212 3456 78' }).best,
    ).toMatchObject({ confidence: expect.closeTo(0.99, 1) })
  })
  test('bank account learnt from before', () => {
    const { best } = first(
      world({ items, learnt: [{ iban: 'NO9386011117947', name: 'x', customerId: 2 }] }),
      { amount: 50_000, iban: 'NO9386011117947' },
    )
    expect(allocated(best)).toEqual([[3, 50_000, 0, 0]])
    expect(best!.reasons[0]).toContain('before')
  })
  test('part of what is named stays open, too much stays on account', () => {
    expect(
      allocated(first(world({ items }), { amount: 100_000, text: '26-1001', iban: CUSTOMERS[0]!.iban }).best),
    ).toEqual([[1, 100_000, 0, 0]])
    const { best } = first(world({ items }), { amount: 130_000, text: '26-1001', iban: CUSTOMERS[0]!.iban })
    expect(best!.action).toMatchObject({ kind: 'receipt', parts: [{ customerId: 1, onAccount: 8960 }] })
    expect(best!.confidence).toBeLessThan(0.95)
  })
  test('a tie is told, not guessed', () => {
    const day = { dueDate: '2026-10-15' }
    const { tie, proposals } = first(world({ items: [item(1, 5000, day), item(2, 5000, day)] }), {
      amount: 5000,
      iban: CUSTOMERS[0]!.iban,
    })
    expect(tie).toBe(true)
    expect(proposals.slice(0, 2).map(allocated)).toEqual([[[1, 5000, 0, 0]], [[2, 5000, 0, 0]]])
  })
  test('of equal ones that nothing names the oldest is paid', () => {
    const { tie, best } = first(world({ items: [item(1, 5000), item(2, 5000)] }), {
      amount: 5000,
      iban: CUSTOMERS[0]!.iban,
    })
    expect(tie).toBe(false)
    expect(allocated(best)).toEqual([[1, 5000, 0, 0]])
  })
  test('paid twice: what is settled is told, the money stays on account', () => {
    const { best } = first(
      world({
        items,
        closed: k =>
          k === '261099'
            ? {
                customerId: 1,
                number: '26-1099',
                amount: 44_400,
                documentDate: '2026-09-30',
                on: '2026-11-02',
                by: 'R-000007',
                writtenOff: false,
              }
            : undefined,
      }),
      { amount: 44_400, text: '26-1099', iban: CUSTOMERS[0]!.iban },
    )
    expect(best!.action).toMatchObject({ parts: [{ customerId: 1, onAccount: 44_400, allocations: [] }] })
    expect(best!.reasons.join(' ')).toMatch(/settled on 2026-11-02 by R-000007.*paid twice/)
  })
  test('what was written off is told to come back, not to be paid twice', () => {
    const lost = {
      customerId: 1,
      number: '26-1099',
      amount: 44_400,
      documentDate: '2026-02-28',
      on: '2026-10-02',
      by: 'W-00007',
      writtenOff: true,
    }
    const { best, asks } = first(world({ items, closed: k => (k === '261099' ? lost : undefined) }), {
      amount: 10_000,
      text: 'rate 1 fuer 26-1099',
      iban: CUSTOMERS[0]!.iban,
    })
    expect(best!.action).toMatchObject({ parts: [{ customerId: 1, onAccount: 10_000 }] })
    expect(asks).toBe(true)
    expect(best!.reasons.join(' ')).toMatch(/26-1099 was written off on 2026-10-02 by W-00007.*comes back/)
  })
  test('one payment for members of a group', () => {
    expect(
      first(world({ items }), { amount: 121_040 + 77_700, text: '26-1001 26-1004', iban: CUSTOMERS[0]!.iban })
        .best!.action,
    ).toMatchObject({ kind: 'receipt', parts: [{ customerId: 1 }, { customerId: 3 }] })
  })
  test('covered money by its reference, deposits by slip; two of one amount without a word are a tie', () => {
    const covered = [
      {
        kind: 'means' as const,
        id: 7,
        label: 'R-000007',
        customerId: 2,
        amount: 50_000,
        date: '2026-11-12',
        references: ['004711'],
      },
      {
        kind: 'slip' as const,
        id: 3,
        label: 'P-00003',
        customerId: null,
        amount: 88_000,
        date: '2026-11-12',
        references: [],
      },
    ]
    expect(first(world({ items, covered }), { amount: 50_000, text: 'cheque 004711' }).best).toMatchObject({
      action: { kind: 'covered', targets: [{ kind: 'means', id: 7 }] },
    })
    expect(first(world({ covered }), { amount: 88_000, text: 'LODGEMENT' }).best).toMatchObject({
      action: { targets: [{ kind: 'slip', id: 3 }] },
    })
    expect(
      first(world({ covered: [covered[0]!, { ...covered[0]!, id: 8, label: 'R-000008', references: [] }] }), {
        amount: 50_000,
      }).tie,
    ).toBe(true)
  })
  test('charges by rule, returns by cheque number, nothing for a stranger', () => {
    const rules = [{ iban: '', words: 'bank charges', account: '6850', moneyIn: false }]
    expect(first(world({ rules }), { amount: -2150, text: 'BANK CHARGES WEEK 46' }).best).toMatchObject({
      action: { kind: 'ledger', account: '6850' },
    })
    const returnable = [
      {
        itemId: 5,
        number: 'R-000005',
        customerId: 1,
        amount: 70_000,
        date: '2026-11-02',
        references: ['005059'],
        iban: '',
        name: '',
      },
    ]
    expect(
      first(world({ returnable }), { amount: -70_000, text: 'UNPAID CHEQUE 005059', returnReason: 'AM04' })
        .best,
    ).toMatchObject({
      action: { kind: 'return', itemId: 5, reason: 'Returned by the bank, reason AM04' },
    })
    expect(first(world({ items }), { amount: 31_337, name: 'Unheard Of' }).proposals).toEqual([])
  })
  test('what one line uses is not offered to the next', () => {
    const m = new Matcher(world({ items }))
    const l = lineOf({ amount: 121_040, text: '26-1001', iban: CUSTOMERS[0]!.iban })
    m.use(m.match(l).proposals[0]!)
    expect(m.match(l).proposals[0]!.action).toMatchObject({ parts: [{ allocations: [] }] })
  })
})

// The full measure, many houses and 5,000 lines against 50,000 items, is `npm run bench`.
describe('against the truth of simulated payers', () => {
  const share = (part: number, whole: number) => part / Math.max(1, whole)
  test('untidy ones of every kind, in houses that the weights were not fitted to', () => {
    const told = ['test-1', 'test-2'].flatMap(seed => askAll(unrulyWorld(seed, 800)))
    const g = goalsOf(told)
    expect(g.lines).toBe(1600)
    expect(share(g.automaticRight, g.automatic)).toBeGreaterThanOrEqual(0.998)
    expect(share(g.automatic, g.lines)).toBeGreaterThanOrEqual(0.88)
    expect(share(g.restRight, g.rest)).toBeGreaterThanOrEqual(0.85)
    // What is said is what is right, where there are lines enough to tell.
    for (const step of reliability(told, [0.98, 0.995]))
      expect(Math.abs(step.said - step.right)).toBeLessThan(0.02)
  })
  test('those of the demo, which the weights were not fitted to either', () => {
    const payers = inventWorld('test', 700, 5000, '2026-11-16')
    const world = matchWorldOf(payers, '2026-11-15', '2026-11-16')
    const g = goalsOf(askAll({ ...world, lines: world.lines.slice(0, 400) }))
    expect(share(g.automaticRight, g.automatic)).toBeGreaterThanOrEqual(0.995)
    expect(share(g.automatic, g.lines)).toBeGreaterThanOrEqual(0.85)
  })
})
