import { z } from 'zod'
import { cell } from '../../db/rows'
import { addDays, addMonths } from '../../../core/calendar'
import { sendBy } from '../../../core/collections'
import { int } from '../../db/connection'
import { waitingAnswers } from '../factoring/answers'
import { REFUND_GONE, REFUND_SETTLED, REFUND_WAITS } from '../refunds/refunds'
import { plural, type Ask, type Lines } from './line'

const refundsRow = z.object({
  count: cell.sum,
  amount: cell.sum,
})

/** Credits that customers want back, and refunds that wait for a file, cheque or card. */
export async function refunds({ database }: Ask): Lines {
  const [[kept], [waits]] = await Promise.all([
    database.rows(
      refundsRow,
      `SELECT COUNT(*) AS count, -SUM(o.base_open) AS amount FROM item i JOIN open_item o ON o.item_id = i.id
        WHERE i.rest_use = 'refund' AND o.open < 0`,
    ),
    database.rows(
      refundsRow,
      `SELECT COUNT(*) AS count, SUM(i.base_amount) AS amount FROM refund f JOIN item i ON i.id = f.item_id
        WHERE ${REFUND_WAITS}`,
    ),
  ])
  const [asked, made] = [int(kept!.count), int(waits!.count)]
  return [
    ...(made
      ? [
          {
            kind: 'refunds' as const,
            label: `${plural(made, 'refund')} to pay`,
            why: 'posted, and waiting for a file, a cheque or the card terminal',
            count: made,
            amount: int(waits!.amount ?? 0),
            to: '/refunds?part=refunds',
          },
        ]
      : []),
    ...(asked
      ? [
          {
            kind: 'refunds' as const,
            label: `${plural(asked, 'credit')} to refund`,
            why: 'customers want this money back',
            count: asked,
            amount: int(kept!.amount ?? 0),
            to: '/refunds',
          },
        ]
      : []),
  ]
}

const chequesRow = z.object({
  n: cell.sum,
  amount: cell.sum,
})

/** Cheques that nobody has cashed for too long. */
export async function cheques({ database, settings }: Ask): Lines {
  const [row] = await database.rows(
    chequesRow,
    `SELECT COUNT(*) AS n, SUM(i.base_amount) AS amount FROM refund_cheque q
      JOIN refund f ON f.item_id = q.refund_item_id JOIN item i ON i.id = f.item_id
      WHERE q.void_on IS NULL AND q.issued_on < :before AND NOT ${REFUND_SETTLED} AND NOT ${REFUND_GONE}`,
    { before: addDays(settings.today, -settings.paymentPolicy.chequeDays) },
  )
  const count = int(row!.n)
  if (!count) return []
  return [
    {
      kind: 'cheques',
      label: `${plural(count, 'cheque')} not cashed`,
      why: `written more than ${settings.paymentPolicy.chequeDays} days ago: ask, or void and write again`,
      count,
      amount: int(row!.amount ?? 0),
      to: '/refunds?part=cheques',
    },
  ]
}

const paymentFilesRow = z.object({
  kind: cell.text,
  state: cell.text,
  n: cell.sum,
  number: cell.text,
})

/** Files that were made and not given to the bank, and those that it refused. */
export async function paymentFiles({ database }: Ask): Lines {
  const rows = await database.rows(
    paymentFilesRow,
    `SELECT kind, state, COUNT(*) AS n, MAX(number) AS number FROM payment_file
      WHERE state = 'made' GROUP BY kind, state`,
  )
  return rows.map(({ kind, n, number }) => ({
    kind: 'payment-files' as const,
    label: `${plural(int(n), 'file')} of ${kind === 'debit' ? 'direct debits' : 'transfers'} to give to the bank`,
    why: `made and checked, the newest ${number}`,
    count: int(n),
    amount: null,
    to: kind === 'debit' ? '/collections/payments?part=files' : '/refunds?part=files',
  }))
}

const collectionsRow = z.object({
  id: cell.whole,
  day: cell.text,
  n: cell.sum,
  amount: cell.sum,
})

/** Collections that were announced: their files must reach the bank in time. */
export async function collections({ database, settings }: Ask): Lines {
  const rows = await database.rows(
    collectionsRow,
    `SELECT k.run_id AS id, k.collect_on AS day, COUNT(*) AS n, SUM(k.amount) AS amount FROM collection k
      WHERE k.state = 'announced' AND k.collect_on > :today GROUP BY k.run_id, k.collect_on ORDER BY k.collect_on`,
    { today: settings.today },
  )
  return rows.map(({ id, day, n, amount }) => ({
    kind: 'collections' as const,
    label: `${plural(int(n), 'direct debit')} to send by ${sendBy(day)}`,
    why: `announced to the customers, collected on ${day}`,
    count: int(n),
    amount: int(amount),
    to: `/collections/${id}`,
  }))
}

const cameBackRow = z.object({
  n: cell.sum,
  amount: cell.sum,
})

/** Direct debits that came back and nobody has worked. */
export async function cameBack({ database }: Ask): Lines {
  const [row] = await database.rows(
    cameBackRow,
    `SELECT COUNT(*) AS n, SUM(amount) AS amount FROM collection WHERE state IN ('returned', 'refused')
      AND back_done = ''`,
  )
  const count = int(row!.n)
  if (!count) return []
  return [
    {
      kind: 'came-back',
      label: `${plural(count, 'direct debit')} came back`,
      why: 'present again, chase, or stop the mandate',
      count,
      amount: int(row!.amount ?? 0),
      to: '/collections/payments',
    },
  ]
}

const SOON_MONTHS = 3

const mandatesRow = z.object({
  n: cell.sum,
})

/** Mandates that lapse within three months because nobody used them. */
export async function mandates({ database, settings }: Ask): Lines {
  const [row] = await database.rows(
    mandatesRow,
    `SELECT COUNT(*) AS n FROM mandate WHERE state IN ('active', 'suspended')
      AND DATE_ADD(COALESCE(last_used, signed_on), INTERVAL 36 MONTH) <= :soon`,
    { soon: addMonths(settings.today, SOON_MONTHS) },
  )
  const count = int(row!.n)
  if (!count) return []
  return [
    {
      kind: 'mandates',
      label: `${plural(count, 'mandate')} about to lapse`,
      why: 'not used for nearly 36 months: collect by it, or have a new one signed',
      count,
      amount: null,
      to: '/collections/mandates',
    },
  ]
}

/** Files of factors that cannot be taken in: what came after them waits too. */
export async function factorFaults({ database, actor }: Ask): Lines {
  const faults = (await waitingAnswers(database, actor)).filter(w => w.fault)
  const [first] = faults
  if (!first) return []
  return [
    {
      kind: 'factor-fault',
      label: `${plural(faults.length, 'file')} of factors cannot be taken in`,
      why: `${first.facility}, ${first.file}: ${first.fault}`,
      count: faults.length,
      amount: null,
      to: '/factoring',
    },
  ]
}
