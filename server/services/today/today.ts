import { z } from 'zod'
import { addBankWorkingDays, lastMonthEnd, type IsoDate } from '../../../core/calendar'
import { kindList } from '../../../core/ledger'
import { can } from '../../../core/people'
import { agingQuery } from '../../../contract/aging'
import type { TodayAnswer } from '../../../contract/today'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings, type Settings } from '../../db/settings'
import { readAging } from '../aging/aging'
import { setAside, waitingFiles } from '../banking/inbox'
import { readTray } from '../banking/slips'
import { scopeOf, type Actor, type Scope } from '../people/scope'
import { accountsToRemind } from '../reminders/proposal'
import { listHeld } from '../exposure/lists'

const MONEY = kindList(k => k.money)

const sum = (list: number[]) => list.reduce((a, b) => a + b, 0)
const position = async (database: Handle, asOf: IsoDate, scope: Scope) =>
  (await readAging(database, agingQuery.parse({ asOf, limit: 1 }), scope)).totals

export async function readToday(database: Handle, actor: Actor): Promise<TodayAnswer> {
  const settings = await readSettings(database)
  const scope = scopeOf(actor)
  const { today, base } = settings
  const monthEnd = lastMonthEnd(today)
  const since = addBankWorkingDays(today, -1)
  const [now, then, late, [received], todo] = await Promise.all([
    position(database, today, scope),
    position(database, monthEnd, scope),
    newlyOverdue(database, settings, since, scope),
    database.select(
      `SELECT SUM(i.base_amount) AS amount FROM item i JOIN customer c ON c.id = i.customer_id
      WHERE i.kind IN (${MONEY}) AND i.posting_date > :monthEnd AND i.posting_date <= :today
      AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)
        ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
      { monthEnd, today, salesId: scope.salesId ?? 0 },
    ),
    todoList(database, settings, actor),
  ])
  return {
    today,
    base,
    company: settings.company,
    buckets: settings.buckets.map(b => ({ label: b.label })),
    amounts: now.amounts,
    onAccount: now.onAccount,
    open: now.total,
    overdue: sum(now.amounts.slice(1)),
    // It was set for the house: a part of its customers is not measured by it.
    target: actor.role === 'sales' ? 0 : settings.overdueTarget,
    monthEnd: { date: monthEnd, overdue: sum(then.amounts.slice(1)), open: then.total },
    newlyOverdue: late,
    receivedThisMonth: int(received!.amount),
    todo,
  }
}

/** Items that fell overdue since the last bank working day, the largest first. */
async function newlyOverdue(
  database: Handle,
  settings: Settings,
  since: IsoDate,
  scope: Scope,
): Promise<TodayAnswer['newlyOverdue']> {
  const values = { since, today: settings.today, salesId: scope.salesId ?? 0 }
  const from = `FROM open_item s JOIN customer c ON c.id = s.customer_id JOIN item i ON i.id = s.item_id
    WHERE s.open > 0 AND s.due_date >= :since AND s.due_date < :today
    ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`
  const [rows, [total]] = await Promise.all([
    database.select<{
      id: number
      number: string
      customerNumber: string
      customerName: string
      dueDate: string
      daysLate: unknown
      open: unknown
    }>(
      `SELECT i.id, i.number, c.number AS customerNumber, c.name AS customerName, s.due_date AS dueDate,
        DATEDIFF(:today, s.due_date) AS daysLate, s.base_open AS open ${from} ORDER BY s.base_open DESC, i.id
        LIMIT 12`,
      values,
    ),
    database.select(`SELECT COUNT(*) AS count, SUM(s.base_open) AS total ${from}`, values),
  ])
  return {
    since,
    count: int(total!.count),
    total: int(total!.total),
    items: rows.map(({ customerNumber, customerName, ...r }) => ({
      ...r,
      customer: { number: customerNumber, name: customerName },
      daysLate: int(r.daysLate),
      open: int(r.open),
    })),
  }
}

const plural = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`

const MAIL: Record<string, { what: string; label: string; why: string }> = {
  failed: {
    what: 'e-mail',
    label: 'not delivered',
    why: 'the mailbox refused it, the customer knows nothing',
  },
  waiting: {
    what: 'e-mail',
    label: 'waiting',
    why: 'the mail server does not answer; it is tried again by itself',
  },
  print: { what: 'letter', label: 'to print', why: 'these customers have no e-mail address' },
}

const mailRow = z.object({
  state: cell.text,
  count: cell.sum,
})

/** What to do next, each with why and a way in; only what the person may do. */
async function todoList(database: Handle, settings: Settings, actor: Actor): Promise<TodayAnswer['todo']> {
  const todo: TodayAnswer['todo'] = []
  if (!can(actor.role, 'books.read')) return todo
  const [toRemind, [cash], held, mail] = await Promise.all([
    accountsToRemind(database, settings),
    database.select(
      `SELECT COUNT(*) AS count, SUM(-s.base_open) AS amount FROM open_item s JOIN item i ON i.id = s.item_id
        WHERE s.open < 0 AND i.kind IN (${MONEY})`,
    ),
    listHeld(database, scopeOf(actor)),
    database.rows(
      mailRow,
      `SELECT state, COUNT(*) AS count FROM outbox WHERE state IN ('failed', 'print', 'waiting')
        GROUP BY state`,
    ),
  ])
  if (toRemind.count)
    todo.push({
      kind: 'reminders',
      label: `${plural(toRemind.count, 'account')} to remind`,
      why: 'items have reached their next reminder level',
      count: toRemind.count,
      amount: toRemind.amount,
      to: '/reminders',
    })
  if (int(cash!.count))
    todo.push({
      kind: 'cash',
      label: `${plural(int(cash!.count), 'receipt')} to allocate`,
      why: 'money lies on account and closes nothing',
      count: int(cash!.count),
      amount: int(cash!.amount),
      to: '/receipts?state=unallocated',
    })
  const [first] = held.items
  if (first)
    todo.push({
      kind: 'held',
      label: `${plural(held.items.length, 'account')} held`,
      why: `${first.customer.name} the largest: ${first.holds.map(h => h.label.toLowerCase()).join(', ')}`,
      count: held.items.length,
      amount: sum(held.items.map(h => Math.max(0, h.exposure))),
      to: '/exposure',
    })
  const [bank] = await database.select(`SELECT COUNT(*) AS count FROM bank_line WHERE state = 'open'`)
  const files = can(actor.role, 'receipts.post') ? await waitingFiles(database) : []
  for (const bad of can(actor.role, 'receipts.post') ? await setAside(database) : [])
    todo.unshift({
      kind: 'bank-fault',
      label: `${bad.name} was set aside`,
      why: bad.reason,
      count: 1,
      amount: null,
      to: '/banking',
    })
  if (files.length)
    todo.unshift({
      kind: 'bank-files',
      label: `${plural(files.length, 'file')} from the bank`,
      why: `statements wait in the inbox, the newest ${files.at(-1)!.name}`,
      count: files.length,
      amount: null,
      to: '/banking',
    })
  if (int(bank!.count))
    todo.unshift({
      kind: 'bank',
      label: `${plural(int(bank!.count), 'bank line')} to work`,
      why: 'money that was seen at the bank and closes nothing yet',
      count: int(bank!.count),
      amount: null,
      to: '/banking',
    })
  const [batch] = await database.select<{ id: number; date: string }>(
    `SELECT id, date FROM batch WHERE open_of = :id`,
    { id: actor.id },
  )
  if (batch)
    todo.push({
      kind: 'batch',
      label: 'Your batch is open',
      why: `dated ${batch.date}; the day cannot close before it is`,
      count: 1,
      amount: null,
      to: `/receipts/batches/${batch.id}`,
    })
  const tray = await readTray(database, {})
  if (tray.items.length && can(actor.role, 'receipts.post'))
    todo.push({
      kind: 'tray',
      label: `${plural(tray.items.length, 'item')} in the tray`,
      why: `cheques and cash since ${tray.items[0]!.date}, not yet at the bank`,
      count: tray.items.length,
      amount: null,
      to: '/banking/tray',
    })
  for (const { state, count } of mail) {
    const told = MAIL[state]!
    todo.push({
      kind: 'mail',
      label: `${plural(int(count), told.what)} ${told.label}`,
      why: told.why,
      count: int(count),
      amount: null,
      to: `/outbox?state=${state}`,
    })
  }
  const toSign = can(actor.role, 'signOff.sign') ? await requestsFor(database, actor) : 0
  // Others wait for what is signed here: it comes before one's own work.
  if (toSign)
    todo.unshift({
      kind: 'sign-off',
      label: `${plural(toSign, 'request')} to sign`,
      why: 'limits, bank details and releases that wait for a second person',
      count: toSign,
      amount: null,
      to: '/sign-off',
    })
  return todo
}

/** Requests that wait and were asked for by somebody else. */
async function requestsFor(database: Handle, actor: Actor): Promise<number> {
  const [row] = await database.select(
    `SELECT COUNT(*) AS n FROM waiting_command WHERE state = 'waiting' AND person_id <> :id`,
    { id: actor.id },
  )
  return int(row!.n)
}
