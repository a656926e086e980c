import { intents, postIntent, previewPutRight, proofOf, putReceiptRight } from '../post'
import { textOfPdf } from '../pdf'

import { LedgerRefused } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import {
  addToBatch,
  batchRegister,
  changeBatch,
  dropBatch,
  editInBatch,
  listBatches,
  openBatch,
  readBatch,
  removeFromBatch,
} from '../../../server/services/receipts/batches'
import { closeBatch } from '../../../server/services/receipts/closeBatch'
import { readItems } from '../../../server/services/accounts/items'
import { ProblemError } from '../../../server/services/common/problems'
import { readReceipt } from '../../../server/services/receipts/receipts'
import { proposeRun } from '../../../server/services/reminders/runs'
import { leftOutOf } from '../reminders/world'
import type { Actor } from '../../../server/services/people/scope'
import { postTicked, previewTicked } from '../../../server/services/receipts/ticked'
import { readOpenItems, readRemittance } from '../../../server/services/receipts/tickSheet'
import { advanceClock } from '../../../server/services/setup/clock'
import { changeSettings } from '../../../server/services/setup/settings'
import { receiptBody, tickedBody, type TickedBody } from '../../../contract/receipts'
import { readAccountOpen } from '../open'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, TODAY, type Books } from '../database'

let books: Books
let other: Actor
beforeEach(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
  await books.database.run(
    `INSERT INTO person (email, name, role, password_hash) VALUES ('c@example.org', 'Cas Hier', 'cash', 'x')`,
  )
  other = { id: 2, name: 'Cas Hier', email: 'c@example.org', role: 'cash' }
})
afterEach(() => books.close())

const itemId = async (number: string) =>
  Number((await books.database.select('SELECT id FROM item WHERE number = :number', { number }))[0]!.id)
const refusal = async (work: Promise<unknown>): Promise<string> => {
  const error = await work.then(
    () => null,
    (e: unknown) => e,
  )
  if (error instanceof LedgerRefused) return error.refusals.map(r => r.rule).join(' ')
  if (error instanceof ProblemError) return `${error.title}: ${error.message}`
  throw error ?? new Error('nothing was refused')
}
const body = (over: object = {}) =>
  receiptBody.parse({
    customer: 'K1',
    currency: 'EUR',
    date: TODAY,
    means: [{ means: 'cheque', amount: 50_000, reference: '1' }],
    onAccount: 50_000,
    ...over,
  })
const open = (actor = books.actor, over: object = {}) =>
  openBatch(books.database, actor, {
    currency: 'EUR',
    date: TODAY,
    text: '',
    controlTotal: 80_000,
    controlCount: 2,
    ...over,
  })
const count = async (table: string) =>
  Number((await books.database.select(`SELECT COUNT(*) AS n FROM ${table}`))[0]!.n)

