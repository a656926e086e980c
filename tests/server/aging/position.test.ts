import { accountsQuery, itemsQuery } from '../../../contract/accounts'
import { agingQuery } from '../../../contract/aging'
import { books as booksContract } from '../../../contract/books'
import { receipts as receiptsContract } from '../../../contract/receipts'
import { daysLate } from '../../../core/calendar'
import { openAsOf, type Allocation, type StateItem } from '../../../core/ledger'
import { int } from '../../../server/db/connection'
import { listAccounts } from '../../../server/services/accounts/list'
import { writeNote } from '../../../server/services/accounts/notes'
import { readCard, termsInWords } from '../../../server/services/accounts/card'
import { readItems } from '../../../server/services/accounts/items'
import { readAging } from '../../../server/services/aging/aging'
import { readEntries, readTieOut, readTrialBalance } from '../../../server/services/books/books'
import { nextActions } from '../../../server/services/accounts/nextActions'
import { listReceipts } from '../../../server/services/receipts/receipts'
import { findCustomer, findCustomers } from '../../../server/services/accounts/customers'
import { freshBooks, TODAY, type Books } from '../database'
import { ledgerOfChance } from './chance'

/** Every figure that is shown of a ledger of chance is recomputed from the bare rows. */
let books: Books
let items: StateItem[]
let allocations: Allocation[]
beforeAll(async () => {
  books = await freshBooks()
  await ledgerOfChance(books)
  items = await books.database
    .select<StateItem>(`SELECT i.id, i.number, i.customer_id AS customerId, i.kind, i.side, i.currency,
      i.amount,
      i.base_amount AS baseAmount, i.due_date AS dueDate, i.posting_date AS postingDate FROM item i`)
  allocations = await books.database
    .select<Allocation>(`SELECT id, debit_item_id AS debitItemId, credit_item_id AS creditItemId, amount,
      debit_base AS debitBase,
      credit_base AS creditBase, effective, undoes_id AS undoesId FROM allocation`)
})
afterAll(() => books.close())

const DAYS = ['2026-07-19', '2026-08-31', '2026-09-30', '2026-10-15', '2026-11-01', TODAY]
const idOf = async (number: string) => (await findCustomer(books.database, number, {})).id
const signed = (i: StateItem, asOf: string) =>
  (i.side === 'debit' ? 1 : -1) * openAsOf(i, allocations, asOf) || 0
/** In base currency: the base amount less what the allocations took of it. */
const signedBase = (i: StateItem, asOf: string) =>
  i.postingDate > asOf
    ? 0
    : (i.side === 'debit' ? 1 : -1) *
        (i.baseAmount -
          allocations
            .filter(a => a.effective <= asOf)
            .reduce(
              (sum, a) =>
                sum + (a.debitItemId === i.id ? a.debitBase : a.creditItemId === i.id ? a.creditBase : 0),
              0,
            )) || 0

test('the ledger of chance has what it needs: parts paid, links undone, reversals', () => {
  const kinds = new Set(items.map(i => i.kind))
  expect([...kinds]).toEqual(expect.arrayContaining(['invoice', 'credit-note', 'receipt', 'reversal']))
  expect(allocations.some(a => a.undoesId !== null)).toBe(true)
  expect(
    items.some(i => openAsOf(i, allocations, TODAY) > 0 && openAsOf(i, allocations, TODAY) < i.amount),
  ).toBe(true)
})

test.each(DAYS)('the account as of %s: every item open as its allocations say', async asOf => {
  for (const number of ['K1', 'K3']) {
    const id = await idOf(number)
    const own = items.filter(i => i.customerId === id && i.postingDate <= asOf)
    const all = await readItems(
      books.database,
      number,
      itemsQuery.parse({ state: 'all', asOf, limit: 500 }),
      {},
    )
    expect(new Map(all.items.map(i => [i.id, i.open]))).toEqual(
      new Map(own.map(i => [i.id, signed(i, asOf)])),
    )
    expect(new Map(all.items.map(i => [i.id, i.baseOpen]))).toEqual(
      new Map(own.map(i => [i.id, signedBase(i, asOf)])),
    )
    const open = await readItems(
      books.database,
      number,
      itemsQuery.parse({ state: 'open', asOf, limit: 500 }),
      {},
    )
    expect(open.count).toBe(own.filter(i => signed(i, asOf) !== 0).length)
    for (const t of open.totals)
      expect(t.open).toBe(own.filter(i => i.currency === t.currency).reduce((a, i) => a + signed(i, asOf), 0))
    const cleared = await readItems(
      books.database,
      number,
      itemsQuery.parse({ state: 'cleared', asOf, limit: 500 }),
      {},
    )
    expect(cleared.count + open.count).toBe(all.count)
  }
})

