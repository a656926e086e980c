import { Op } from '../server/db/where'
import { addBankWorkingDays, addDays, type IsoDate } from '../core/calendar'
import type { Outcome } from '../core/callList'
import type { DisputeReason, Resolution } from '../core/disputes'
import { instalments } from '../core/promises'
import type { Handle } from '../server/db/handle'
import { readSettings, writeSetting } from '../server/db/settings'
import { perform } from '../server/ledger/command'
import { callCommand } from '../server/services/callList/calls'
import { disputeCommand } from '../server/services/disputes/open'
import { resolveCommand } from '../server/services/disputes/resolve'
import { keepStands } from '../server/services/promises/promises'
import type { Actor } from '../server/services/people/scope'
import type { Answerable } from '../server/ports/mailIn'
import { answersTo } from '../server/wiring'
import { chance, type Chance } from '../simulators/chance'

/*
 * Two years of chasing: calls, what was promised in them, what was disputed. What became of the promises is
 * not invented: the money that came says it.
 */

const AGAIN_FROM = '2026-11-03'

interface Late {
  customerId: number
  currency: string
  contact: string
  overdue: number
}

/** Who has most overdue on a day, and may be rung. */
const lateOn = (database: Handle, day: IsoDate, many: number) =>
  database.select<Late>(
    `SELECT o.customer_id AS customerId, c.currency, c.contact, SUM(o.open) AS overdue FROM open_item o
      JOIN customer c ON c.id = o.customer_id AND c.currency = o.currency
      WHERE o.open > 0 AND o.due_date < DATE_SUB(:day, INTERVAL 6 DAY) GROUP BY o.customer_id
      ORDER BY SUM(o.base_open) DESC LIMIT ${many}`,
    { day },
  )

const SAID: Record<Outcome, readonly string[]> = {
  reached: [
    'Has it all in the next payment run.',
    'Waits for the release of the managing director.',
    'Asked for a day or two, the bookkeeper is back on Monday.',
    'Friendly; cannot say a date.',
  ],
  'not-reached': ['Nobody picked up.', 'Answering machine, left word.', 'Engaged, twice.'],
  promised: [
    'Will pay what is overdue.',
    'Half of it now, the rest after the harvest.',
    'Transfer goes out on that day.',
  ],
  disputed: [
    'Says two pallets came wet.',
    'Price is not the one agreed in spring.',
    'Freight was to be ours.',
  ],
  'wrong-contact': ['She left in summer; ask for the new bookkeeper.'],
  copies: ['Never saw the invoice; copy wanted.'],
}

const outcomeOf = (draw: Chance): Outcome => {
  const at = draw.next()
  if (at < 0.34) return 'reached'
  if (at < 0.58) return 'not-reached'
  if (at < 0.86) return 'promised'
  if (at < 0.93) return 'copies'
  return at < 0.97 ? 'disputed' : 'wrong-contact'
}

/** A promise as it was given on a day of the past: for the oldest items that are overdue. */
async function promiseOn(
  database: Handle,
  day: IsoDate,
  late: Late,
  actor: Actor,
  draw: Chance,
): Promise<number | null> {
  const items = await database.find(
    'open_item',
    {
      customer_id: late.customerId,
      open: { [Op.gt]: 0 },
      currency: late.currency,
      due_date: { [Op.lt]: day },
    },
    {
      columns: { itemId: 'item_id', amount: 'open' },
      order: ['due_date', 'item_id'],
      limit: draw.whole(1, 4),
    },
  )
  const total = items.reduce((sum, i) => sum + i.amount, 0)
  if (!total) return null
  const [last] = await database.select<{ entry: number | null }>('SELECT MAX(id) AS entry FROM entry')
  const [id] = await database.insert('promise', [
    {
      customer_id: late.customerId,
      currency: late.currency,
      made_on: day,
      after_entry: last!.entry ?? 0,
      for_items: 1,
      person_id: actor.id,
    },
  ])
  await database.insert(
    'promise_item',
    items.map(i => ({ promise_id: id!, item_id: i.itemId, amount: i.amount })),
  )
  const count = draw.happens(0.12) && total > 300_000 ? 3 : 1
  const first = addBankWorkingDays(day, draw.whole(2, 9))
  await database.insert(
    'promise_part',
    instalments(total, count, n => addDays(first, 14 * n)).map(p => ({
      promise_id: id!,
      date: p.date,
      amount: p.amount,
      until: p.date,
    })),
  )
  return id!
}