describe('batches', () => {
  test('the difference counts down; closing posts all at once and gives the register', async () => {
    const batch = await open()
    const entries = await count('entry')
    const one = await addToBatch(
      books.database,
      books.actor,
      batch.id,
      body({ allocations: [{ itemId: await itemId('26-1'), amount: 50_000 }], onAccount: 0 }),
    )
    expect(one).toMatchObject({
      total: 50_000,
      toGo: 30_000,
      countToGo: 1,
      number: null,
      receipts: [{ items: ['26-1'], receipt: null }],
    })
    expect(await refusal(closeBatch(books.database, books.actor, batch.id, one.version))).toBe(
      'batch.total batch.count',
    )
    const two = await addToBatch(
      books.database,
      books.actor,
      batch.id,
      body({ customer: 'K2', means: [{ means: 'cash', amount: 30_000, reference: '' }], onAccount: 30_000 }),
    )
    expect([two.toGo, two.countToGo, (await count('entry')) - entries]).toEqual([0, 0, 0])
    const closed = await closeBatch(books.database, books.actor, batch.id, two.version)
    expect(closed).toMatchObject({
      state: 'closed',
      number: 'B-00001',
      receipts: [{ receipt: { number: 'R-000001' } }, { receipt: { number: 'R-000002' } }],
    })
    expect(await readReceipt(books.database, closed.receipts[0]!.receipt!.id)).toMatchObject({
      batch: { number: 'B-00001' },
      state: 'tray',
      unallocated: 0,
    })
    expect(await verifyLedger(books.database)).toEqual([])
    const text = textOfPdf((await batchRegister(books.database, books.actor, batch.id)).pdf)
    for (const part of [
      'Register of batch B-00001',
      'R-000001',
      'Hollin & Sedge',
      '26-1',
      'EUR 800.00',
      'Control count',
      'Difference',
    ])
      expect(text).toContain(part)
  })
  test('each has one at a time, many have theirs; another’s is read, not keyed into', async () => {
    const mine = await open()
    expect(await refusal(open())).toMatch(/One at a time/)
    const theirs = await open(other)
    expect(await refusal(addToBatch(books.database, other, mine.id, body()))).toMatch(/Not yours/)
    expect(await addToBatch(books.database, books.actor, theirs.id, body())).toMatchObject({ count: 1 })
    expect(
      (await listBatches(books.database, other, { limit: 10 })).items.map(b => [b.mine, b.state]),
    ).toEqual([
      [true, 'open'],
      [false, 'open'],
    ])
  })
  test('until it is closed a receipt may be changed or taken out; what cannot be posted is refused at once', async () => {
    const { id } = await open()
    const item = await itemId('26-1')
    const one = await addToBatch(
      books.database,
      books.actor,
      id,
      body({
        means: [{ means: 'cheque', amount: 100_000, reference: '1' }],
        allocations: [{ itemId: item, amount: 100_000 }],
        onAccount: 0,
      }),
    )
    // The second cheque would pay more than the first leaves.
    expect(
      await refusal(
        addToBatch(
          books.database,
          books.actor,
          id,
          body({ allocations: [{ itemId: item, amount: 50_000 }], onAccount: 0 }),
        ),
      ),
    ).toBe('allocation.open')
    const changed = await editInBatch(books.database, books.actor, id, one.receipts[0]!.id, {
      ...body({ allocations: [{ itemId: item, amount: 50_000 }], onAccount: 0 }),
      version: one.receipts[0]!.version,
    })
    expect(changed.receipts[0]).toMatchObject({ amount: 50_000, version: 2 })
    expect(
      await refusal(
        editInBatch(books.database, books.actor, id, one.receipts[0]!.id, { ...body(), version: 1 }),
      ),
    ).toMatch(/Changed meanwhile/)
    expect(await refusal(dropBatch(books.database, books.actor, id))).toMatch(/Has allocations/)
    expect((await removeFromBatch(books.database, books.actor, id, one.receipts[0]!.id)).count).toBe(0)
    expect(
      await refusal(
        closeBatch(
          books.database,
          books.actor,
          id,
          (await readBatch(books.database, books.actor, id)).version,
        ),
      ),
    ).toBe('batch.empty')
    await dropBatch(books.database, books.actor, id)
    expect([await count('batch'), await count('batch_receipt')]).toEqual([0, 0])
  })
  test('the day and the period stay open while a batch is', async () => {
    const { id, version } = await open(books.actor, { date: '2026-11-10' })
    expect(await refusal(advanceClock(books.database, books.actor))).toMatch(
      /A batch is open: the batch of Sam Over dated 2026-11-10/,
    )
    expect(await refusal(changeSettings(books.database, books.actor, { closedUntil: '2026-11-12' }))).toMatch(
      /A batch is open/,
    )
    expect(
      await changeBatch(books.database, books.actor, id, {
        currency: 'EUR',
        date: TODAY,
        text: 'cheques',
        controlTotal: null,
        controlCount: null,
        version,
      }),
    ).toMatchObject({ date: TODAY, toGo: null })
    await dropBatch(books.database, books.actor, id)
    expect(await advanceClock(books.database, books.actor)).toMatchObject({ today: '2026-11-17' })
    expect(await refusal(open(books.actor, { date: '2026-11-18' }))).toMatch(/after today/)
  })
  test('closed twice at once it is posted once', async () => {
    const { id } = await open(books.actor, { controlTotal: null, controlCount: null })
    const { version } = await addToBatch(books.database, books.actor, id, body())
    const results = await Promise.allSettled(
      Array.from({ length: 5 }, () => closeBatch(books.database, books.actor, id, version)),
    )
    expect(results.filter(r => r.status === 'fulfilled')).toHaveLength(1)
    expect(
      Number((await books.database.select(`SELECT COUNT(*) AS n FROM item WHERE kind = 'receipt'`))[0]!.n),
    ).toBe(1)
  })
  test('one receipt that cannot be posted any more: nothing of the batch is', async () => {
    const { id } = await open(books.actor, { controlTotal: null, controlCount: null })
    const item = await itemId('26-1')
    await addToBatch(books.database, books.actor, id, body({ customer: 'K2' }))
    const { version } = await addToBatch(
      books.database,
      books.actor,
      id,
      body({
        means: [{ means: 'cheque', amount: 121_040, reference: '' }],
        allocations: [{ itemId: item, amount: 121_040 }],
        onAccount: 0,
      }),
    )
    await postIntent(
      books.database,
      books.actor,
      await intents.receipt(books.database, {
        customer: 'K1',
        date: TODAY,
        means: [{ means: 'cash', amount: 100 }],
        allocations: [{ itemId: item, amount: 100 }],
      }),
    )
    const before = await count('item')
    expect(await refusal(closeBatch(books.database, books.actor, id, version))).toBe('allocation.open')
    expect([await count('item'), (await readBatch(books.database, books.actor, id)).state]).toEqual([
      before,
      'open',
    ])
  })
})