test.each(DAYS)('the Card as of %s: open, overdue, oldest and exposure', async asOf => {
  for (const number of ['K1', 'K3']) {
    const id = await idOf(number)
    const card = await readCard(books.database, number, { asOf }, books.actor, {})
    const own = items.filter(i => i.customerId === id && signed(i, asOf) !== 0)
    const debits = own.filter(i => signed(i, asOf) > 0)
    expect(card.open).toBe(own.reduce((a, i) => a + signedBase(i, asOf), 0))
    expect(card.onAccount).toBe(
      own.filter(i => signed(i, asOf) < 0).reduce((a, i) => a + signedBase(i, asOf), 0),
    )
    expect(card.overdue).toBe(
      debits.filter(i => daysLate(i.dueDate, asOf) > 0).reduce((a, i) => a + signedBase(i, asOf), 0),
    )
    expect(card.oldestDaysLate).toBe(Math.max(0, ...debits.map(i => daysLate(i.dueDate, asOf))))
    expect(card.headroom).toBe(card.limit === null ? null : card.limit - card.exposure)
    expect(card.amounts.reduce((a, b) => a + b, 0) + card.onAccount).toBe(card.open)
    for (const b of card.byCurrency)
      expect(b.open).toBe(own.filter(i => i.currency === b.currency).reduce((a, i) => a + signed(i, asOf), 0))
  }
})

test.each(DAYS)('aging, trial balance and journal agree on %s', async asOf => {
  const lines = await books.database.select<{ account: string; base: number }>(
    `SELECT l.account, SUM(l.base_amount) AS base FROM journal_line l JOIN entry e ON e.id = l.entry_id
      WHERE e.date <= :asOf GROUP BY l.account`,
    { asOf },
  )
  const trial = await readTrialBalance(books.database, { asOf })
  for (const a of trial.items)
    expect([a.number, a.debit - a.credit]).toEqual([
      a.number,
      int(lines.find(l => l.account === a.number)?.base),
    ])
  expect(trial.totals.debit).toBe(trial.totals.credit)
  const aging = await readAging(books.database, agingQuery.parse({ asOf, limit: 50 }), {})
  const total = items.reduce((a, i) => a + signedBase(i, asOf), 0)
  expect(aging.totals.total).toBe(total)
  const tie = await readTieOut(books.database, { asOf })
  expect(tie).toMatchObject({ ties: true, ledgerBase: total, controlBase: total })
  for (const r of tie.rows)
    expect(r.ledger).toBe(
      items.filter(i => i.currency === r.currency).reduce((a, i) => a + signed(i, asOf), 0),
    )
})

test('pages of an account join into the whole, in every order', async () => {
  for (const sort of ['due', '-due', 'number', '-open', 'amount', 'date'] as const) {
    const whole = await readItems(
      books.database,
      'K1',
      itemsQuery.parse({ state: 'all', sort, limit: 500 }),
      {},
    )
    const joined: number[] = []
    for (let cursor: string | undefined, more = true; more;) {
      const page = await readItems(
        books.database,
        'K1',
        itemsQuery.parse({ state: 'all', sort, limit: 7, cursor }),
        {},
      )
      joined.push(...page.items.map(i => i.id))
      more = page.next !== null
      cursor = page.next ?? undefined
    }
    expect(joined).toEqual(whole.items.map(i => i.id))
  }
})

