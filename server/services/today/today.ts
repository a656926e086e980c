import type { Sequelize } from 'sequelize'
import {
  addBankWorkingDays,
  addDays,
  addMonths,
  endOfMonth,
  lastMonthEnd,
  type IsoDate,
} from '../../../core/calendar'
import type { ReceiptPolicy } from '../../../core/ledger'
import { minorDigits, parseAmount } from '../../../core/money'
import { can } from '../../../core/people'
import { agingQuery } from '../../../contract/aging'
import type { History, JumpHit, SettingsAnswer, TodayAnswer } from '../../../contract/today'
import { int, select } from '../../db/connection'
import { audit, readSettings, writeSetting, type Settings } from '../../db/settings'
import { bucketsOf } from '../../../core/aging'
import { readAging } from '../aging/aging'
import { readTray } from '../banking/slips'
import { deliverBank } from '../banking/outside'
import { waitingFiles } from '../banking/statements'
import { like } from '../common/paging'
import { readPolicy } from '../reminders/policies'
import { notFound, ProblemError } from '../common/problems'
import { scopeOf, type Actor, type Scope } from '../people/scope'

const sum = (list: number[]) => list.reduce((a, b) => a + b, 0)
const position = async (database: Sequelize, asOf: IsoDate, scope: Scope) =>
  (await readAging(database, agingQuery.parse({ asOf, limit: 1 }), scope)).totals

