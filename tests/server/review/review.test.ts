import { reviewQuery } from '../../../contract/review'
import { addDays, dayNumber } from '../../../core/calendar'
import { LedgerImage } from '../../../core/image'
import { takenBack } from '../../../core/measures'
import { behaviourOn, historyOf, spellAfter, WEIGHTS } from '../../../core/review'
import { addAccounts } from '../../../server/image'
import { findCustomer } from '../../../server/services/accounts/customers'
import { changeCustomer } from '../../../server/services/accounts/master/change'
import { changeSettings } from '../../../server/services/setup/settings'
import { learn, reviewKeeper } from '../../../server/services/review/model'
import { readAccountReview, readReview } from '../../../server/services/review/review'
import { chance } from '../../../simulators/chance'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'
import { intents, postIntent } from '../post'

/**
 * A year of few customers: P pays on the day, S half a quarter late, N not at all since the summer, F is new.
 */
let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await customers(
    books,
    `number,name,country,currency,credit_limit,risk_class,review_date
P,Prompt Kelp,IE,EUR,50000.00,E,2027-05-01
S,Slow Dulse,IE,EUR,50000.00,D,2026-11-01
N,Never Agar,IE,EUR,20000.00,B,
F,Fresh Carragheen,IE,EUR,1000.00,,
`,
  )
  const months = ['2026-05-05', '2026-06-05', '2026-07-06', '2026-08-05', '2026-09-04', '2026-10-05']
  const c = chance('review')
  const bills = months.flatMap((date, n) =>
    ['P', 'S', 'N'].map(
      who => `${who}-${n},${who},${date},${addDays(date, 30)},EUR,${c.whole(800, 1200)}.00`,
    ),
  )
  await documents(
    books,
    [
      'number,customer,date,due_date,currency,amount',
      ...bills,
      'F-1,F,2026-11-10,2026-12-10,EUR,300.00',
      '',
    ].join('\n'),
  )
  const open = await books.database.select<{ id: number; number: string; amount: number; dueDate: string }>(
    'SELECT id, number, amount, due_date AS dueDate FROM item ORDER BY id',
  )
  const pay = async (customer: string, late: number, upTo: number) => {
    for (const item of open.filter(i => i.number.startsWith(`${customer}-`)).slice(0, upTo)) {
      const date = addDays(item.dueDate, late)
      if (date > TODAY) continue
      const intent = await intents.receipt(books.database, {
        customer,
        currency: 'EUR',
        date,
        means: [{ means: 'transfer', amount: item.amount }],
        allocations: [{ itemId: item.id, amount: item.amount }],
      })
      await postIntent(books.database, books.actor, intent)
    }
  }
  await pay('P', 0, 6)
  await pay('S', 45, 6)
  await pay('N', 5, 2)
})
afterAll(() => books.close())

async function historyOfNumber(number: string) {
  const ledger = new LedgerImage()
  const { id } = await findCustomer(books.database, number, {})
  await addAccounts(books.database, ledger, [id])
  return historyOf(ledger, id, takenBack(ledger), dayNumber(TODAY))
}
const account = (number: string) => readAccountReview(books.database, number, {})
const list = (q: object = {}) => readReview(books.database, reviewQuery.parse(q), {})

test('behaviour is what the ledger says of the last year', async () => {
  const today = dayNumber(TODAY)
  const slow = behaviourOn(await historyOfNumber('S'), today)!
  expect(slow.daysLate).toBeCloseTo(45, 6)
  expect(slow.shareLate).toBe(1)
  expect(slow.returned).toBe(0)
  const prompt = behaviourOn(await historyOfNumber('P'), today)!
  expect([prompt.daysLate, prompt.shareLate, prompt.shareOverdue]).toEqual([0, 0, null])
  expect(behaviourOn(await historyOfNumber('F'), dayNumber('2026-11-09'))).toBeNull()
})

test('more than 90 days late from the 91st day on, until it is paid', async () => {
  const never = await historyOfNumber('N')
  // The third invoice was due on 5 August: the 91st day after is 4 November.
  const first = dayNumber('2026-08-05') + 91
  expect(spellAfter(never, first - 1)).toEqual({ isIn: false, next: first })
  expect(spellAfter(never, first).isIn).toBe(true)
  expect((await historyOfNumber('S')).spells).toEqual([])
})

