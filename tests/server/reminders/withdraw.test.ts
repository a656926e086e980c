import { int } from '../../../server/db/connection'
import { writeSetting } from '../../../server/db/settings'
import { perform } from '../../../server/ledger/command'
import { performOrKeep } from '../../../server/ledger/waiting'
import { verifyLedger } from '../../../server/ledger/verify'
import { signRequest } from '../../../server/services/signOff/signOff'
import { sendNext } from '../../../server/services/outbox/outbox'
import { confirmRun } from '../../../server/services/reminders/confirm'
import { editRun } from '../../../server/services/reminders/edit'
import { goodwillCommand } from '../../../server/services/reminders/goodwill'
import { changePolicy, policyOn } from '../../../server/services/reminders/policies'
import { referenceRates, setReferenceRate } from '../../../server/services/reminders/rates'
import { discardRun, proposeRun, readRun } from '../../../server/services/reminders/runs'
import { withdrawCommand, withdrawRun } from '../../../server/services/reminders/withdraw'
import { chance } from '../../../simulators/chance'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'
import { intents, postIntent } from '../post'
import { leftOutOf, noticesOf, openItems, rule } from './world'

let books: Books
beforeEach(async () => {
  books = await freshBooks()
  await customers(
    books,
    `number,name,country,currency,class,language,email
W1,Wharf,IE,EUR,food,en,w1@wharf.example
W2,Weir,DE,EUR,food,de,w2@weir.example
W3,Wold,GB,GBP,food,en,
`,
  )
  await documents(
    books,
    `number,customer,date,due_date,currency,amount
W-1,W1,2026-08-01,2026-08-31,EUR,1000.00
W-2,W1,2026-09-20,2026-10-20,EUR,500.00
W-3,W2,2026-08-10,2026-09-09,EUR,2000.00
W-4,W3,2026-08-10,2026-09-09,GBP,3000.00
`,
  )
  await setReferenceRate(books.database, 1, {
    code: 'ECB',
    from: '2026-07-01',
    percent: '2',
    source: 'made up',
  })
  // The first level costs something, so that taking it back has something to take back.
  const { code, validFrom: _, ...policy } = await policyOn(books.database, 'standard', TODAY)
  const [first, ...others] = policy.levels
  await changePolicy(books.database, 1, code, {
    ...policy,
    levels: [{ ...first!, fee: { EUR: 1000, GBP: 900 }, interest: true }, ...others],
    interest: {
      convention: 'actual/365',
      percent: '8',
      reference: 'ECB',
      basis: { otherwise: 'floating', byCountry: { GB: 'locked' } },
      minimum: {},
    },
  })
})
afterEach(() => books.close())

const propose = (over: object = {}) => proposeRun(books.database, books.actor, { asOf: TODAY, ...over })
const confirm = async (id: number) =>
  confirmRun(books.database, books.actor, id, { version: (await readRun(books.database, id)).version })
const withdraw = (id: number, keys: string[] | null = null, over: object = {}) =>
  withdrawRun(books.database, books.actor, id, { keys, reason: 'sent by mistake', tell: true, ...over })
const itemsOf = (number: string) => openItems(books.database, number)

/** All that a run may change and a withdrawal must bring back: what is open, levels, ages, accounts. */
async function position() {
  const [open, accounts, levels] = await Promise.all([
    books.database.select(
      'SELECT item_id AS id, open, base_open AS base, due_date AS due FROM open_item ORDER BY item_id',
    ),
    books.database.select<{ account: string; amount: unknown }>(
      `SELECT account, currency, SUM(amount) AS amount FROM journal_line GROUP BY account, currency
        HAVING SUM(amount) <> 0 ORDER BY account, currency`,
    ),
    books.database.select(
      `SELECT ni.item_id AS id, MAX(ni.level) AS level FROM live_notice n JOIN notice_item ni ON ni.notice_id = n.id
        GROUP BY ni.item_id ORDER BY ni.item_id`,
    ),
  ])
  return { open, accounts: accounts.map(a => ({ ...a, amount: int(a.amount) })), levels }
}

