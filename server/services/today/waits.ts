import { z } from 'zod'
import { HOLD_CAUSES, type HoldCause } from '../../../core/exposure'
import { can } from '../../../core/people'
import { FIRST, inOrderOf, type DayFigures, type Waits } from '../../../core/today'
import type { TodayAnswer } from '../../../contract/today'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { inBaseToday, NoRate } from '../../ledger/rates'
import { setAside, waitingFiles } from '../banking/inbox'
import { readTray } from '../banking/slips'
import { scopeOf, type Actor } from '../people/scope'
import * as chasing from './chasing'
import { countReviews, countToRemind } from './kept'
import { ofSales, plural, type Ask, type Line, type Lines } from './line'
import * as payments from './payments'

const signOffRow = z.object({
  n: cell.sum,
})

async function signOff({ database, actor }: Ask): Lines {
  const [row] = await database.rows(
    signOffRow,
    `SELECT COUNT(*) AS n FROM waiting_command WHERE state = 'waiting' AND person_id <> :id`,
    { id: actor.id },
  )
  const count = int(row!.n)
  if (!count) return []
  return [
    {
      kind: 'sign-off',
      label: `${plural(count, 'request')} ${can(actor.role, 'signOff.sign') ? 'to sign' : 'not signed yet'}`,
      why: 'limits, bank details and releases that wait for a second person',
      count,
      amount: null,
      to: '/sign-off',
    },
  ]
}

async function reminders({ database, settings }: Ask): Lines {
  const { count, amount } = await countToRemind(database, settings)
  if (!count) return []
  return [
    {
      kind: 'reminders',
      label: `${plural(count, 'account')} to remind`,
      why: 'items have reached their next reminder level',
      count,
      amount,
      to: '/reminders',
    },
  ]
}

const reminderRunsRow = z.object({
  id: cell.whole,
  asOf: cell.text,
  n: cell.whole,
})

/** Runs that the schedule prepared, and that nobody confirmed yet. */
async function reminderRuns({ database }: Ask): Lines {
  const rows = await database.rows(
    reminderRunsRow,
    `SELECT r.id, r.as_of AS asOf, (SELECT COUNT(*) FROM run_notice n WHERE n.run_id = r.id) AS n
      FROM reminder_run r WHERE r.prepared <> '' AND r.state = 'proposed' ORDER BY r.id DESC LIMIT 1`,
  )
  return rows.map(({ id, asOf, n }) => ({
    kind: 'reminder-run' as const,
    label: `Reminder run of ${asOf} waits to be confirmed`,
    why: `prepared by itself: ${plural(Number(n), 'notice')} to look through`,
    count: Number(n),
    amount: null,
    to: `/reminders/${id}`,
  }))
}

async function cash({ figures }: Ask): Lines {
  const { count, amount } = (await figures).unallocated
  if (!count) return []
  return [
    {
      kind: 'cash',
      label: `${plural(count, 'receipt')} to allocate`,
      why: 'money lies on account and closes nothing',
      count,
      amount,
      to: '/receipts?state=unallocated',
    },
  ]
}

const heldRow = z.object({ cause: cell.text, count: cell.sum })

/** Accounts that are held, as it was kept last. */
async function held({ database, scope }: Ask): Lines {
  const values = { salesId: scope.salesId ?? 0 }
  const from = `FROM hold h JOIN customer c ON c.id = h.customer_id WHERE h.ended_at IS NULL ${ofSales(scope)}`
  const [causes, [whole]] = await Promise.all([
    database.rows(
      heldRow,
      `SELECT h.cause, COUNT(*) AS count ${from} GROUP BY h.cause ORDER BY count DESC, h.cause`,
      values,
    ),
    database.select(
      `SELECT COUNT(DISTINCT h.customer_id) AS count, (SELECT SUM(o.base_open) FROM open_item o WHERE
        o.customer_id IN (SELECT h.customer_id ${from})) AS amount ${from}`,
      values,
    ),
  ])
  const count = int(whole!.count)
  if (!count) return []
  return [
    {
      kind: 'held',
      label: `${plural(count, 'account')} held`,
      why: causes
        .map(c => `${HOLD_CAUSES[c.cause as HoldCause]?.toLowerCase() ?? c.cause} ${int(c.count)}`)
        .join(', '),
      count,
      amount: int(whole!.amount),
      to: '/exposure',
    },
  ]
}

const orderRow = z.object({ currency: cell.text, count: cell.sum, amount: cell.sum })

/** Orders of accounts that are held: nothing is shipped until somebody decides. */
async function orders({ database, settings, scope }: Ask): Lines {
  const rows = await database.rows(
    orderRow,
    `SELECT o.currency, COUNT(*) AS count, SUM(o.amount - GREATEST(o.delivered, o.invoiced)) AS amount
      FROM sales_order o JOIN customer c ON c.id = o.customer_id
      WHERE o.state = 'open' AND o.amount > GREATEST(o.delivered, o.invoiced) ${ofSales(scope)}
      AND EXISTS (SELECT 1 FROM hold h WHERE h.customer_id = o.customer_id AND h.ended_at IS NULL)
      GROUP BY o.currency`,
    { salesId: scope.salesId ?? 0 },
  )
  const count = rows.reduce((sum, r) => sum + int(r.count), 0)
  if (!count) return []
  return [
    {
      kind: 'orders',
      label: `${plural(count, 'order')} waiting on credit`,
      why: 'their accounts are held: to be paid, released or refused',
      count,
      amount: await sumInBase(database, settings, rows),
      to: '/exposure',
    },
  ]
}