test('money that came back counts as returned, and what it paid as not paid', async () => {
  const before = behaviourOn(await historyOfNumber('P'), dayNumber(TODAY))!
  const [receipt] = await books.database.select<{ id: number }>(
    `SELECT i.id FROM item i JOIN customer c ON c.id = i.customer_id WHERE c.number = 'P' AND i.kind = 'receipt'
      ORDER BY i.id DESC LIMIT 1`,
  )
  const intent = await intents.reverse(books.database, receipt!.id, {
    date: TODAY,
    reason: 'bounced',
    fee: 0,
  })
  await postIntent(books.database, books.actor, intent)
  const after = behaviourOn(await historyOfNumber('P'), dayNumber(TODAY))!
  expect(after.returned).toBe(1)
  expect(after.paid).toBeLessThan(before.paid)
})

test('before anything was learnt there is a score, and no probability', async () => {
  const slow = await account('S')
  expect(slow.model).toBeNull()
  expect(slow.probability).toBeNull()
  expect(slow.score).toBeGreaterThan(0)
  expect(slow.suggestion).toBeNull()
  expect((await list({ which: 'all' })).items).toEqual([])
})

test('the parts add up to the score, and the worse pays, the less', async () => {
  await learn(books.database)
  const [prompt, slow, never] = await Promise.all(['P', 'S', 'N'].map(account))
  for (const review of [prompt!, slow!, never!]) {
    const given = review.parts.reduce((sum, p) => sum + p.gives, 0)
    expect(given).toBeCloseTo(review.score!, 1)
    for (const p of review.parts) if (p.points !== null) expect(p.points >= 0 && p.points <= 100).toBe(true)
  }
  expect(prompt!.score!).toBeGreaterThan(slow!.score!)
  expect(slow!.probability!).toBeGreaterThan(prompt!.probability!)
  // Late already: nothing is left to be likely.
  expect([never!.longLate, never!.probability, never!.suggestion!.limit]).toEqual([true, null, 0])
  expect(never!.suggestion!.riskClass).toBe('E')
})

test('of an account that has only just begun nothing is suggested', async () => {
  const fresh = await account('F')
  expect([fresh.score, fresh.probability, fresh.suggestion]).toEqual([null, null, null])
})

test('due: by its day, late with a limit, much worse than its class; the likeliest first', async () => {
  const { items, due, model } = await list()
  expect(model!.asOf).toBe(TODAY)
  expect(due).toBe(items.length)
  expect(items.map(r => r.customer.number)).toEqual(['N', 'S'])
  expect(items[0]!.due.join()).toMatch(/more than 90 days late, and has a limit/)
  expect(items[0]!.due.join()).toMatch(/looks like class E, is B/)
  expect(items[1]!.due).toEqual(['due on 2026-11-01'])
  const all = await list({ which: 'all', limit: 2 })
  expect(all.items).toHaveLength(2)
  const rest = await list({ which: 'all', limit: 2, cursor: all.next! })
  expect([...all.items, ...rest.items].map(r => r.customer.number).sort()).toEqual(['F', 'N', 'P', 'S'])
})

test('accepting is a change of the customer: its class at once, its limit by Sign-off when it rises', async () => {
  const slow = await account('S')
  const done = await changeCustomer(
    books.database,
    { ...books.actor, id: 1 },
    'S',
    {
      version: slow.version,
      set: { creditLimit: slow.suggestion!.limit, riskClass: 'D', reviewDate: '2027-02-16' },
      reason: 'review',
    },
    {},
  )
  expect(done.waiting).toBeNull()
  const after = await account('S')
  expect([after.limit, after.due]).toEqual([slow.suggestion!.limit, []])
})

test('weights change the score at once, and the model is learnt anew for them', async () => {
  const before = await account('S')
  const keep = reviewKeeper(books.database)
  await changeSettings(books.database, books.actor, { reviewWeights: { ...WEIGHTS, shareLate: 100 } })
  const between = await account('S')
  expect(between.score!).toBeLessThan(before.score!)
  expect(between.model).toBeNull()
  await keep()
  expect((await account('S')).model).not.toBeNull()
  const zero = Object.fromEntries(Object.keys(WEIGHTS).map(name => [name, 0])) as typeof WEIGHTS
  await expect(changeSettings(books.database, books.actor, { reviewWeights: zero })).rejects.toThrow(/weight/)
})
