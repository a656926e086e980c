import fc from 'fast-check'
import { circle, faultsOf, FIELD_NAMES, FIELDS, headIn, normal, type Values } from '../../../core/accounts'

const GOOD: Values = {
  name: 'Hollin & Sedge',
  country: 'IE',
  language: 'en',
  currency: 'EUR',
  terms: '2% 10, net 30',
  creditLimit: 60_000_00,
  limitFrom: '2026-01-01',
  limitUntil: '2026-12-31',
  // The examples of ISO 13616 and of ISO 9362.
  iban: 'GB82WEST12345698765432',
  bic: 'DEUTDEFF500',
  email: 'maud@hollin.example',
  riskClass: 'B',
}

test('a master as it should be has no fault', () => {
  expect(faultsOf(GOOD)).toEqual([])
})

test.each([
  ['name', ''],
  ['name', 'Hollin\nBcc: all@else.example'],
  ['email', 'maud@hollin.example\r\nBcc: all@else.example'],
  ['email', 'maud at hollin'],
  ['email', 'a@b@c.example'],
  ['country', 'XX'],
  ['currency', 'EURO'],
  ['limitCurrency', 'ABC'],
  ['terms', 'soon'],
  ['iban', 'GB82WEST12345698765433'],
  ['bic', 'NOBANK'],
  ['creditLimit', -1],
  ['creditLimit', 0.5],
  ['limitFrom', '2026-02-30'],
  ['riskClass', 'Z'],
  ['method', 'barter'],
  ['city', 'x'.repeat(81)],
] as const)('%s %p is a fault that says what would be right', (field, value) => {
  expect(faultsOf({ ...GOOD, [field]: value })).toEqual([
    { field, message: expect.any(String), satisfy: expect.stringMatching(/\w/) },
  ])
})

test('a limit does not end before it begins', () => {
  expect(faultsOf({ ...GOOD, limitUntil: '2025-12-31' })).toMatchObject([{ field: 'limitUntil' }])
})

test('what is normal stays normal, whatever it is', () => {
  fc.assert(
    fc.property(fc.constantFrom(...FIELD_NAMES), fc.string(), (field, text) => {
      const once = normal(field, text)
      expect(normal(field, once)).toEqual(once)
    }),
  )
  expect(normal('iban', ' gb82 west 1234 5698 7654 32 ')).toBe('GB82WEST12345698765432')
  expect(normal('limitFrom', '  ')).toBeNull()
})

test('each field has a column of its own', () => {
  expect(new Set(FIELD_NAMES.map(f => FIELDS[f].column)).size).toBe(FIELD_NAMES.length)
})

describe('groups', () => {
  const parents = new Map<number, number | null>([
    [1, null],
    [2, 1],
    [3, 2],
    [4, null],
  ])
  test('of any depth, without circles', () => {
    expect(circle(parents, 4, 3)).toBeNull()
    expect(circle(parents, 1, 3)).toEqual([1, 3, 2, 1])
    expect(circle(parents, 4, 4)).toEqual([4, 4])
    expect([1, 2, 3, 4].map(id => headIn(parents, id))).toEqual([1, 1, 1, 4])
    expect(circle(new Map([[2, 1]]), 1, 2)).toEqual([1, 2, 1])
    expect(circle(new Map(), 1, 2)).toBeNull()
  })
  test('whatever is put under whatever, everybody has a head', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(9), fc.nat(9)), { maxLength: 40 }), moves => {
        const forest = new Map<number, number | null>(Array.from({ length: 10 }, (_, i) => [i, null]))
        for (const [customer, parent] of moves)
          if (!circle(forest, customer, parent)) forest.set(customer, parent)
        for (const id of forest.keys()) expect(forest.get(headIn(forest, id))).toBeNull()
      }),
    )
  })
})
