import { z } from 'zod'
import { cell } from '../../db/rows'
import { dayNumber, type IsoDate } from '../../../core/calendar'
import {
  LEFT_OUT,
  advanceOn,
  commissionOf,
  proposeSchedule,
  type Candidate,
  type LeftOutRule,
} from '../../../core/factoring'
import type { OfferedRow } from '../../../contract/factoring'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { facilityByCode, inFacility } from './facilities'

/** With the number of the customer, for people and files. */
export type OpenInvoice = Candidate & { customerNumber: string }

const itemRow = z.object({
  itemId: cell.whole,
  number: cell.text,
  customerId: cell.whole,
  currency: cell.text,
  open: cell.sum,
  base: cell.sum,
  documentDate: cell.day,
  dueDate: cell.day,
})
const customerRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  country: cell.text,
  class: cell.text,
})
const wordsOnRow = z.object({
  id: cell.whole,
  word: cell.text,
})

/** Of items by their id: a word on each, where there is one. */
async function wordsOn(database: Handle, sql: string): Promise<Map<number, string>> {
  const rows = await database.rows(wordsOnRow, sql)
  return new Map(rows.map(r => [r.id, r.word]))
}

/**
 * Open invoices with all that decides whether a factor buys them; first those that are due last, which have
 * the longest to wait. There may be hundreds of thousands: what is said of a customer is read once, and what
 * is said of few items is not joined to all.
 */
export async function openInvoices(
  database: Handle,
  of: { currency: string } | { itemIds: readonly number[] },
): Promise<OpenInvoice[]> {
  const own =
    'currency' in of
      ? 'open_item o STRAIGHT_JOIN item i ON i.id = o.item_id WHERE o.currency = :currency'
      : 'item i LEFT JOIN open_item o ON o.item_id = i.id WHERE i.id IN (:itemIds)'
  const items = await database.rows(
    itemRow,
    `SELECT i.id AS itemId, i.number, i.customer_id AS customerId, i.currency, COALESCE(o.open, 0) AS open,
      COALESCE(o.base_open, 0) AS base, i.document_date AS documentDate,
      COALESCE(i.due_date, i.document_date) AS dueDate
      FROM ${own} AND i.kind = 'invoice'`,
    { ...of },
  )
  const customers = new Map(
    (
      await database.rows(
        customerRow,
        `SELECT id, number, name, country, class FROM customer ${'currency' in of ? '' : 'WHERE id IN (:ids)'}`,
        { ids: [0, ...new Set(items.map(i => i.customerId))] },
      )
    ).map(c => [c.id, c]),
  )
  const atFactor = await wordsOn(
    database,
    `SELECT t.item_id AS id, f.name AS word FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id
      JOIN factor_facility f ON f.id = s.facility_id WHERE t.live = 1`,
  )
  const disputed = await wordsOn(
    database,
    `SELECT t.item_id AS id, MAX(d.reason) AS word FROM dispute_item t JOIN dispute d ON d.id = t.dispute_id
      WHERE d.resolution = '' GROUP BY t.item_id`,
  )
  const collection = await wordsOn(
    database,
    `SELECT t.item_id AS id, MAX(k.number) AS word FROM collection_item t
      JOIN collection k ON k.id = t.collection_id WHERE k.state IN ('announced', 'sent') GROUP BY t.item_id`,
  )
  const byDue = items
    .map(item => ({ item, due: dayNumber(item.dueDate), id: item.itemId }))
    .sort((x, y) => y.due - x.due || x.id - y.id)
  return byDue.map(({ item: i }) => {
    const customer = customers.get(i.customerId)!
    // Field by field: to spread a row of the driver takes twenty times as long.
    return {
      itemId: i.itemId,
      number: i.number,
      customerId: i.customerId,
      currency: i.currency,
      documentDate: i.documentDate,
      dueDate: i.dueDate,
      open: int(i.open),
      base: int(i.base),
      customerNumber: customer.number,
      customer: customer.name,
      country: customer.country,
      class: customer.class,
      atFactor: atFactor.get(i.itemId) ?? '',
      disputed: disputed.get(i.itemId) ?? '',
      collection: collection.get(i.itemId) ?? '',
    }
  })
}

export const offered = (c: OpenInvoice): OfferedRow => ({
  itemId: c.itemId,
  number: c.number,
  customer: { number: c.customerNumber, name: c.customer },
  currency: c.currency,
  due: c.dueDate as IsoDate,
  open: c.open,
  base: c.base,
})

/** What may be offered to a factor in a currency, and why the rest is left out. */
export async function readProposal(
  database: Handle,
  q: { facility: string; currency: string; rule?: LeftOutRule; limit: number },
) {
  const { today, base } = await readSettings(database)
  const facility = await facilityByCode(database, q.facility)
  const candidates = await openInvoices(database, { currency: q.currency })
  const there = await inFacility(database, facility.id)
  const { chosen, leftOut } = proposeSchedule(facility, candidates, there, today, base)
  const total = chosen.reduce((sum, c) => sum + c.open, 0)
  const reasons = (Object.keys(LEFT_OUT) as LeftOutRule[]).flatMap(rule => {
    const own = leftOut.filter(l => l.rule === rule)
    if (!own.length) return []
    return [{ rule, count: own.length, base: own.reduce((sum, l) => sum + l.candidate.base, 0) }]
  })
  const shown = leftOut.filter(l => q.rule === undefined || l.rule === q.rule)
  return {
    base,
    chosen: chosen.slice(0, q.limit).map(offered),
    leftOut: shown
      .slice(0, q.limit)
      .map(({ candidate, rule, why }) => ({ ...offered(candidate), rule, why })),
    totals: {
      chosen: total,
      count: chosen.length,
      advance: advanceOn(facility, total),
      commission: chosen.reduce((sum, c) => sum + commissionOf(facility, c.open).net, 0),
    },
    reasons,
  }
}
