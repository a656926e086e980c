import { z } from 'zod'
import { cell } from '../../db/rows'
import { Op } from '../../db/where'
import type { caseBody, CaseSuggestion } from '../../../contract/allowance'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { findCustomer } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { casesOn } from './workOut'

const suggestedRow = z.object({
  customer: cell.text,
  name: cell.text,
  kind: z.enum(['dispute', 'insolvency', 'lawyer']),
  itemId: cell.whole.nullable(),
  item: cell.text.nullable(),
  text: cell.text,
  open: cell.sum,
})
/** So many are suggested, the largest first. */
const SUGGESTED = 20

/**
 * What may have to be judged by name: accounts with an agency or a lawyer, disputed claims, and what is left
 * of insolvent customers.
 */
const SUGGESTIONS = `
  SELECT c.id AS customerId, c.number AS customer, c.name, 'lawyer' AS kind, NULL AS itemId, NULL AS item,
    CONCAT('with ', h.agency) AS text, SUM(o.base_open) AS open
    FROM handover h JOIN customer c ON c.id = h.customer_id JOIN open_item o ON o.customer_id = c.id AND o.open > 0
    WHERE h.ended_on IS NULL GROUP BY c.id, h.agency
  UNION ALL SELECT c.id, c.number, c.name, 'dispute', i.id, i.number, d.text, o.base_open
    FROM dispute d JOIN dispute_item t ON t.dispute_id = d.id JOIN item i ON i.id = t.item_id
    JOIN open_item o ON o.item_id = i.id AND o.open > 0 JOIN customer c ON c.id = i.customer_id
    WHERE d.resolution = ''
  UNION ALL SELECT c.id, c.number, c.name, 'insolvency', NULL, NULL, MAX(w.text), MAX(o.open)
    FROM write_off w JOIN customer c ON c.id = w.customer_id
    JOIN (SELECT customer_id, SUM(base_open) AS open FROM open_item WHERE open > 0 GROUP BY customer_id) o
      ON o.customer_id = c.id
    WHERE w.reason = 'insolvency' AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = w.item_id)
    GROUP BY c.id`

/** Cases that run, and what is suggested beside them. */
export async function listCases(database: Handle) {
  const { base, today } = await readSettings(database)
  const [cases, suggested] = await Promise.all([
    casesOn(database, today),
    database.rows(
      suggestedRow,
      `SELECT s.* FROM (${SUGGESTIONS}) s WHERE NOT EXISTS (SELECT 1 FROM allowance_case k
        WHERE k.customer_id = s.customerId AND k.ended_on IS NULL
        AND (k.item_id IS NULL OR k.item_id = s.itemId)) ORDER BY s.open DESC LIMIT ${SUGGESTED}`,
    ),
  ])
  return {
    base,
    items: cases.map(({ id, customer, customerName, item, kind, rate, text, since, by }) => ({
      ...{ id, item, kind, rate, text, since, by },
      customer: { number: customer, name: customerName },
    })),
    suggestions: suggested.map((s): CaseSuggestion => ({
      customer: { number: s.customer, name: s.name },
      kind: s.kind,
      item: s.itemId === null ? null : { id: s.itemId, number: s.item! },
      text: s.text,
      open: int(s.open),
    })),
  }
}

type CaseBody = z.output<typeof caseBody>

const addCaseRow = z.object({
  item: cell.whole.nullable(),
})

/** Judges a customer, or one of its claims, by name from today on. */
export async function addCase(database: Handle, actor: Actor, body: CaseBody): Promise<{ id: number }> {
  const { id: customerId, number } = await findCustomer(database, body.customer, {})
  const itemId = body.itemId ?? null
  return database.transaction(async tx => {
    const { today } = await takeLocks(tx, { customers: [customerId] })
    if (itemId !== null) {
      const [item] = await tx.find(
        'open_item',
        { item_id: itemId, customer_id: customerId, open: { [Op.gt]: 0 } },
        { columns: ['item_id'] },
      )
      if (!item)
        throw new ProblemError(422, 'No such claim', `this is no open claim on ${number}`, [
          { path: 'itemId', message: 'not open, or of another account', satisfy: 'choose an open invoice' },
        ])
    }
    const [there] = await tx.rows(
      addCaseRow,
      `SELECT item_id AS item FROM allowance_case WHERE customer_id = :customerId AND ended_on IS NULL
        AND (item_id IS NULL OR :itemId IS NULL OR item_id = :itemId) LIMIT 1`,
      { customerId, itemId },
    )
    if (there)
      throw new ProblemError(409, 'Judged already', `${number} is judged by name already`, [
        { path: 'customer', message: 'a case runs', satisfy: 'end that case first' },
      ])
    const [caseId] = await tx.insert('allowance_case', [
      {
        customer_id: customerId,
        item_id: itemId,
        kind: body.kind,
        rate: body.rate,
        text: body.text,
        on_date: today,
        person_id: actor.id,
      },
    ])
    await audit(tx, actor.id, 'impairment.case', number, null, JSON.stringify(body))
    return { id: caseId! }
  })
}

/** Ends a case: its claims are in the matrix again from today on. */
export async function endCase(database: Handle, actor: Actor, caseId: number, reason: string): Promise<void> {
  await database.transaction(async tx => {
    const { today } = await takeLocks(tx, {})
    const [row] = await tx.find(
      'allowance_case',
      { id: caseId },
      { columns: { ended: 'ended_on' }, lock: true },
    )
    if (!row) throw notFound(`case ${caseId}`)
    if (row.ended !== null)
      throw new ProblemError(409, 'Ended', `this case ended on ${row.ended}`, [
        { path: 'id', message: 'ended before', satisfy: 'reload to see the cases as they are now' },
      ])
    await tx.update('allowance_case', { ended_on: today, ended_why: reason }, { id: caseId })
    await audit(tx, actor.id, 'impairment.caseEnd', String(caseId), null, reason)
  })
}