describe('tick sheet', () => {
  const ticked = async (over: Partial<TickedBody> = {}) =>
    tickedBody.parse({
      date: TODAY,
      currency: 'EUR',
      means: 'transfer',
      reference: 'ADV-9',
      mode: 'customer',
      parts: [
        {
          customer: 'K1',
          allocations: [
            { itemId: await itemId('26-1'), amount: 110_000 },
            { itemId: await itemId('26-2'), amount: 912_000 },
          ],
          credits: [{ creditItemId: await itemId('C-1'), debitItemId: await itemId('26-1'), amount: 11_040 }],
        },
      ],
      ...over,
    })
  test('open items of all customers, page by page, in one currency', async () => {
    const all = await readOpenItems(books.database, { currency: 'EUR', limit: 5000 })
    expect(all.items.map(i => [i.number, i.open, i.group])).toEqual([
      ['26-1', 121_040, 'K1'],
      ['26-2', 912_000, 'K1'],
      ['C-1', -11_040, 'K1'],
    ])
    const first = await readOpenItems(books.database, { currency: 'EUR', limit: 2 })
    expect(
      [
        ...first.items,
        ...(await readOpenItems(books.database, { currency: 'EUR', limit: 2, cursor: first.next! })).items,
      ].map(i => i.id),
    ).toEqual(all.items.map(i => i.id))
    expect(
      (await readOpenItems(books.database, { currency: 'GBP', limit: 10 })).items.map(i => i.group),
    ).toEqual(['K1'])
  })
  test('one lump per customer, or one receipt per item: the Proof is the same money', async () => {
    const lump = await previewTicked(books.database, books.actor, await ticked())
    const each = await previewTicked(books.database, books.actor, await ticked({ mode: 'item' }))
    expect(lump.lines.map(l => [l.account, l.amount])).toEqual([
      ['1220', 1_022_000],
      ['1100', -1_022_000],
    ])
    expect(each.lines.filter(l => l.account === '1220').reduce((a, l) => a + l.amount, 0)).toBe(1_022_000)
    expect(
      (await postTicked(books.database, books.actor, await ticked({ mode: 'item' }))).receipts,
    ).toHaveLength(2)
    expect(await readAccountOpen(books.database)).toHaveLength(2)
    expect(await verifyLedger(books.database)).toEqual([])
  })
  test('a total that does not agree, or more than is open, is refused and nothing is posted', async () => {
    expect(await refusal(postTicked(books.database, books.actor, await ticked({ total: 1_022_001 })))).toBe(
      'payment.assigned',
    )
    expect(
      await refusal(
        postTicked(
          books.database,
          books.actor,
          await ticked({
            parts: [{ customer: 'K1', allocations: [{ itemId: await itemId('26-1'), amount: 121_041 }] }],
          }),
        ),
      ),
    ).toBe('allocation.open')
    expect(await count('receipt_means')).toBe(0)
  })
  test('a remittance advice finds its items and says what is not as it says', async () => {
    const advice = await readRemittance(
      books.database,
      Buffer.from('number,amount\n26 1,1210.40\n26-2,9999.00\n26-77,5.00\nC-1,-110.40\n26-4,1.00\n'),
      'EUR',
    )
    expect(advice.lines.map(l => [l.number, l.itemId !== null, l.problem])).toEqual([
      ['26 1', true, ''],
      ['26-2', true, 'more is paid than is open'],
      ['26-77', false, 'we have no document of this number'],
      ['C-1', true, ''],
      ['26-4', false, 'it is in GBP'],
    ])
    expect(advice.total).toBe(121_040 + 999_900 + 500 - 11_040 + 100)
    expect(await refusal(readRemittance(books.database, Buffer.from('nothing'), 'EUR'))).toMatch(
      /Not an advice/,
    )
  })
})

