import type { Sequelize } from 'sequelize'
import type { IsoDate } from '../../../core/calendar'
import { deliverUpTo, hasBank, type Deposit } from '../../../simulators/bank'
import { select } from '../../db/connection'
import { bankFolder } from './statements'

/**
 * Lets the simulated bank's day pass: it is told which slips were handed over, and leaves its statements in
 * the inbox.
 */
export async function deliverBank(database: Sequelize, day: IsoDate): Promise<string[]> {
  if (!hasBank(bankFolder())) return []
  const slips = await select<{
    id: number
    number: string
    currency: string
    total: number
    date: string
  }>(
    database,
    `
    SELECT s.id, s.number, s.currency, s.total - s.cash_kept AS total, s.date FROM slip s
      WHERE s.void_entry_id IS NULL AND s.date >= DATE_SUB(:day, INTERVAL 30 DAY) ORDER BY s.id`,
    { day },
  )
  const cheques = await select<{ slipId: number; reference: string; amount: number; receipt: string }>(
    database,
    `
    SELECT sm.slip_id AS slipId, m.reference, m.amount, i.number AS receipt FROM slip_means sm
      JOIN receipt_means m ON m.id = sm.means_id JOIN item i ON i.id = m.item_id
    WHERE m.means = 'cheque' AND sm.slip_id IN (:ids) AND NOT EXISTS (SELECT 1 FROM item r
      WHERE r.reverses_item_id = i.id)`,
    { ids: [0, ...slips.map(s => s.id)] },
  )
  return deliverUpTo(
    bankFolder(),
    day,
    slips.map((s): Deposit => ({
      number: s.number,
      currency: s.currency,
      total: Number(s.total),
      date: s.date,
      cheques: cheques.filter(c => c.slipId === s.id),
    })),
  )
}