export async function readToday(database: Sequelize, actor: Actor): Promise<TodayAnswer> {
  const settings = await readSettings(database)
  const scope = scopeOf(actor)
  const { today, base } = settings
  const monthEnd = lastMonthEnd(today)
  const since = addBankWorkingDays(today, -1)
  const [now, then, late, [received], todo] = await Promise.all([
    position(database, today, scope),
    position(database, monthEnd, scope),
    newlyOverdue(database, settings, since, scope),
    select(
      database,
      `SELECT SUM(i.base_amount) AS amount FROM item i JOIN customer c ON c.id = i.customer_id
      WHERE i.kind IN ('receipt', 'advance') AND i.posting_date > :monthEnd AND i.posting_date <= :today
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
    target: settings.overdueTarget,
    monthEnd: { date: monthEnd, overdue: sum(then.amounts.slice(1)), open: then.total },
    newlyOverdue: late,
    receivedThisMonth: int(received!.amount),
    todo,
  }
}

/** Items that fell overdue since the last bank working day, the largest first. */
async function newlyOverdue(
  database: Sequelize,
  settings: Settings,
  since: IsoDate,
  scope: Scope,
): Promise<TodayAnswer['newlyOverdue']> {
  const values = { since, today: settings.today, salesId: scope.salesId ?? 0 }
  const from = `FROM open_item s JOIN customer c ON c.id = s.customer_id JOIN item i ON i.id = s.item_id
    WHERE s.open > 0 AND s.due_date >= :since AND s.due_date < :today
    ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`
  const [rows, [total]] = await Promise.all([
    select<{
      id: number
      number: string
      customerNumber: string
      customerName: string
      dueDate: string
      daysLate: unknown
      open: unknown
    }>(
      database,
      `SELECT i.id, i.number, c.number AS customerNumber, c.name AS customerName, s.due_date AS dueDate,
        DATEDIFF(:today, s.due_date) AS daysLate, s.base_open AS open ${from} ORDER BY s.base_open DESC, i.id
        LIMIT 12`,
      values,
    ),
    select(database, `SELECT COUNT(*) AS count, SUM(s.base_open) AS total ${from}`, values),
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

/** What to do next, each with why and a way in; only what the person may do. */
async function todoList(database: Sequelize, settings: Settings, actor: Actor): Promise<TodayAnswer['todo']> {
  const todo: TodayAnswer['todo'] = []
  if (!can(actor.role, 'books.read')) return todo
  const { levels } = await readPolicy(database, 'standard')
  const step = (pick: (l: (typeof levels)[number]) => number) =>
    `CASE COALESCE(l.level, 0) ${levels.map((l, i) => `WHEN ${i} THEN ${pick(l)}`).join(' ')} ELSE 99999 END`
  const [[due], [cash], over, mail] = await Promise.all([
    select(
      database,
      `
      SELECT COUNT(DISTINCT s.customer_id) AS count, SUM(s.base_open) AS amount FROM open_item s
        JOIN item i ON i.id = s.item_id
        LEFT JOIN (SELECT ni.item_id, MAX(ni.level) AS level, MAX(n.on_date) AS noticeDate FROM notice_item ni
        JOIN notice n ON n.id = ni.notice_id GROUP BY ni.item_id) l ON l.item_id = s.item_id
      WHERE s.open > 0 AND i.kind <> 'fee' AND DATEDIFF(:today, s.due_date) >= ${step(l => l.days)}
        AND (l.noticeDate IS NULL OR DATEDIFF(:today, l.noticeDate) >= ${step(l => l.sincePrevious)})
        AND NOT EXISTS (SELECT 1 FROM pause p WHERE p.customer_id = s.customer_id AND p.ended = 0
        AND p.until_date >= :today AND (p.item_id IS NULL OR p.item_id = s.item_id))`,
      { today: settings.today },
    ),
    select(
      database,
      `SELECT COUNT(*) AS count, SUM(-s.base_open) AS amount FROM open_item s JOIN item i ON i.id = s.item_id
        WHERE s.open < 0 AND i.kind IN ('receipt', 'advance')`,
    ),
    select<{ number: string; name: string; excess: unknown }>(
      database,
      `
      SELECT c.number, c.name, t.balance - c.credit_limit AS excess
        FROM (SELECT customer_id, SUM(base_debit - base_credit) AS balance FROM account_total
        GROUP BY customer_id) t
        JOIN customer c ON c.id = t.customer_id WHERE c.credit_limit IS NOT NULL
        AND t.balance > c.credit_limit ORDER BY excess DESC`,
    ),
    select<{ state: string; count: unknown }>(
      database,
      `SELECT state, COUNT(*) AS count FROM outbox WHERE state IN ('failed', 'print') GROUP BY state`,
    ),
  ])
  if (int(due!.count))
    todo.push({
      kind: 'reminders',
      label: `${plural(int(due!.count), 'account')} to remind`,
      why: 'items have reached their next reminder level',
      count: int(due!.count),
      amount: int(due!.amount),
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
  if (over.length)
    todo.push({
      kind: 'limit',
      label: `${plural(over.length, 'account')} over limit`,
      why: `${over[0]!.name} the furthest`,
      count: over.length,
      amount: sum(over.map(o => int(o.excess))),
      to: `/accounts/${encodeURIComponent(over[0]!.number)}`,
    })
  const [bank] = await select(database, `SELECT COUNT(*) AS count FROM bank_line WHERE state = 'open'`)
  const files = can(actor.role, 'receipts.post') ? await waitingFiles(database) : []
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
  const [batch] = await select<{ id: number; date: string }>(
    database,
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
    const failed = state === 'failed'
    todo.push({
      kind: 'mail',
      label: failed
        ? `${plural(int(count), 'e-mail')} not delivered`
        : `${plural(int(count), 'letter')} to print`,
      why: failed
        ? 'the mailbox refused it, the customer knows nothing'
        : 'these customers have no e-mail address',
      count: int(count),
      amount: null,
      to: `/outbox?state=${state}`,
    })
  }
  return todo
}

/** Balance by age at the last twelve month ends and today. */
export async function readHistory(database: Sequelize, scope: Scope): Promise<History> {
  const settings = await readSettings(database)
  const dates = Array.from({ length: 12 }, (_, i) => endOfMonth(addMonths(settings.today, i - 12)))
  if (dates[dates.length - 1]! < settings.today) dates.push(settings.today)
  const points: History['points'] = []
  for (const date of dates) {
    const { amounts } = await position(database, date, scope)
    points.push({ date, amounts, overdue: sum(amounts.slice(1)) })
  }
  return {
    base: settings.base,
    target: settings.overdueTarget,
    buckets: settings.buckets.map(b => ({ label: b.label })),
    points,
  }
}

export async function jump(database: Sequelize, q: string, actor: Actor): Promise<{ items: JumpHit[] }> {
  const scope = scopeOf(actor)
  const own = scope.salesId ? 'AND c.sales_id = :salesId' : ''
  const compact = q.replace(/\s/g, '')
  const values = {
    like: like(q),
    starts: like(q).slice(1),
    iban: like(compact.toUpperCase()),
    salesId: scope.salesId ?? 0,
  }
  const account = (number: string) => `/accounts/${encodeURIComponent(number)}`
  const [customers, items, references, amounts] = await Promise.all([
    select<{ number: string; name: string; country: string; currency: string }>(
      database,
      `
      SELECT c.number, c.name, c.country, c.currency FROM customer c WHERE (c.name LIKE :like
        OR c.number LIKE :starts ${/^[A-Za-z]{2}\d{2}/.test(compact) ? 'OR c.iban LIKE :iban' : ''}) ${own}
        ORDER BY c.name LIKE :starts DESC, c.name LIMIT 8`,
      values,
    ),
    select<{
      id: number
      number: string
      kind: string
      customer: string
      name: string
    }>(
      database,
      `
      SELECT i.id, i.number, i.kind, c.number AS customer, c.name FROM item i
        JOIN customer c ON c.id = i.customer_id WHERE i.number LIKE :starts AND i.part = 1 ${own}
        ORDER BY i.id DESC LIMIT 6`,
      values,
    ),
    select<{ id: number; number: string; reference: string; name: string }>(
      database,
      `
      SELECT i.id, i.number, m.reference, c.name FROM receipt_means m JOIN item i ON i.id = m.item_id
        JOIN customer c ON c.id = i.customer_id WHERE m.reference LIKE :starts ${own} ORDER BY i.id DESC
        LIMIT 6`,
      values,
    ),
    byAmount(database, q, own, values.salesId),
  ])
  const receipt = (id: number, customer: string) =>
    can(actor.role, 'books.read') ? `/receipts/${id}` : account(customer)
  return {
    items: [
      ...customers.map((c): JumpHit => ({
        kind: 'customer',
        title: c.name,
        detail: `${c.number} · ${c.country} · ${c.currency}`,
        to: account(c.number),
      })),
      ...items.map((i): JumpHit =>
        i.kind === 'receipt' || i.kind === 'advance'
          ? { kind: 'receipt', title: i.number, detail: i.name, to: receipt(i.id, i.customer) }
          : {
              kind: 'document',
              title: i.number,
              detail: `${i.kind}, ${i.name}`,
              to: `${account(i.customer)}?state=all&find=${encodeURIComponent(i.number)}`,
            },
      ),
      ...references.map((r): JumpHit => ({
        kind: 'receipt',
        title: r.reference,
        detail: `${r.number}, ${r.name}`,
        to: receipt(r.id, ''),
      })),
      ...amounts,
    ],
  }
}

async function byAmount(database: Sequelize, q: string, own: string, salesId: number): Promise<JumpHit[]> {
  const text = q.replace(/[ ,']/g, '')
  if (!/^\d+(\.\d{1,3})?$/.test(text)) return []
  const candidates = [
    ...new Set(
      ['EUR', 'JPY', 'KWD'].flatMap(c => {
        try {
          return [parseAmount(text, c)]
        } catch {
          return []
        }
      }),
    ),
  ]
  if (!candidates.length) return []
  const rows = await select<{
    id: number
    number: string
    kind: string
    amount: number
    currency: string
    customer: string
    name: string
  }>(
    database,
    `
    SELECT i.id, i.number, i.kind, i.amount, i.currency, c.number AS customer, c.name FROM item i
      JOIN customer c ON c.id = i.customer_id WHERE i.amount IN (:candidates) ${own} ORDER BY i.id DESC
      LIMIT 20`,
    { candidates, salesId },
  )
  return rows
    .filter(r => r.amount === Math.round(Number(text) * 10 ** minorDigits(r.currency)))
    .slice(0, 6)
    .map(r => ({
      kind: r.kind === 'receipt' || r.kind === 'advance' ? 'receipt' : 'document',
      title: `${r.number} for ${text} ${r.currency}`,
      detail: `${r.kind}, ${r.name}`,
      to:
        r.kind === 'receipt' || r.kind === 'advance'
          ? `/receipts/${r.id}`
          : `/accounts/${encodeURIComponent(r.customer)}?state=all&find=${encodeURIComponent(r.number)}`,
    }))
}

export async function readSettingsAnswer(database: Sequelize): Promise<SettingsAnswer> {
  const settings = await readSettings(database)
  const [chart, series, classes, currencies, countries] = await Promise.all([
    select<SettingsAnswer['chart'][number]>(
      database,
      'SELECT number, name, type, purpose FROM ledger_account ORDER BY number',
    ),
    select<SettingsAnswer['series'][number]>(database, 'SELECT name, prefix, next FROM series ORDER BY name'),
    select<{ code: string; name: string; keepOnItem: unknown }>(
      database,
      'SELECT code, name, keep_on_item AS keepOnItem FROM customer_class ORDER BY name',
    ),
    select<{ currency: string }>(database, 'SELECT DISTINCT currency FROM account_total ORDER BY currency'),
    select<{ country: string }>(database, 'SELECT DISTINCT country FROM customer ORDER BY country'),
  ])
  const { company, base, today, demo, closedUntil, bounds, buckets, overdueTarget, receiptPolicy, matching } =
    settings
  return {
    company,
    base,
    today,
    demo,
    closedUntil,
    bounds,
    buckets: buckets.map(b => ({ label: b.label })),
    overdueTarget,
    receiptPolicy,
    matching,
    chart,
    series,
    classes: classes.map(c => ({ ...c, keepOnItem: Boolean(c.keepOnItem) })),
    currencies: currencies.map(c => c.currency),
    countries: countries.map(c => c.country),
  }
}

export async function changeSettings(
  database: Sequelize,
  actor: Actor,
  body: {
    company?: string
    bounds?: number[]
    overdueTarget?: number
    receiptPolicy?: ReceiptPolicy
    matching?: { automatic: boolean; threshold: number }
    closedUntil?: string | null
  },
): Promise<SettingsAnswer> {
  const settings = await readSettings(database)
  if (body.bounds) {
    try {
      bucketsOf(body.bounds)
    } catch (error) {
      throw new ProblemError(422, 'Not bucket bounds', (error as Error).message, [
        { path: 'bounds', message: (error as Error).message },
      ])
    }
  }
  if (body.closedUntil && body.closedUntil >= settings.today)
    throw new ProblemError(
      422,
      'Not a period end',
      `the books are closed up to a day before today, ${settings.today}`,
      [{ path: 'closedUntil', message: 'a day before today' }],
    )
  if (body.closedUntil) {
    const [batch] = await select<{ name: string; date: string }>(
      database,
      `SELECT p.name, b.date FROM batch b JOIN person p ON p.id = b.person_id WHERE b.state = 'open'
        AND b.date <= :until ORDER BY b.date LIMIT 1`,
      { until: body.closedUntil },
    )
    if (batch)
      throw new ProblemError(
        409,
        'A batch is open',
        `the batch of ${batch.name} dated ${batch.date} is open: close or delete it, then the period can close`,
        [{ path: 'closedUntil', message: 'a batch is open' }],
      )
  }
  for (const [name, value] of Object.entries(body)) await writeSetting(database, actor.id, name, value)
  return readSettingsAnswer(database)
}

export async function changeClass(
  database: Sequelize,
  actor: Actor,
  code: string,
  body: { keepOnItem: boolean },
): Promise<SettingsAnswer> {
  const [row] = await select<{ keep: unknown }>(
    database,
    'SELECT keep_on_item AS `keep` FROM customer_class WHERE code = :code',
    { code },
  )
  if (!row) throw notFound(`customer class ${code}`)
  await database.query('UPDATE customer_class SET keep_on_item = :keep WHERE code = :code', {
    replacements: { code, keep: body.keepOnItem ? 1 : 0 },
  })
  await audit(database, actor.id, 'class', code, String(Boolean(row.keep)), String(body.keepOnItem))
  return readSettingsAnswer(database)
}

export async function advanceClock(
  database: Sequelize,
  actor: Actor,
): Promise<{ today: string; delivered: string[] }> {
  const settings = await readSettings(database)
  if (!settings.clock)
    throw new ProblemError(409, 'No Clock', "only the demo has a Clock: here the date is the calendar's")
  const today = addDays(settings.clock, 1)
  const [open] = await select<{ name: string; date: string }>(
    database,
    `SELECT p.name, b.date FROM batch b JOIN person p ON p.id = b.person_id WHERE b.state = 'open'
      AND b.date < :today ORDER BY b.id LIMIT 1`,
    { today },
  )
  if (open)
    throw new ProblemError(
      409,
      'A batch is open',
      `the batch of ${open.name} dated ${open.date} is open: close or delete it, then the day can close`,
    )
  await writeSetting(database, actor.id, 'clock', today)
  return { today, delivered: await deliverBank(database, settings.clock) }
}
