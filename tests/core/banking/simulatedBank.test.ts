import { folderInbox } from '../../../server/ports/bankInbox'
import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readStatements } from '../../../formats/statements'
import { deliverUpTo, hasBank, setUpBank, truthOf, type BankMemory } from '../../../simulators/bank'
import { inventWorld, paymentLines } from '../../../simulators/payers'

let folder: string
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'bilancio-bank-'))
})
afterEach(() => rmSync(folder, { recursive: true, force: true }))
const memory = (): BankMemory => ({
  seed: 's',
  muddle: 3,
  deliveredTo: '2026-11-13',
  accounts: [{ currency: 'EUR', iban: 'IE64IRCE92050112345678', balance: 5000, number: 7 }],
  payers: inventWorld('w', 60, 400, '2026-11-16'),
})
const files = () =>
  readdirSync(join(folder, 'inbox'))
    .sort()
    .map(f => readFileSync(join(folder, 'inbox', f), 'utf8'))
const slip = {
  number: 'P-00001',
  currency: 'EUR',
  total: 70_000,
  date: '2026-11-16',
  cheques: [{ reference: '004417', amount: 70_000, receipt: 'R-000001' }],
}

test('the same seed and days give the same files; each statement opens where the last closed', () => {
  setUpBank(folder, memory())
  expect(deliverUpTo(folder, '2026-11-16', [slip])).toEqual(['2026-11-16-EUR.xml'])
  deliverUpTo(folder, '2026-11-20', [slip])
  const first = files()
  const statements = first.flatMap(f => readStatements(Buffer.from(f)))
  expect(statements.map(s => s.opening)).toEqual([5000, statements[0]!.closing])
  setUpBank(folder, memory())
  expect(files()).toEqual([])
  deliverUpTo(folder, '2026-11-16', [slip])
  deliverUpTo(folder, '2026-11-20', [slip])
  expect(files()).toEqual(first)
})

test('a slip is credited once, a day is delivered once, and the truth of every line lies apart', () => {
  expect(hasBank(folder)).toBe(false)
  setUpBank(folder, memory())
  deliverUpTo(folder, '2026-11-16', [slip])
  expect(deliverUpTo(folder, '2026-11-16', [slip])).toEqual([])
  deliverUpTo(folder, '2026-11-17', [slip])
  const lines = files()
    .flatMap(f => readStatements(Buffer.from(f)))
    .flatMap(s => s.lines)
  expect(lines.filter(l => l.text === 'LODGEMENT P-00001').map(l => l.amount)).toEqual([70_000])
  const truth = truthOf(folder)
  expect(truth.map(t => t.bankReference).sort()).toEqual(lines.map(l => l.bankReference).sort())
  expect(
    folderInbox(folder)
      .files()
      .every(f => !f.includes('truth')),
  ).toBe(true)
})

test('a payment is what its truth says: items, discounts, credits and the rest make its amount', () => {
  const payers = inventWorld('w2', 900, 7000, '2026-11-16')
  const all = paymentLines(payers, '2026-11-15', '2026-11-25', 's', 3)
  expect(all.length).toBeGreaterThan(100)
  for (const { line, truth } of all)
    expect(truth.allocations.reduce((a, x) => a + x.amount, 0) + truth.onAccount).toBe(line.amount)
  // Every way of paying that the measures speak of is there.
  const how = new Set(all.flatMap(d => d.truth.how.split(', ')))
  for (const h of [
    'lump sum',
    'one invoice',
    'discount',
    'credit taken off',
    'short',
    'cents short',
    'structured reference',
    'only the ends of numbers',
    'no reference',
    'wrong number',
    'from a relative',
  ])
    expect(how).toContain(h)
})