test('the list of receipts: pages join, what is unallocated, reversed, searched for', async () => {
  const ask = (q: object) =>
    listReceipts(books.database, receiptsContract.list.query!.parse({ limit: 6, ...q }))
  const own = items.filter(i => i.kind === 'receipt')
  const whole = await ask({ limit: 200 })
  expect(whole.items.map(i => i.id).sort((a, b) => a - b)).toEqual(own.map(i => i.id).sort((a, b) => a - b))
  expect(whole.items.map(i => i.date)).toEqual(
    whole.items
      .map(i => i.date)
      .sort()
      .reverse(),
  )
  const joined: number[] = []
  for (let cursor: string | undefined, more = true; more;) {
    const page = await ask({ cursor })
    expect([page.count, page.totals]).toEqual([whole.count, whole.totals])
    joined.push(...page.items.map(i => i.id))
    more = page.next !== null
    cursor = page.next ?? undefined
  }
  expect(joined).toEqual(whole.items.map(i => i.id))
  for (const t of whole.totals) {
    const same = own.filter(i => i.currency === t.currency)
    expect(t).toEqual({
      currency: t.currency,
      amount: same.reduce((a, i) => a + i.amount, 0),
      unallocated: same.reduce((a, i) => a + openAsOf(i, allocations, TODAY), 0),
    })
  }
  const left = own.filter(i => openAsOf(i, allocations, TODAY) > 0)
  const unallocated = await ask({ state: 'unallocated', limit: 200 })
  expect(new Map(unallocated.items.map(i => [i.id, i.unallocated]))).toEqual(
    new Map(left.map(i => [i.id, openAsOf(i, allocations, TODAY)])),
  )
  expect(left.length).toBeGreaterThan(0)
  const reversed = await ask({ state: 'reversed', limit: 200 })
  expect(reversed.items.length).toBe(items.filter(i => i.kind === 'reversal').length)
  expect(reversed.items.every(i => i.state === 'reversed')).toBe(true)
  const paid = allocations.find(a => a.undoesId === null && own.some(i => i.id === a.creditItemId))!
  const invoice = items.find(i => i.id === paid.debitItemId)!
  expect((await ask({ search: invoice.number, limit: 200 })).items.map(i => i.id)).toContain(
    paid.creditItemId,
  )
  const k3 = await idOf('K3')
  expect((await ask({ customer: 'K3', limit: 200 })).items.map(i => i.id).sort()).toEqual(
    own
      .filter(i => i.customerId === k3)
      .map(i => i.id)
      .sort(),
  )
  expect(await ask({ search: 'nobody at all' })).toMatchObject({ items: [], count: 0, totals: [] })
})

test('the journal: filters, pages, and totals that balance', async () => {
  const ask = (q: object) =>
    readEntries(books.database, booksContract.entries.query!.parse({ limit: 9, ...q }))
  const first = await ask({})
  expect(first.totals.debit).toBe(first.totals.credit)
  expect(first.totals.entries).toBe(
    int((await books.database.select('SELECT COUNT(*) AS n FROM entry'))[0]!.n),
  )
  const seen: number[] = []
  for (let cursor: string | undefined, more = true; more;) {
    const page = await ask({ cursor })
    for (const e of page.items) expect(e.lines.reduce((a, l) => a + l.baseAmount, 0)).toBe(0)
    seen.push(...page.items.map(e => e.number))
    more = page.next !== null
    cursor = page.next ?? undefined
  }
  expect(new Set(seen).size).toBe(first.totals.entries)
  const reversals = await ask({ kind: 'reversal', limit: 100 })
  expect(reversals.items.length).toBeGreaterThan(0)
  expect(reversals.items.every(e => e.kind === 'reversal')).toBe(true)
  const own = await ask({ customer: 'K3', from: '2026-09-01', to: '2026-09-30', limit: 100 })
  expect(
    own.items.every(
      e => e.date >= '2026-09-01' && e.date <= '2026-09-30' && e.lines.some(l => l.customer === 'K3'),
    ),
  ).toBe(true)
  expect(
    (await ask({ search: 'P-7', limit: 100 })).items.flatMap(e => e.lines).some(l => l.item === 'P-7'),
  ).toBe(true)
  const [one] = first.items
  expect((await ask({ number: one!.number })).items.map(e => e.number)).toEqual([one!.number])
  expect(
    (await ask({ account: '1100', limit: 100 })).items.every(e => e.lines.some(l => l.account === '1100')),
  ).toBe(true)
  await expect(ask({ cursor: 'nonsense' })).rejects.toMatchObject({ title: 'Not a cursor' })
})