/** The calls of one day of the past. */
export async function chaseOn(
  database: Handle,
  day: IsoDate,
  actor: Actor,
  { calls, from }: { calls: number; from: number },
): Promise<void> {
  const draw = chance(`wrackline calls ${day}`)
  const list = await lateOn(database, day, from)
  for (let n = 0; n < Math.min(calls, list.length); n++) {
    const late = list.splice(draw.whole(0, list.length - 1), 1)[0]!
    const outcome = outcomeOf(draw)
    const promiseId = outcome === 'promised' ? await promiseOn(database, day, late, actor, draw) : null
    // Of long ago nobody is to be rung again: they were, or paid.
    const isOver = outcome === 'promised' || outcome === 'disputed' || day < AGAIN_FROM
    const again = isOver ? null : addBankWorkingDays(day, draw.whole(1, 6))
    await database.insert('call_log', [
      {
        customer_id: late.customerId,
        on_date: day,
        at: `${day} ${String(draw.whole(8, 15)).padStart(2, '0')}:${String(draw.whole(10, 59))}:00`,
        outcome: outcome === 'promised' && promiseId === null ? 'reached' : outcome,
        spoke_with: outcome === 'not-reached' ? '' : late.contact,
        text: draw.pick(SAID[outcome]),
        next_date: again,
        promise_id: promiseId,
        person_id: actor.id,
      },
    ])
  }
}

interface DisputeOn {
  reason: DisputeReason
  text: string
  share: number
  openedDaysAgo: number
  resolve?: Resolution
  after?: number
}

const DISPUTES: readonly DisputeOn[] = [
  { reason: 'quality', text: 'Two pallets of meal came wet', share: 0.3, openedDaysAgo: 4 },
  { reason: 'price', text: 'Offer said 1,480 a tonne', share: 0.12, openedDaysAgo: 9 },
  { reason: 'quantity', text: 'Eleven bags short by the weighbridge note', share: 0.22, openedDaysAgo: 21 },
  { reason: 'not-delivered', text: 'Carrier cannot show a signature', share: 1, openedDaysAgo: 36 },
  {
    reason: 'credit-missing',
    text: 'Credit for the August return was promised',
    share: 0.4,
    openedDaysAgo: 75,
  },
  {
    reason: 'freight',
    text: 'Ex works was agreed, so they say',
    share: 0.08,
    openedDaysAgo: 40,
    resolve: 'upheld',
    after: 11,
  },
  {
    reason: 'late-delivery',
    text: 'Came a week after the mixing date',
    share: 0.25,
    openedDaysAgo: 52,
    resolve: 'credited',
    after: 19,
  },
  {
    reason: 'quality',
    text: 'Iodine above what was agreed',
    share: 0.5,
    openedDaysAgo: 64,
    resolve: 'settled',
    after: 27,
  },
  {
    reason: 'other',
    text: 'A few cents of bank charges',
    share: 0.01,
    openedDaysAgo: 30,
    resolve: 'written-off',
    after: 3,
  },
]

/** Disputes in several states, over items that are open today. */
async function disputes(database: Handle, controller: Actor, supervisor: Actor): Promise<void> {
  const { today } = await readSettings(database)
  const items = await database.select<{ itemId: number; customer: string; open: number; docDate: IsoDate }>(
    `SELECT o.item_id AS itemId, c.number AS customer, o.open, o.document_date AS docDate FROM open_item o
      JOIN customer c ON c.id = o.customer_id JOIN item i ON i.id = o.item_id
      WHERE o.open > 150000 AND i.kind = 'invoice' AND c.currency = 'EUR' AND o.due_date < :today
      AND NOT EXISTS (SELECT 1 FROM dispute_item t WHERE t.item_id = o.item_id)
      GROUP BY o.customer_id ORDER BY o.base_open DESC LIMIT 30`,
    { today },
  )
  const draw = chance('wrackline disputes')
  for (const { reason, text, share, openedDaysAgo, resolve, after } of DISPUTES) {
    const opened = addDays(today, -openedDaysAgo)
    const at = items.findIndex(i => i.docDate < addDays(opened, -2))
    const item = items.splice(at < 0 ? 0 : at, 1)[0]
    if (!item) break
    // It was opened, and resolved, on days of the past.
    await writeSetting(database, supervisor.id, 'clock', opened)
    const { id } = await perform(database, controller, disputeCommand, {
      customer: item.customer,
      reason,
      text,
      fault: draw.pick(['unknown', 'us', 'carrier', 'customer'] as const),
      owner: draw.happens(0.5) ? controller.email : supervisor.email,
      deadline: addDays(opened, draw.whole(14, 45)),
      items: [{ itemId: item.itemId, amount: Math.max(100, Math.round(item.open * share)) }],
    })
    if (!resolve) continue
    await writeSetting(database, supervisor.id, 'clock', addDays(opened, after ?? 0))
    await perform(database, supervisor, resolveCommand, {
      id,
      version: 1,
      resolution: resolve,
      amounts:
        resolve === 'settled' ? [{ itemId: item.itemId, amount: Math.round(item.open * share * 0.6) }] : [],
      text: '',
    })
  }
  await writeSetting(database, supervisor.id, 'clock', today)
}