describe('putting a receipt right', () => {
  const cheque = async () =>
    (
      await postIntent(
        books.database,
        books.actor,
        await intents.receipt(books.database, {
          customer: 'K1',
          date: '2026-11-12',
          means: [{ means: 'cheque', amount: 121_040, reference: '004417' }],
          allocations: [{ itemId: await itemId('26-1'), amount: 121_040 }],
        }),
      )
    ).receipt!.id
  const right = (id: number, over: object, actor = books.actor) =>
    putReceiptRight(books.database, actor, id, { reason: 'keyed in error', ...over })
  test('reference and amount: the links stay, the money stays in the tray', async () => {
    const id = await cheque()
    const done = await right(id, { means: [{ reference: '004471', amount: 121_000 }] })
    const fresh = await readReceipt(books.database, done.receipt!.id)
    expect(fresh).toMatchObject({
      reference: '004471',
      amount: 121_000,
      state: 'tray',
      unallocated: 0,
      was: { id },
    })
    expect(fresh.links.map(l => [l.number, l.amount])).toEqual([['26-1', 121_000]])
    expect(await readAccountOpen(books.database)).toContainEqual(
      expect.objectContaining({ number: '26-1', open: 40 }),
    )
    expect(await verifyLedger(books.database)).toEqual([])
  })
  test('date: earlier or later, the books agree on every day', async () => {
    const done = await right(await cheque(), { date: '2026-11-09' })
    const again = await right(done.receipt!.id, { date: '2026-11-15' })
    expect(await readReceipt(books.database, again.receipt!.id)).toMatchObject({
      date: '2026-11-15',
      unallocated: 0,
    })
    for (const day of ['2026-11-08', '2026-11-10', '2026-11-13', '2026-11-16']) {
      const [row] = await books.database.select(
        `SELECT (SELECT COALESCE(SUM(l.base_amount), 0) FROM journal_line l JOIN entry e ON e.id = l.entry_id
        WHERE l.account = '1100' AND e.date <= :day) AS control,
        (SELECT COALESCE(SUM(IF(i.side = 'debit', 1, -1) * i.base_amount), 0) FROM item i
          WHERE i.posting_date <= :day) - (SELECT COALESCE(SUM(a.debit_base - a.credit_base), 0)
          FROM allocation a WHERE a.effective <= :day) AS ledger`,
        { day },
      )
      expect(Number(row!.ledger)).toBe(Number(row!.control))
    }
    expect(await verifyLedger(books.database)).toEqual([])
  })
  test('its Proof shows what moves; what the bank has stays; nothing to change, closed or twice is refused', async () => {
    const id = await cheque()
    const proof = await previewPutRight(books.database, books.actor, id, { reason: 'x', customer: 'K3' })
    // Both lines are receivables, the one of the old customer and of the new: money does not move.
    expect(proof.lines.map(l => [l.account, l.amount])).toEqual([
      ['1100', 121_040],
      ['1100', -121_040],
    ])
    expect(proof.ok).toBe(true)
    expect(proof.links).toMatchObject([{ to: '26-1', amount: 121_040 }])
    expect(await refusal(right(id, {}))).toBe('correct.something')
    await right(id, { customer: 'K3' })
    expect(await refusal(right(id, { customer: 'K2' }))).toContain('reverse.once')
    expect(await refusal(right(9999, { customer: 'K1' }))).toMatch(/receipt 9999/)
  })
})