test('a run withdrawn leaves balances, levels, ages and accounts as they were; the customer is told', async () => {
  const before = await position()
  const { id } = await propose()
  await confirm(id)
  expect((await itemsOf('W1')).map(i => [i.number, i.level])).toEqual([
    ['W-1', 1],
    ['W-2', 1],
    ['F-00001', 0],
    ['I-00001', 0],
  ])
  while (await sendNext(books.database, { send: () => Promise.resolve('250 ok') })) continue
  const run = await withdraw(id)
  expect(run).toMatchObject({ state: 'withdrawn', totals: { withdrawn: 3 } })
  expect(await position()).toEqual(before)
  expect(await verifyLedger(books.database)).toEqual([])
  const told = await books.database.select<{ kind: string; letter: string; state: string }>(
    `SELECT l.kind, l.letter, o.state FROM sent_letter l JOIN outbox o ON o.letter_id = l.id ORDER BY l.id`,
  )
  expect(told.map(t => [t.kind, t.state])).toEqual([
    ['withdrawn', 'queued'],
    ['withdrawn', 'queued'],
    ['withdrawn', 'print'],
  ])
  expect(told[1]!.letter).toContain('Unsere Mahnung ist zurückgenommen')
  // The next run begins where this one did.
  const next = await propose()
  expect((await noticesOf(books.database, next.id)).map(n => [n.key, n.level])).toEqual([
    ['W1 EUR', 1],
    ['W2 EUR', 1],
    ['W3 GBP', 1],
  ])
})

test('interest of several periods in one document is no later interest', async () => {
  const part = (await itemsOf('W2'))[0]!
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'W2',
      date: '2026-10-01',
      means: [{ means: 'transfer', amount: 50_000 }],
      allocations: [{ itemId: part.id, amount: 50_000 }],
    }),
  )
  const { id } = await propose({ customer: 'W2' })
  expect((await noticesOf(books.database, id))[0]!.interestLines).toHaveLength(2)
  await confirm(id)
  expect((await withdraw(id)).state).toBe('withdrawn')
})

test('for one customer only; twice is once; letters that wait are stopped, and then nobody is told', async () => {
  const { id } = await propose()
  await confirm(id)
  await withdraw(id, ['W1 EUR'])
  await withdraw(id, ['W1 EUR'])
  expect((await readRun(books.database, id)).state).toBe('confirmed')
  expect((await itemsOf('W1')).map(i => [i.number, i.level])).toEqual([
    ['W-1', 0],
    ['W-2', 0],
  ])
  expect((await itemsOf('W2')).map(i => i.level)).toEqual([1, 0, 0])
  const states = await books.database.select<{ state: string; n: number }>(
    'SELECT state, COUNT(*) AS n FROM outbox GROUP BY state ORDER BY state',
  )
  expect(states.map(s => [s.state, Number(s.n)])).toEqual([
    ['print', 1],
    ['queued', 1],
    ['stopped', 1],
  ])
  expect(await rule(discardRun(books.database, books.actor, id))).toContain('withdraw it instead')
})

test('a fee that was paid: its money is on account again; one that was credited needs nothing more', async () => {
  const { id } = await propose()
  await confirm(id)
  const fee = (await itemsOf('W2')).find(i => i.kind === 'fee')!
  const interest = (await itemsOf('W2')).find(i => i.kind === 'interest')!
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'W2',
      date: TODAY,
      means: [{ means: 'transfer', amount: fee.open }],
      allocations: [{ itemId: fee.id, amount: fee.open }],
    }),
  )
  await writeSetting(books.database, 1, 'signOff', { waiver: { EUR: 10 ** 9 } })
  await perform(books.database, books.actor, goodwillCommand, {
    itemId: interest.id,
    amount: interest.open,
    reason: 'a good customer',
  })
  await withdraw(id, ['W2 EUR'])
  expect((await itemsOf('W2')).map(i => [i.number.slice(0, 2), i.open])).toEqual([
    ['W-', 200_000],
    ['R-', -fee.open],
  ])
  expect(await verifyLedger(books.database)).toEqual([])
})

