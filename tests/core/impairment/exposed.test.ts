import fc from 'fast-check'
import {
  allowanceBridge,
  allowanceOf,
  inBands,
  type Allowance,
  type Claims,
  type JudgedCase,
} from '../../../core/impairment'
import { WHOLE } from '../../../core/money'

const ask = { matrix: { rest: [30, 160, 360, 660, 1060], byClass: { E: [500, 1000, 2000, 4000, 8000] } } }
const plain = { ...ask, factor: WHOLE, reason: '' }
const claim = (customerId: number, band: number, gross: number, currency = 'EUR'): Claims => ({
  ...{ customerId, currency, band, gross, base: gross },
})

test('the insurer bears what is not judged by name, spread over it', () => {
  const claims = [claim(1, 0, 60_000), claim(1, 2, 30_000), claim(1, 4, 10_000)]
  const cases: JudgedCase[] = [{ id: 9, customerId: 1, itemId: 77, rate: 5000 }]
  const exposed = { claims, cases: [{ id: 9, currency: 'EUR', band: 4, gross: 10_000, base: 10_000 }] }
  const { open, named } = inBands(exposed, cases, () => ({ riskClass: 'E', insured: 45_000 }))
  expect(open.map(o => [o.band, o.borne, o.riskClass])).toEqual([
    [0, 30_000, 'E'],
    [2, 15_000, 'E'],
    [4, 0, 'E'],
  ])
  expect(named).toMatchObject([{ id: 9, gross: 10_000, rate: 5000 }])
  const made = allowanceOf(open, named, plain)
  expect(made.cells.map(c => [c.exposed, c.allowance])).toEqual([
    [30_000, 1500],
    [15_000, 3000],
    [0, 0],
  ])
  expect(made.namedByBand).toEqual([0, 0, 0, 0, 5000])
})

test('cover beyond what is owed is of no use to others', () => {
  const exposed = { claims: [claim(1, 4, 100), claim(2, 4, 1000)], cases: [] }
  const { open } = inBands(exposed, [], id => ({ riskClass: '', insured: id === 1 ? 5000 : 0 }))
  expect(allowanceOf(open, [], plain).cells).toMatchObject([{ gross: 1100, borne: 100, exposed: 1000 }])
})

const stoodOf = ({ cells, named }: Allowance) => ({ cells, named })

test('from one allowance to the next by hand: used, added, released, other rates', () => {
  const at = (gross: number, rest: number[]) =>
    allowanceOf(
      inBands({ claims: [claim(1, 0, gross)], cases: [] }, [], () => ({ riskClass: '', insured: 0 })).open,
      [],
      {
        ...plain,
        matrix: { rest, byClass: {} },
      },
    )
  const last = at(100_000, [1000])
  // 30,000 less stand there, of which 2,000 were written off against what was set aside.
  expect(allowanceBridge(stoodOf(last), at(70_000, [1000]), 2000)).toEqual({
    ...{ opening: 10_000, used: -2000, added: 0, released: -1000, rates: 0, named: 0, closing: 7000 },
  })
  expect(allowanceBridge(stoodOf(last), at(120_000, [1500]), 0)).toEqual({
    ...{ opening: 10_000, used: 0, added: 2000, released: 0, rates: 6000, named: 0, closing: 18_000 },
  })
  // More was lost than was set aside for it.
  expect(allowanceBridge(stoodOf(last), at(70_000, [1000]), 9000)).toMatchObject({ added: 6000, released: 0 })
  expect(allowanceBridge(null, last, 0)).toMatchObject({ opening: 0, added: 10_000, closing: 10_000 })
})

test('the parts of the bridge add up, whatever moved', () => {
  const world = fc.array(
    fc.record({
      customerId: fc.integer({ min: 1, max: 4 }),
      currency: fc.constantFrom('EUR', 'GBP'),
      band: fc.integer({ min: 0, max: 4 }),
      gross: fc.integer({ min: 1, max: 10_000_000 }),
    }),
    { maxLength: 12 },
  )
  const factor = fc.integer({ min: 0, max: 30_000 })
  const made = (list: Omit<Claims, 'base'>[], by: number, insured: number, rate: number) => {
    const byKey = new Map(list.map(c => [`${c.customerId} ${c.currency} ${c.band}`, { ...c, base: c.gross }]))
    const claims = [...byKey.values()].sort((a, b) => a.customerId - b.customerId)
    const own = claims.filter(c => c.customerId === 2)
    const cases = own.map(({ currency, band, gross, base }) => ({ id: 5, currency, band, gross, base }))
    const { open, named } = inBands(
      { claims, cases },
      [{ id: 5, customerId: 2, itemId: null, rate }],
      id => ({
        riskClass: id === 3 ? 'E' : '',
        insured,
      }),
    )
    const allowance = allowanceOf(open, named, { ...plain, factor: by, reason: 'x' })
    const gross = claims.reduce((sum, c) => sum + c.gross, 0)
    expect(allowance.cells.reduce((sum, c) => sum + c.gross, 0)).toBe(gross)
    for (const c of allowance.cells) expect(c.gross - c.borne - c.named).toBe(c.exposed)
    for (const c of allowance.cells) expect(c.exposed).toBeGreaterThanOrEqual(0)
    const byBand = allowance.namedByBand.reduce((a, b) => a + b, 0)
    expect(byBand).toBe(allowance.named.reduce((sum, n) => sum + n.allowanceBase, 0))
    return allowance
  }
  const rate = fc.integer({ min: 0, max: WHOLE })
  fc.assert(
    fc.property(
      world,
      world,
      factor,
      factor,
      rate,
      fc.integer({ min: 0, max: 99_999 }),
      (a, b, f, g, r, used) => {
        const last = made(a, f, 5000, r)
        const now = made(b, g, 90_000, WHOLE - r)
        const parts = allowanceBridge(stoodOf(last), now, used)
        const { opening, closing, ...moved } = parts
        expect(opening + Object.values(moved).reduce((x, y) => x + y, 0)).toBe(closing)
        expect(closing).toBe(now.totals.reduce((sum, t) => sum + t.base, 0))
      },
    ),
  )
})