describe('receipts in every form', () => {
  const post = async (over: object) =>
    (await postIntent(books.database, books.actor, await intents.receipt(books.database, body(over))))
      .receipt!.id
  test('a deduction opens a dispute that reminders leave out, and goes with its link', async () => {
    const item = await itemId('26-1')
    const id = await post({
      means: [{ means: 'cheque', amount: 100_000, reference: '' }],
      allocations: [
        { itemId: item, amount: 100_000, deduction: { reason: 'quality', note: 'two bags wet' } },
      ],
      onAccount: 0,
    })
    const account = async () =>
      (
        await readItems(books.database, 'K1', { state: 'open', sort: 'due', limit: 50 } as never, {})
      ).items.find(i => i.id === item)!
    expect((await account()).dispute).toMatchObject({
      reason: 'quality',
      note: 'two bags wet',
      amount: 21_040,
    })
    const run = await proposeRun(books.database, books.actor, {
      asOf: TODAY,
      policy: 'standard',
      customer: 'K1',
    })
    expect((await leftOutOf(books.database, run.id)).find(l => l.item === '26-1')).toMatchObject({
      rule: 'disputed',
      reason: 'disputed: quality',
    })
    expect((await readReceipt(books.database, id)).deductions).toMatchObject([
      { item: '26-1', amount: 21_040, live: true },
    ])
    await postIntent(
      books.database,
      books.actor,
      await intents.reverse(books.database, id, { date: TODAY, reason: 'wrong' }),
    )
    expect((await account()).dispute).toBeNull()
    expect(
      await refusal(
        post({
          means: [{ means: 'cash', amount: 121_040, reference: '' }],
          allocations: [{ itemId: item, amount: 121_040, deduction: { reason: 'price' } }],
          onAccount: 0,
        }),
      ),
    ).toBe('deduction.amount')
  })
  test('the rest on account, to refund, or on the item where the class allows it', async () => {
    const item = await itemId('26-1')
    expect(await readReceipt(books.database, await post({ rest: { use: 'refund' } }))).toMatchObject({
      restUse: 'refund',
      unallocated: 50_000,
    })
    expect(await refusal(post({ rest: { use: 'item', itemId: item } }))).toBe('receipt.rest')
    await books.database.run(`INSERT INTO customer_class (code, name, terms, policy, keep_on_item)
        VALUES ('food', 'Food', 'net 30', 'standard', 1) ON DUPLICATE KEY UPDATE keep_on_item = 1`)
    expect(
      await readReceipt(books.database, await post({ rest: { use: 'item', itemId: item } })),
    ).toMatchObject({ restUse: 'item' })
    expect(await refusal(post({ rest: { use: 'item', itemId: 99_999 } }))).toBe('receipt.rest')
  })
  test('an advance and a payment in another currency, posted and undone', async () => {
    const advance = await post({ advance: true })
    expect(await readReceipt(books.database, advance)).toMatchObject({
      kind: 'advance',
      number: 'AD-00001',
      unallocated: 50_000,
    })
    const open = await readAccountOpen(books.database)
    const sterling = await itemId('26-4')
    const id = await post({
      customer: 'K3',
      means: [{ means: 'transfer', amount: 255_000, reference: '' }],
      allocations: [{ itemId: sterling, amount: 221_010, paid: 255_000 }],
      onAccount: 0,
    })
    expect((await readReceipt(books.database, id)).links.map(l => l.number)).toContain('26-4')
    expect(await verifyLedger(books.database)).toEqual([])
    await postIntent(
      books.database,
      books.actor,
      await intents.reverse(books.database, id, { date: TODAY, reason: 'all back' }),
    )
    expect(await readAccountOpen(books.database)).toEqual(open)
    expect(await verifyLedger(books.database)).toEqual([])
  })
  test('a transfer dated before the last statement is warned of, not refused', async () => {
    await books.database.run(`INSERT INTO bank_account (name, iban, currency, account, person_id)
        VALUES ('Current', 'X', 'EUR', '1200', 1)`)
    await books.database
      .run(`INSERT INTO bank_statement (bank_account_id, number, format, from_date, to_date, opening, closing,
        file_name, file_hash, fresh, known, person_id)
        VALUES (1, '1', 'camt.053', '2026-11-13', '2026-11-13', 0, 0, '', '', 0, 0, 1)`)
    const proof = await proofOf(
      books.database,
      await intents.receipt(
        books.database,
        body({ date: '2026-11-12', means: [{ means: 'transfer', amount: 50_000, reference: '' }] }),
      ),
    )
    expect(proof).toMatchObject({
      ok: true,
      warnings: [expect.stringMatching(/statement of Current up to 2026-11-13 is in/)],
    })
  })
})