/** Null when a rate is missing: no figure is better than a wrong one. */
async function sumInBase(
  database: Handle,
  settings: Settings,
  rows: readonly z.output<typeof orderRow>[],
): Promise<number | null> {
  const inBase = await inBaseToday(
    database,
    settings,
    rows.map(r => r.currency),
  )
  try {
    return rows.reduce((sum, r) => sum + inBase(int(r.amount), r.currency), 0)
  } catch (error) {
    if (error instanceof NoRate) return null
    throw error
  }
}

async function reviews({ database, settings }: Ask): Lines {
  const count = await countReviews(database, settings)
  if (!count) return []
  return [
    {
      kind: 'reviews',
      label: `${plural(count, 'account')} to review`,
      why: 'their day has come, a limit ends, or they pay much worse than their class',
      count,
      amount: null,
      to: '/review',
    },
  ]
}

const bankRow = z.object({
  count: cell.sum,
})

/** Files that were set aside, files that wait, lines that wait: the bank first. */
async function bank({ database, actor }: Ask): Lines {
  const mayTake = can(actor.role, 'receipts.post')
  const [[open], aside, files] = await Promise.all([
    database.rows(bankRow, `SELECT COUNT(*) AS count FROM bank_line WHERE state = 'open'`),
    setAside(database),
    mayTake ? waitingFiles(database) : [],
  ])
  const lines: Line<Waits>[] = aside.map(bad => ({
    kind: 'bank-fault',
    label: `${bad.name} was set aside`,
    why: bad.reason,
    count: 1,
    amount: null,
    to: '/banking',
  }))
  if (files.length)
    lines.push({
      kind: 'bank-files',
      label: `${plural(files.length, 'file')} from the bank`,
      why: `statements wait in the inbox, the newest ${files.at(-1)!.name}`,
      count: files.length,
      amount: null,
      to: '/banking',
    })
  const count = int(open!.count)
  if (count)
    lines.push({
      kind: 'bank',
      label: `${plural(count, 'bank line')} to work`,
      why: 'money that was seen at the bank and closes nothing yet',
      count,
      amount: null,
      to: '/banking',
    })
  return lines
}

async function batch({ database, actor }: Ask): Lines {
  const [open] = await database.find('batch', { open_of: actor.id }, { columns: ['id', 'date'] })
  if (!open) return []
  return [
    {
      kind: 'batch',
      label: 'Your batch is open',
      why: `dated ${open.date}; the day cannot close before it is`,
      count: 1,
      amount: null,
      to: `/receipts/batches/${open.id}`,
    },
  ]
}

async function tray({ database }: Ask): Lines {
  const { items } = await readTray(database, {})
  const [first] = items
  if (!first) return []
  return [
    {
      kind: 'tray',
      label: `${plural(items.length, 'item')} in the tray`,
      why: `cheques and cash since ${first.date}, not yet at the bank`,
      count: items.length,
      amount: null,
      to: '/banking/tray',
    },
  ]
}

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
const mailRow = z.object({ state: cell.text, count: cell.sum })

async function mail({ database }: Ask): Lines {
  const rows = await database.rows(
    mailRow,
    `SELECT state, COUNT(*) AS count FROM outbox WHERE state IN ('failed', 'print', 'waiting') GROUP BY state`,
  )
  return rows.map(({ state, count }) => {
    const told = MAIL[state]!
    return {
      kind: 'mail' as const,
      label: `${plural(int(count), told.what)} ${told.label}`,
      why: told.why,
      count: int(count),
      amount: null,
      to: `/outbox?state=${state}`,
    }
  })
}

/** Who finds out about which kinds: asked only when the role is told of one of them. */
const FINDERS: readonly { kinds: readonly Waits[]; find: (ask: Ask) => Lines }[] = [
  { kinds: ['sign-off'], find: signOff },
  { kinds: ['bank-fault', 'bank-files', 'bank'], find: bank },
  { kinds: ['batch'], find: batch },
  { kinds: ['tray'], find: tray },
  { kinds: ['cash'], find: cash },
  { kinds: ['orders'], find: orders },
  { kinds: ['held'], find: held },
  { kinds: ['reviews'], find: reviews },
  { kinds: ['reminder-run'], find: reminderRuns },
  { kinds: ['reminders'], find: reminders },
  { kinds: ['mail'], find: mail },
  { kinds: ['calls'], find: chasing.calls },
  { kinds: ['promises'], find: chasing.promises },
  { kinds: ['disputes'], find: chasing.disputes },
  { kinds: ['messages'], find: chasing.messages },
  { kinds: ['answers'], find: chasing.answers },
  { kinds: ['refunds'], find: payments.refunds },
  { kinds: ['cheques'], find: payments.cheques },
  { kinds: ['payment-files'], find: payments.paymentFiles },
  { kinds: ['collections'], find: payments.collections },
  { kinds: ['came-back'], find: payments.cameBack },
  { kinds: ['mandates'], find: payments.mandates },
  { kinds: ['factor-fault'], find: payments.factorFaults },
]

/** What waits for a person, in the order of its role, each with why and a way in. */
export async function whatWaits(
  database: Handle,
  settings: Settings,
  actor: Actor,
  figures: Promise<DayFigures>,
): Promise<TodayAnswer['todo']> {
  const { waits } = FIRST[actor.role]
  const ask = { database, settings, actor, scope: scopeOf(actor), figures }
  const found = await Promise.all(
    FINDERS.filter(f => f.kinds.some(kind => waits.includes(kind))).map(f => f.find(ask)),
  )
  return inOrderOf(waits, found.flat())
}