test('what a later notice took further is withdrawn in turn; what was not confirmed cannot be', async () => {
  const first = await propose()
  expect(await rule(withdraw(first.id))).toBe('withdraw.sent')
  await confirm(first.id)
  await writeSetting(books.database, 1, 'clock', '2026-12-07')
  const second = await propose({ asOf: '2026-12-07' })
  await confirm(second.id)
  expect(await rule(withdraw(first.id, ['W1 EUR']))).toBe('withdraw.followed')
  expect(await rule(withdraw(second.id, null, { reason: ' ' }))).toBe('withdraw.reason')
  await withdraw(second.id)
  await withdraw(first.id)
  expect((await itemsOf('W1')).every(i => i.level === 0)).toBe(true)
  expect(await verifyLedger(books.database)).toEqual([])
})

test('two withdraw, one confirms twice, all at once: each is done once', async () => {
  const { id, version } = await propose()
  const both = { id, version }
  await Promise.allSettled([
    confirmRun(books.database, books.actor, id, both),
    confirmRun(books.database, books.actor, id, both),
  ])
  const done = await Promise.allSettled([
    perform(books.database, books.actor, withdrawCommand, { id, reason: 'twice' }),
    perform(books.database, books.actor, withdrawCommand, { id, reason: 'twice' }),
  ])
  const counts = done.map(d => (d.status === 'fulfilled' ? d.value.withdrawn : -1)).sort()
  expect(counts).toEqual([0, 3])
  expect(await verifyLedger(books.database)).toEqual([])
})

test('an interest run: documents of their own, no level, and no day charged twice', async () => {
  const run = await propose({ kind: 'interest' })
  const notices = await noticesOf(books.database, run.id)
  // 2,000.00 × 10 % × 68 ÷ 365 = 37.26, for 10 September to 16 November.
  expect(notices.find(n => n.key === 'W2 EUR')).toMatchObject({
    level: 0,
    interest: 3726,
    interestLines: [{ from: '2026-09-10', to: TODAY, days: 68, rate: '10', base: 200_000, amount: 3726 }],
  })
  await confirm(run.id)
  expect((await itemsOf('W2')).map(i => [i.number, i.level, i.open])).toEqual([
    ['W-3', 0, 200_000],
    ['I-00002', 0, 3726],
  ])
  expect((await propose({ kind: 'interest' })).totals.notices).toBe(0)
  await writeSetting(books.database, 1, 'clock', '2026-11-26')
  const next = await propose({ kind: 'interest', asOf: '2026-11-26' })
  expect(
    (await noticesOf(books.database, next.id)).find(n => n.key === 'W2 EUR')!.interestLines,
  ).toMatchObject([{ from: '2026-11-17', to: '2026-11-26', days: 10, amount: 548 }])
  // Taken back, its days are free again.
  await withdraw(run.id)
  const again = await propose({ kind: 'interest', asOf: '2026-11-26' })
  expect(
    (await noticesOf(books.database, again.id)).find(n => n.key === 'W2 EUR')!.interestLines,
  ).toMatchObject([{ from: '2026-09-10', to: '2026-11-26', days: 78 }])
  expect(await verifyLedger(books.database)).toEqual([])
})

