import { can, ROLES, type Ability, type Role } from '../../../core/people'
import { perform, wouldDecide, type AnyCommand } from '../../../server/ledger/command'
import { NotAllowed } from '../../../server/ledger/rights'
import { COMMANDS } from '../../../server/services/commands'
import { importCustomers, importDocuments } from '../../../server/services/documents/imports'
import type { Actor } from '../../../server/services/people/scope'
import { CUSTOMERS, customers, freshBooks, type Books } from '../database'

/*
 * Rights belong to the Command: whatever route, job or Command in waiting leads to it. The table below is
 * written by hand from what each role is for, and tried on the door itself. The routes are tried in the
 * browser tests, over the API.
 */

let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
})
afterAll(() => books.close())

const POSTERS: Role[] = ['controller', 'cash', 'supervisor', 'administrator']
const CHASERS: Role[] = ['controller', 'supervisor', 'administrator']
const HEADS: Role[] = ['supervisor', 'administrator']
const TREASURY: Role[] = ['treasurer', ...HEADS]

const allocations = [{ itemId: 1, amount: 100 }]
const receipt = {
  customer: 'K1',
  date: '2026-11-16',
  means: [{ means: 'transfer', amount: 100 }],
  allocations,
}
const ledger = { kind: 'ledger', account: '4800', words: '', rememberPayer: false }
const line = { id: 1, version: 1, told: '', confidence: null }

/** Each Command, or a part of it, with an input that its schema takes, and who may ask it. */
const TABLE: [name: string, input: unknown, may: Role[]][] = [
  ['receipts.post', receipt, POSTERS],
  ['receipts.post', { ...receipt, lateDiscount: true }, HEADS],
  ['receipts.allocate', { customer: 'K1', date: '2026-11-16', pairs: [pair()] }, POSTERS],
  ['receipts.allocate', { customer: 'K1', date: '2026-11-16', pairs: [pair()], lateDiscount: true }, HEADS],
  ['receipts.unallocate', { customer: 'K1', date: '2026-11-16', allocationIds: [1], reason: 'x' }, POSTERS],
  ['receipts.reverse', { itemId: 1, date: '2026-11-16', reason: 'keyed twice', kind: 'error' }, POSTERS],
  ['receipts.putRight', { itemId: 1, reason: 'wrong customer', customer: 'K2' }, POSTERS],
  ['receipts.closeBatch', { id: 1, version: 1 }, POSTERS],
  ['banking.accept', { ...line, action: ledger }, POSTERS],
  ['banking.accept', { ...line, action: { ...ledger, words: 'BANK CHARGES' } }, HEADS],
  ['banking.accept', { ...line, action: { ...ledger, rememberPayer: true } }, HEADS],
  ['banking.acceptMany', { lines: [{ ...line, action: ledger }], automatic: false }, POSTERS],
  ['banking.unmatch', { id: 1, version: 1, reason: 'wrong' }, POSTERS],
  ['reminders.confirm', { id: 1, version: 1 }, CHASERS],
  ['reminders.withdraw', { id: 1, reason: 'by mistake' }, CHASERS],
  ['reminders.goodwill', { itemId: 1, amount: 1, reason: 'kind' }, CHASERS],
  ['reminders.claim', { customer: 'K1', itemIds: [1] }, CHASERS],
  ['reminders.handoverCost', cost(), CHASERS],
  ['accounts.limit', { customer: 'K1', seen: {}, set: { creditLimit: 5 }, reason: '' }, CHASERS],
  ['accounts.confirmBank', { customer: 'K1', details: bank(), before: bank() }, CHASERS],
  ['accounts.classLimit', { code: 'food', seen: null, creditLimit: 5, reason: '' }, HEADS],
  ['callList.log', { customer: 'K1', outcome: 'reached' }, CHASERS],
  ['promises.add', promised(), CHASERS],
  ['disputes.open', { customer: 'K1', reason: 'price', items: [{ itemId: 1, amount: 1 }] }, CHASERS],
  ['disputes.resolve', { id: 1, version: 1, resolution: 'upheld' }, CHASERS],
  [
    'refunds.post',
    { refunds: [{ customer: 'K1', method: 'cash', credits: [{ itemId: 1, amount: 1 }] }] },
    POSTERS,
  ],
  ['refunds.undo', { id: 1, reason: 'by mistake' }, POSTERS],
  ['refunds.lapse', { itemIds: [1], to: 'income', reason: 'small' }, POSTERS],
  ['collections.confirm', { id: 1, version: 1 }, TREASURY],
  ['collections.collect', { ids: [1] }, TREASURY],
  ['collections.return', { returns: [{ id: 1, code: 'AM04' }] }, TREASURY],
  [
    'impairment.writeOff',
    { items: [{ itemId: 1 }], reason: 'small', text: 'small', commission: 'kept' },
    CHASERS,
  ],
  ['impairment.undo', { id: 1, reason: 'found again' }, CHASERS],
  ['impairment.relief', {}, CHASERS],
  ['impairment.recover', { creditItemId: 1, parts: [{ writeOffId: 1, amount: 100 }] }, CHASERS],
  ['impairment.allowance', { date: '2026-10-31' }, CHASERS],
  ['impairment.allowanceUndo', { id: 1, reason: 'wrong rates' }, CHASERS],
  ['factoring.offer', { facility: 'TERN', currency: 'EUR', itemIds: [1] }, TREASURY],
  ['factoring.answer', { facility: 'TERN', name: 'a.csv', hash: '0'.repeat(64), lines: [] }, TREASURY],
  ['factoring.short', { facility: 'TERN', creditItemId: 1, itemId: 2 }, TREASURY],
  ['factoring.undoPassOn', { id: 1, reason: 'not the factor’s' }, TREASURY],
  ['factoring.passOn', { facility: 'TERN', creditItemId: 1, amount: 100 }, TREASURY],
  ['exposure.release', { customer: 'K1', cause: 'hand', reason: 'paid', until: null }, CHASERS],
]