test('links tell what cleared an item, with those that were undone; none from after the day asked for', async () => {
  const asOf = '2026-10-15'
  const now = await readItems(books.database, 'K1', itemsQuery.parse({ state: 'all', limit: 500 }), {})
  const then = await readItems(books.database, 'K1', itemsQuery.parse({ state: 'all', asOf, limit: 500 }), {})
  expect(then.items.flatMap(i => i.links).every(l => l.effective <= asOf)).toBe(true)
  for (const i of now.items) {
    const taken = i.links.reduce((a, l) => a + l.amount, 0)
    expect([i.number, Math.abs(i.open)]).toEqual([i.number, Math.abs(i.amount) - taken])
  }
  const undone = now.items.flatMap(i => i.links).filter(l => l.undone)
  expect(undone.length).toBe(now.items.flatMap(i => i.links).filter(l => l.undoes).length)
})

test('customers are found by name, number and page; a sales contact finds own ones only', async () => {
  const ask = (q: object, scope = {}) =>
    listAccounts(books.database, accountsQuery.parse({ limit: 2, ...q }), scope)
  const first = await ask({})
  expect(first.items.map(r => r.number)).toEqual(['K3', 'K2'])
  expect((await ask({ cursor: first.next! })).items.map(r => r.number)).toEqual(['K1'])
  expect((await ask({ search: 'fjord' })).items.map(r => r.number)).toEqual(['K2'])
  expect((await ask({ search: '%' })).items).toEqual([])
  expect((await ask({}, { salesId: 77 })).items).toEqual([])
  await expect(readCard(books.database, 'K1', {}, books.actor, { salesId: 77 })).rejects.toMatchObject({
    message: expect.stringMatching(/K1/),
  })
  expect([...(await findCustomers(books.database, ['K2', 'K1', 'nobody'])).keys()].sort()).toEqual([
    'K1',
    'K2',
  ])
  expect(await findCustomers(books.database, [])).toEqual(new Map())
})

test('the likeliest next actions follow the account and the role', async () => {
  const card = await readCard(books.database, 'K1', {}, books.actor, {})
  const base = { ...card, onAccount: 0, overdue: 0, open: 0, pauses: [] }
  const labels = (over: object, role: Parameters<typeof nextActions>[1] = 'controller') =>
    nextActions({ ...base, ...over }, role).map(a => a.label)
  expect(labels({})).toEqual(['Open the account'])
  expect(labels({ open: 500 })).toEqual(['Enter a receipt', 'Open the account'])
  expect(labels({ open: 500, overdue: 500 })).toEqual([
    'Prepare a reminder',
    'Enter a receipt',
    'Open the account',
  ])
  expect(labels({ open: 400, onAccount: -100, overdue: 500 })).toEqual([
    'Allocate the credit',
    'Prepare a reminder',
    'Enter a receipt',
  ])
  // What was written off comes back before anything is refunded.
  expect(labels({ open: -100, onAccount: -100 })).toEqual(['Refund the credit', 'Open the account'])
  expect(labels({ open: -100, onAccount: -100, writtenOff: 2 })).toEqual([
    'Take it as recovered',
    'Open the account',
  ])
  expect(labels({ open: 400, onAccount: -100, overdue: 500 }, 'auditor')).toEqual(['Open the account'])
  expect(
    labels({ open: 500, overdue: 500, pauses: [{ id: 1, item: null, reason: 'promise', until: TODAY }] }),
  ).toEqual(['Enter a receipt', 'Open the account'])
  const handedOver = { to: 'Harbour Recovery', on: TODAY }
  expect(labels({ open: 500, overdue: 500, handedOver })).toEqual([
    'Look at the handover',
    'Enter a receipt',
    'Open the account',
  ])
})

test('notes are kept with who and when, newest first', async () => {
  const customer = await findCustomer(books.database, 'K2', {})
  await writeNote(books.database, customer, 'rang, no answer', books.actor)
  await writeNote(books.database, customer, 'will pay on Friday', books.actor)
  expect(
    (await readCard(books.database, 'K2', {}, books.actor, {})).notes.map(n => [n.date, n.by, n.text]),
  ).toEqual([
    [TODAY, 'Sam Over', 'will pay on Friday'],
    [TODAY, 'Sam Over', 'rang, no answer'],
  ])
})

test.each([
  ['net 30', '30 days net'],
  ['2% 10, net 30', '2 % within 10 days, 30 days net'],
  ['eom 30', '30 days after month end net'],
])('terms %s in words: %s', (terms, words) => {
  expect(termsInWords(terms)).toBe(words)
})