test('changes of a proposal are worked out at once, and hold when it is confirmed', async () => {
  const run = await propose()
  const edit = (version: number, key: string, change: object) =>
    editRun(books.database, books.actor, run.id, { version, key, edit: change })
  const one = await edit(run.version, 'W1 EUR', { noFee: true, noInterest: true })
  expect(one.notice).toMatchObject({ fee: 0, interest: 0, changed: ['no fee', 'no interest'] })
  await expect(edit(run.version, 'W2 EUR', { noFee: true })).rejects.toThrow('somebody else changed this run')
  const two = await edit(one.run.version, 'W2 EUR', { leaveOut: 'a visit is planned' })
  expect(two.notice).toMatchObject({ included: false, leftOutFor: 'a visit is planned' })
  expect(two.run.totals).toMatchObject({ notices: 2, all: 3 })
  expect((await leftOutOf(books.database, run.id)).map(l => l.rule)).toContain('chosen')
  const back = await edit(two.run.version, 'W2 EUR', {})
  expect(back.run.totals).toMatchObject({ notices: 3, all: 3 })
  expect(back.notice.edit).toEqual({})
  const listed = (await noticesOf(books.database, run.id)).find(n => n.key === 'W1 EUR')!
  // Whoever looks later puts a further change over what was changed before.
  expect(listed.edit).toEqual({ noFee: true, noInterest: true })
  await edit(back.run.version, 'W3 GBP', { recipient: 'pay@wold.example', oneLower: true })
  await confirm(run.id)
  expect((await itemsOf('W1')).map(i => i.kind)).toEqual(['invoice', 'invoice'])
  const [sent] = await books.database.select<{ recipient: string; state: string }>(
    `SELECT o.recipient, o.state FROM outbox o JOIN customer c ON c.id = o.customer_id WHERE c.number = 'W3'`,
  )
  expect(sent).toEqual({ recipient: 'pay@wold.example', state: 'queued' })
  await expect(edit(9, 'W1 EUR', {})).rejects.toThrow('only a proposed one')
})

test('goodwill above the threshold waits, is signed, and gives back to the income it came from', async () => {
  const { id } = await propose()
  await confirm(id)
  const fee = (await itemsOf('W1')).find(i => i.kind === 'fee')!
  await writeSetting(books.database, 1, 'signOff', { waiver: { EUR: 200 } })
  const give = (amount: number, reason = 'first time') =>
    performOrKeep(books.database, books.actor, goodwillCommand, { itemId: fee.id, amount, reason })
  expect(await rule(give(fee.open + 1))).toBe('goodwill.amount')
  expect(await rule(give(100, ' '))).toBe('goodwill.reason')
  expect((await give(200)).waiting).toBeNull()
  const { waiting } = await give(800)
  expect((await itemsOf('W1')).find(i => i.kind === 'fee')!.open).toBe(800)
  await books.database.run(
    `INSERT INTO person (id, email, name, role, password_hash) VALUES (9, 'su@example.org', 'Su', 'supervisor', 'x')`,
  )
  const su = { id: 9, name: 'Su', email: 'su@example.org', role: 'supervisor' as const }
  await signRequest(books.database, su, waiting!.id)
  expect((await itemsOf('W1')).some(i => i.kind === 'fee')).toBe(false)
  const lines = await books.database.select<{ account: string; amount: unknown }>(
    `SELECT l.account, SUM(l.amount) AS amount FROM journal_line l WHERE l.account = '4810' AND l.currency = 'EUR'
      GROUP BY l.account`,
  )
  // Two fees in euro were posted; one of them went back.
  expect(lines.map(l => int(l.amount))).toEqual([-1000])
  expect(await rule(give(1))).toBe('goodwill.open')
  expect(await verifyLedger(books.database)).toEqual([])
})

test('a version of a policy holds from its day on; a run of before stays explained by its own', async () => {
  const { code, validFrom: _, ...policy } = await policyOn(books.database, 'standard', TODAY)
  const [first, ...others] = policy.levels
  await changePolicy(books.database, 1, code, {
    ...policy,
    levels: [{ ...first!, fee: { EUR: 7700 } }, ...others],
    validFrom: '2026-12-01',
  })
  const fee = async (asOf: string) =>
    (await noticesOf(books.database, (await propose({ asOf, customer: 'W2' })).id))[0]!.fee
  expect(await fee(TODAY)).toBe(1000)
  await writeSetting(books.database, 1, 'clock', '2026-12-02')
  expect(await fee('2026-12-02')).toBe(7700)
  expect(await fee('2026-11-30')).toBe(1000)
  await expect(
    changePolicy(books.database, 1, code, { ...policy, version: 3, validFrom: '2026-11-20' }),
  ).rejects.toThrow('is explained by the version of then'.replace('is explained', 'its runs are explained'))
})