function cost() {
  return { id: 1, on: '2026-11-16', currency: 'EUR', amount: 100, text: 'letter' }
}

function promised() {
  return { customer: 'K1', currency: 'EUR', parts: [{ date: '2026-11-20', amount: 100 }] }
}

function bank() {
  return { iban: '', bic: '', bankHolder: '' }
}

function pair() {
  return { debitItemId: 1, creditItemId: 2, amount: 100 }
}

const command = (name: string): AnyCommand => COMMANDS.find(c => c.name === name)!
const actor = (role: Role): Actor => ({ ...books.actor, role })

/** What came of it: refused for want of rights, or anything else. */
async function isRefused(work: Promise<unknown>): Promise<boolean> {
  try {
    await work
    return false
  } catch (error) {
    return error instanceof NotAllowed
  }
}

test.each(TABLE)('%s %j', async (name, input, may) => {
  const what = command(name)
  expect(what.input.safeParse(input).error?.issues ?? []).toEqual([])
  for (const role of ROLES) {
    const refused = [
      await isRefused(perform(books.database, actor(role), what, input)),
      await isRefused(wouldDecide(books.database, actor(role), what, input)),
    ]
    expect([role, ...refused]).toEqual([role, !may.includes(role), !may.includes(role)])
  }
})

test('every Command asks for something, and nobody who only reads may do it', () => {
  const reading: Role[] = ['sales', 'auditor']
  const named = new Set(TABLE.map(([name]) => name))
  const posting: Ability[] = [
    ...(['receipts.post', 'receipts.correct', 'reminders.run', 'import'] as const),
    ...(['customers.edit', 'holds.set', 'policy.edit', 'chase.keep'] as const),
    ...(['refunds.post', 'collections.run', 'impairment.post', 'factoring.run'] as const),
  ]
  for (const c of COMMANDS) {
    expect([c.name, posting.includes(c.ability)]).toEqual([c.name, true])
    if (!named.has(c.name)) expect(c.name).toMatch(/^(receipts\.(ticked|sundry)|banking\.slip)/)
  }
  for (const role of reading)
    for (const c of COMMANDS) expect([c.name, role, can(role, c.ability)]).toEqual([c.name, role, false])
})

describe('imports', () => {
  const options = { dryRun: false, skipExisting: false }
  const csv = (kind: string) => `number,kind,customer,date,amount\nR-${kind},${kind},K1,2026-11-02,10.00\n`
  const put = (role: Role, kind: string, dryRun = false) =>
    importDocuments(books.database, actor(role), csv(kind), { ...options, dryRun }, async () => {})
  test('a credit note gives money away: not by who may import invoices', async () => {
    for (const role of ROLES) {
      expect([role, await isRefused(put(role, 'credit-note', true))]).toEqual([role, !HEADS.includes(role)])
      expect([role, await isRefused(put(role, 'invoice', true))]).toEqual([role, !POSTERS.includes(role)])
    }
    expect(await isRefused(put('controller', 'Credit-Note'))).toBe(true)
    const [row] = await books.database.select<{ n: number }>('SELECT COUNT(*) AS n FROM item')
    expect(row!.n).toBe(0)
    await put('supervisor', 'credit-note')
  })
  test('customers', async () => {
    const file = 'number,name,country\nQ1,Somebody,IE\n'
    for (const role of ROLES)
      expect([
        role,
        await isRefused(
          importCustomers(books.database, actor(role), file, { ...options, dryRun: true }, async () => {}),
        ),
      ]).toEqual([role, !POSTERS.includes(role)])
  })
})

test('a rule made with a bank line stands in the audit trail', async () => {
  const { keepRule } = await import('../../../server/services/banking/rules')
  const rule = { iban: '', words: 'CHARGES', account: '4800', moneyIn: false }
  await keepRule(books.database, 1, rule)
  await keepRule(books.database, 1, rule)
  const trail = await books.database.select<{ after: string }>(
    `SELECT after_value AS after FROM audit WHERE what = 'bank rule'`,
  )
  expect(trail.map(t => JSON.parse(t.after) as unknown)).toEqual([rule])
})
