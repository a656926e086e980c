import { z } from 'zod'
import { cell } from '../../db/rows'
import type { claimBody, InsolvencyClaim } from '../../../contract/impairment'
import { kindList } from '../../../core/ledger'
import { share } from '../../../core/money'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { sheetPdf } from '../../letters/sheet'
import { findCustomer } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import { debtClaimSheet, type DebtClaimed } from '../letters/paymentSheets'
import { addressee } from '../letters/send'
import type { Actor } from '../people/scope'
import { recovered } from './lists'

type Body = z.output<typeof claimBody>
const CLAIMS = kindList(k => k.receivable && k.side === 'debit')

interface Claimed extends DebtClaimed {
  base: number
}

const claimedOfRow = z.object({
  number: cell.text,
  currency: cell.text,
  date: cell.text,
  due: cell.text,
  amount: cell.sum,
  base: cell.sum,
})

/** All that an insolvent customer owes: what is open, and what was written off for it and is still lost. */
async function claimedOf(database: Handle, customerId: number): Promise<Claimed[]> {
  const rows = await database.rows(
    claimedOfRow,
    `SELECT x.number, x.date, x.due, x.currency, x.amount, x.base FROM (
      SELECT i.id, i.number, i.document_date AS date, COALESCE(i.due_date, i.document_date) AS due, i.currency,
        o.open AS amount, o.base_open AS base FROM open_item o JOIN item i ON i.id = o.item_id
        WHERE o.customer_id = :customerId AND o.open > 0 AND i.kind IN (${CLAIMS})
      UNION ALL SELECT d.id, d.number, d.document_date, COALESCE(d.due_date, d.document_date), i.currency,
        i.amount - ${recovered('amount')}, i.base_amount - ${recovered('base_amount')}
        FROM write_off w JOIN item i ON i.id = w.item_id JOIN item d ON d.id = w.of_item_id
        WHERE w.customer_id = :customerId AND w.reason = 'insolvency'
        AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id)) x
      WHERE x.amount > 0 ORDER BY x.currency, x.due, x.id`,
    { customerId },
  )
  return rows.map(r => ({ ...r, amount: int(r.amount), base: int(r.base) }))
}

/** Files the claim of all that a customer owes: kept as it was filed, with the list of its items. */
export async function fileClaim(database: Handle, actor: Actor, body: Body): Promise<{ id: number }> {
  const customer = await findCustomer(database, body.customer, {})
  const settings = await readSettings(database)
  if (body.openedOn > settings.today)
    throw new ProblemError(422, 'Not yet', `${body.openedOn} is after today`, [
      { path: 'openedOn', message: 'in the future', satisfy: `use ${settings.today} or earlier` },
    ])
  return database.transaction(async tx => {
    await takeLocks(tx, { customers: [customer.id] })
    const items = await claimedOf(tx, customer.id)
    if (!items.length)
      throw new ProblemError(409, 'Nothing to claim', `${customer.number} owes nothing`, [
        { path: 'customer', message: 'nothing is open or written off', satisfy: 'choose another' },
      ])
    const debtor = await addressee(tx, customer.id)
    const amount = items.reduce((sum, i) => sum + i.base, 0)
    const pdf = await sheetPdf([debtClaimSheet(settings, debtor, { ...body, items })])
    const [claimId] = await tx.insert('insolvency_claim', [
      {
        customer_id: customer.id,
        administrator: body.administrator,
        address: body.address,
        reference: body.reference,
        opened_on: body.openedOn,
        dividend: body.dividend,
        amount,
        pdf,
        on_date: settings.today,
        person_id: actor.id,
      },
    ])
    await audit(tx, actor.id, 'impairment.claim', customer.number, null, JSON.stringify(body))
    return { id: claimId! }
  })
}

const listClaimsRow = z.object({
  customerNumber: cell.text,
  customerName: cell.text,
  amount: cell.sum,
  recovered: cell.sum,
  id: cell.whole,
  date: cell.text,
  reference: cell.text,
  administrator: cell.text,
  dividend: cell.whole,
  by: cell.text,
  openedOn: cell.text,
})

/** Claims that were filed, the newest first: what is expected of each, and what came. */
export async function listClaims(database: Handle): Promise<{ items: InsolvencyClaim[]; base: string }> {
  const { base } = await readSettings(database)
  const rows = await database.rows(
    listClaimsRow,
    `SELECT k.id, c.number AS customerNumber, c.name AS customerName, k.administrator, k.reference,
      k.opened_on AS openedOn, k.dividend, k.amount, k.on_date AS date, p.name AS \`by\`,
      (SELECT COALESCE(SUM(q.base_amount), 0) FROM recovery r JOIN write_off w ON w.item_id = r.write_off_id
        JOIN item q ON q.id = r.item_id WHERE w.customer_id = k.customer_id AND w.reason = 'insolvency'
        AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = q.id)) AS recovered
      FROM insolvency_claim k JOIN customer c ON c.id = k.customer_id JOIN person p ON p.id = k.person_id
      ORDER BY k.id DESC LIMIT 200`,
  )
  return {
    base,
    items: rows.map(({ customerNumber, customerName, ...r }) => {
      const amount = int(r.amount)
      return {
        ...r,
        customer: { number: customerNumber, name: customerName },
        amount,
        expected: share(amount, r.dividend, 10_000),
        recovered: int(r.recovered),
      }
    }),
  }
}

const claimPdfRow = z.object({
  number: cell.text,
  pdf: z.instanceof(Buffer),
})

/** A claim as it was filed. */
export async function claimPdf(database: Handle, claimId: number): Promise<{ number: string; pdf: Buffer }> {
  const [row] = await database.rows(
    claimPdfRow,
    `SELECT c.number, k.pdf FROM insolvency_claim k JOIN customer c ON c.id = k.customer_id
      WHERE k.id = :claimId`,
    { claimId },
  )
  if (!row) throw notFound(`claim ${claimId}`)
  return row
}