/** A plan in instalments, made on the last working day before today. */
async function plan(database: Handle, controller: Actor): Promise<void> {
  const { today } = await readSettings(database)
  const [late] = await database.select<{ number: string; currency: string; overdue: unknown }>(
    `SELECT c.number, c.currency, SUM(o.open) AS overdue FROM open_item o JOIN customer c ON c.id = o.customer_id
      AND c.currency = o.currency WHERE o.open > 0 AND o.due_date < :today AND NOT EXISTS (SELECT 1 FROM promise p
      WHERE p.customer_id = c.id AND p.made_on > DATE_SUB(:today, INTERVAL 30 DAY)) AND c.currency = 'EUR'
      GROUP BY c.id ORDER BY SUM(o.base_open) DESC LIMIT 1 OFFSET 3`,
    { today },
  )
  if (!late) return
  await perform(database, controller, callCommand, {
    customer: late.number,
    outcome: 'promised',
    text: 'Five instalments, every two weeks; deliveries go on against payment in advance.',
    promise: {
      currency: late.currency,
      parts: instalments(Number(late.overdue), 5, n => addBankWorkingDays(addDays(today, 4 + 14 * n), 0)),
    },
  })
}

/** What colleagues wrote each other, and what waits to be answered. */
async function words(database: Handle, people: People): Promise<void> {
  const { today } = await readSettings(database)
  const [first, second, third] = await database.select<{ id: number; salesId: number | null }>(
    `SELECT o.customer_id AS id, c.sales_id AS salesId FROM open_item o JOIN customer c ON c.id = o.customer_id
      WHERE o.open > 0 AND o.due_date < :today GROUP BY o.customer_id
      ORDER BY c.sales_id IS NULL, SUM(o.base_open) DESC LIMIT 3`,
    { today },
  )
  const say = async (from: Actor, to: Actor, customerId: number, text: string, set: object = {}) =>
    (
      await database.insert('message', [
        {
          customer_id: customerId,
          to_id: to.id,
          person_id: from.id,
          text,
          on_date: addBankWorkingDays(today, -1),
          ...set,
        },
      ])
    )[0]!
  const { controller, supervisor, sales } = people
  const asked = await say(
    controller,
    sales,
    first!.id,
    'They say you agreed on a lower price in spring. Did you?',
    {
      due: addBankWorkingDays(today, 2),
    },
  )
  await say(sales, controller, first!.id, 'Only for the garden meal, not for this one. I will ring them.', {
    first_id: asked,
  })
  await say(
    supervisor,
    controller,
    second!.id,
    'Please ring them yourself today, the limit is up for review.',
    {
      due: today,
    },
  )
  await say(sales, controller, third!.id, 'Their new bookkeeper starts on the 23rd.', {
    read_at: `${today} 08:00:00`,
  })
  await database.run(
    `UPDATE note SET pinned = 1 WHERE id = (SELECT id FROM (SELECT MAX(id) AS id FROM note
      WHERE customer_id = :id) n)`,
    { id: second!.id },
  )
}

/** Answers to the letters of the last run that went out, as the Clock would bring them. */
async function mail(database: Handle): Promise<void> {
  const { today, sender } = await readSettings(database)
  const letters = await database.select<Omit<Answerable, 'items' | 'from'> & { customerId: number }>(
    `SELECT o.message_id AS messageId, o.subject, o.recipient AS \`to\`, c.contact, c.name AS customer, c.language,
      c.id AS customerId FROM outbox o JOIN customer c ON c.id = o.customer_id
      WHERE o.recipient <> '' ORDER BY o.id DESC LIMIT 45`,
  )
  const items = await database.select<Answerable['items'][number] & { customerId: number }>(
    `SELECT o.customer_id AS customerId, i.number, o.open, o.currency FROM open_item o
      JOIN item i ON i.id = o.item_id WHERE o.open > 0 AND i.register = 'document' ORDER BY o.due_date, i.id`,
  )
  await answersTo(
    today,
    letters.map(({ customerId, ...letter }) => ({
      ...letter,
      from: sender,
      items: items.filter(i => i.customerId === customerId).slice(0, 3),
    })),
  )
}

interface People {
  controller: Actor
  supervisor: Actor
  sales: Actor
}

/** What stands today: disputes, a plan, words and mail, and what became of all promises. */
export async function loadChasing(database: Handle, people: People): Promise<void> {
  await words(database, people)
  await mail(database)
  await disputes(database, people.controller, people.supervisor)
  await plan(database, people.controller)
  const customers = await database.find('promise', {}, { columns: { id: 'customer_id' }, distinct: true })
  await keepStands(
    database,
    await readSettings(database),
    customers.map(c => c.id),
  )
}
