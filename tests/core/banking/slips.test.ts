import { postSlip, voidSlip, type TrayMeans } from '../../../core/banking'
import { books, rules } from '../books'

/* Each rule of a paying-in slip is provoked, and its opposite, just inside the bound, is accepted. */

const cheque: TrayMeans = {
  id: 1,
  receipt: 'R-000001',
  means: 'cheque',
  currency: 'EUR',
  amount: 10_000,
  baseAmount: 10_000,
  date: '2026-11-10',
  slip: null,
  reversed: false,
}
const cash: TrayMeans = { ...cheque, id: 2, means: 'cash', amount: 4000, baseAmount: 4000 }

const slip = (means: TrayMeans[], over: { date?: string; cashKept?: number; wanted?: number[] } = {}) =>
  postSlip(books().state, {
    date: '2026-11-16',
    cashKept: 0,
    means,
    wanted: means.map(m => m.id),
    ...over,
  })

test('something is on it, from the tray, once, and not reversed', () => {
  expect(rules(slip([]))).toContain('slip.some')
  expect(rules(slip([cheque], { wanted: [1, 9] }))).toEqual(['slip.known'])
  expect(rules(slip([{ ...cheque, slip: 'S-1' }]))).toEqual(['slip.once'])
  expect(rules(slip([{ ...cheque, reversed: true }]))).toEqual(['slip.reversed'])
  expect(rules(slip([cheque]))).toEqual([])
})

test('its day is not before that of what is on it', () => {
  expect(rules(slip([cheque], { date: '2026-11-09' }))).toEqual(['slip.date'])
  expect(rules(slip([cheque], { date: '2026-11-10' }))).toEqual([])
})

test('it is in one currency', () => {
  expect(rules(slip([cheque, { ...cash, currency: 'GBP' }]))).toEqual(['slip.currency'])
  expect(rules(slip([cheque, cash]))).toEqual([])
})

test('kept back is cash of it, and something is left for the bank', () => {
  expect(rules(slip([cheque, cash], { cashKept: 4001 }))).toEqual(['slip.kept'])
  expect(rules(slip([cheque, cash], { cashKept: 4000 }))).toEqual([])
  expect(rules(slip([cheque, cash], { cashKept: -1 }))).toEqual(['slip.kept'])
  expect(rules(slip([cash], { cashKept: 4000 }))).toEqual(['slip.kept'])
  expect(rules(slip([cash], { cashKept: 3999 }))).toEqual([])
})

test('what leaves the tray is what goes to the bank and to petty cash', () => {
  const done = slip([cheque, cash], { cashKept: 1500 })
  if (!done.ok) throw new Error('refused')
  expect(done.posting.lines.map(l => [l.account, l.amount])).toEqual([
    ['1220', 12_500],
    ['1000', 1500],
    ['1210', -14_000],
  ])
})

test('voided once, on its day or later, before the bank shows it and while its receipts stand', () => {
  const voided = (over: Partial<Parameters<typeof voidSlip>[1]> = {}) =>
    rules(
      voidSlip(books().state, {
        date: '2026-11-16',
        reason: 'left at the counter',
        slip: 'S-1',
        slipDate: '2026-11-16',
        voided: false,
        settled: false,
        reversedReceipt: null,
        lines: [],
        ...over,
      } as Parameters<typeof voidSlip>[1]),
    )
  expect(voided()).toEqual([])
  expect(voided({ date: '2026-11-15' })).toEqual(['slip.date'])
  expect(voided({ voided: true })).toEqual(['slip.void-once'])
  expect(voided({ settled: true })).toEqual(['slip.settled'])
  expect(voided({ reversedReceipt: 'R-000001' })).toEqual(['slip.void-reversed'])
})