test('a run of tomorrow, of a closed period, of nobody: refused with what would be right', async () => {
  await expect(propose({ asOf: '2026-11-17' })).rejects.toThrow('2026-11-16 or earlier')
  await writeSetting(books.database, 1, 'closedUntil', '2026-10-31')
  await expect(propose({ asOf: '2026-10-31' })).rejects.toThrow('closed up to 2026-10-31')
  await expect(propose({ policy: 'none' })).rejects.toThrow('does not exist')
  await expect(propose({ customer: 'W9' })).rejects.toThrow('W9')
})

test('each customer by its own policy, and only those asked for', async () => {
  await changePolicy(books.database, 1, 'gentle', {
    ...(await policyOn(books.database, 'standard', TODAY)),
    name: 'Gentle',
    version: 0,
    letters: 'item',
    levels: [(await policyOn(books.database, 'standard', TODAY)).levels[0]!],
    validFrom: undefined,
  } as never)
  await books.database.run(`UPDATE customer SET policy = 'gentle' WHERE number = 'W1'`)
  const keys = async (over: object) =>
    (await noticesOf(books.database, (await propose(over)).id)).map(n =>
      `${n.key} ${n.policy}`.replace(/#\d+/, '#'),
    )
  expect(await keys({})).toEqual(['W1 EUR # gentle', 'W1 EUR # gentle', 'W2 EUR standard', 'W3 GBP standard'])
  expect(await keys({ policy: 'gentle' })).toEqual(['W1 EUR # gentle', 'W1 EUR # gentle'])
  expect(await keys({ country: 'GB' })).toEqual(['W3 GBP standard'])
  expect(await keys({ class: 'none' })).toEqual([])
  expect((await referenceRates(books.database)).map(r => r.percent)).toEqual(['2'])
})

test('whatever comes between: no paid item is reminded, no level skipped, no day charged twice', async () => {
  const draw = chance('runs between')
  let day = TODAY
  for (let week = 0; week < 9; week++) {
    day = new Date(Date.parse(`${day}T00:00:00Z`) + 6 * 86_400_000).toISOString().slice(0, 10)
    await writeSetting(books.database, 1, 'clock', day)
    const [customer] = [draw.pick(['W1', 'W2', 'W3'])]
    const due = (await itemsOf(customer)).filter(i => i.open > 0)
    if (due.length && draw.happens(0.6)) {
      const item = draw.pick(due)
      const amount = draw.happens(0.5) ? item.open : Math.ceil(item.open / 2)
      const paid = await postIntent(
        books.database,
        books.actor,
        await intents.receipt(books.database, {
          customer,
          currency: item.currency,
          date: day,
          means: [{ means: 'transfer', amount }],
          allocations: [{ itemId: item.id, amount }],
        }),
      )
      if (draw.happens(0.4))
        await postIntent(
          books.database,
          books.actor,
          await intents.reverse(books.database, paid.receipt!.id, { date: day, reason: 'returned', fee: 0 }),
        )
    }
    const run = await propose({ asOf: day, kind: draw.happens(0.25) ? 'interest' : 'reminder' })
    const levels = new Map(
      (await Promise.all(['W1', 'W2', 'W3'].map(itemsOf)))
        .flat()
        .map(i => [i.id, { level: i.level, open: i.open }]),
    )
    for (const notice of await noticesOf(books.database, run.id))
      for (const item of notice.items.filter(() => run.kind === 'reminder')) {
        expect(levels.get(item.id)!.open).toBeGreaterThan(0)
        expect(item.level).toBeLessThanOrEqual(levels.get(item.id)!.level + 1)
      }
    if (!run.totals.notices) continue
    await confirm(run.id)
    if (draw.happens(0.3)) await withdraw(run.id)
  }
  const twice = await books.database.select(
    `SELECT a.id FROM interest_line a JOIN interest_line b ON b.item_id = a.item_id AND b.id > a.id
      AND b.from_date <= a.to_date AND a.from_date <= b.to_date
      WHERE NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id IN (a.document_item_id, b.document_item_id))`,
  )
  expect(twice).toEqual([])
  expect(await verifyLedger(books.database)).toEqual([])
})
