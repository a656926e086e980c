import { z } from 'zod'
import { inForceOn, insuredOn, limitOf, type Limit } from '../../../core/accounts'
import { addDays, type IsoDate } from '../../../core/calendar'
import { exposureOf, orderParts, type Exposure, type HoldFacts } from '../../../core/exposure'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { inBaseToday, NoRate } from '../../ledger/rates'
import { ACCOUNT_OF } from '../accounts/customers'
import { WITH_CLASS } from '../accounts/inherited'
import { notFinalSince } from '../collections/lists'
import { NOT_FINAL_RECEIPTS } from './notFinal'

/** How an account stands today: its exposure, its limit, and what the rules of holding look at. */
export interface AccountStanding {
  customerId: number
  exposure: Exposure
  /** In force today, base currency; null without a limit. */
  limit: number | null
  /** The limit as it stands, with its dates. */
  terms: Limit
  facts: HoldFacts
}

/** Of some customers, or of all. */
export type Of = readonly number[] | null

const onlyOf = (of: Of, column: string) => (of === null ? '1 = 1' : `${column} IN (:ids)`)

const openRow = z.object({
  customerId: cell.whole,
  receivables: cell.sum,
  onAccount: cell.sum,
  longOverdue: cell.sum,
})

/** What is open of each account: debits, credits, and debits overdue for longer than the rule allows. */
function openSums(db: Handle, of: Of, values: Values) {
  return db.rows(
    openRow,
    `SELECT customer_id AS customerId, SUM(GREATEST(base_open, 0)) AS receivables,
      SUM(LEAST(base_open, 0)) AS onAccount,
      SUM(IF(base_open > 0 AND due_date < :longAgo, base_open, 0)) AS longOverdue
      FROM open_item WHERE ${onlyOf(of, 'customer_id')} GROUP BY customer_id`,
    values,
  )
}

const orderRow = z.object({
  customerId: cell.whole,
  currency: cell.text,
  state: cell.text,
  amount: cell.whole,
  delivered: cell.whole,
  invoiced: cell.whole,
})

/** Orders that may still add to exposure. */
function ordersOf(db: Handle, of: Of, values: Values) {
  return db.rows(
    orderRow,
    `SELECT customer_id AS customerId, currency, state, amount, delivered, invoiced FROM sales_order
      WHERE (state = 'open' OR delivered > invoiced) AND ${onlyOf(of, 'customer_id')}`,
    values,
  )
}

const notFinalRow = z.object({ customerId: cell.whole, amount: cell.sum })

/** What was received and may still come back. */
function notFinalOf(db: Handle, of: Of, values: Values, today: IsoDate) {
  return db.rows(
    notFinalRow,
    `SELECT x.customerId, SUM(x.amount) AS amount FROM (${NOT_FINAL_RECEIPTS}) x
      WHERE ${onlyOf(of, 'x.customerId')} GROUP BY x.customerId`,
    { ...values, ...notFinalSince(today) },
  )
}

const limitRow = z.object({
  customerId: cell.whole,
  own: cell.whole.nullable(),
  ofClass: cell.whole.nullable(),
  currency: cell.text,
  from: cell.day.nullable(),
  until: cell.day.nullable(),
  insured: cell.whole.nullable(),
  insuredUntil: cell.day.nullable(),
})

function limitsOf(db: Handle, of: Of, values: Values) {
  return db.rows(
    limitRow,
    `SELECT c.id AS customerId, c.credit_limit AS own, k.credit_limit AS ofClass, c.limit_currency AS currency,
      c.limit_from AS \`from\`, c.limit_until AS until, c.insured_limit AS insured,
      c.insured_until AS insuredUntil FROM customer c ${WITH_CLASS}
      WHERE c.merged_into IS NULL AND ${onlyOf(of, 'c.id')}`,
    values,
  )
}

const promiseRow = z.object({ customerId: cell.whole, currency: cell.text, amount: cell.sum })

/** Promised within the days of the rule, and missed; what came late since is told by what is still open. */
function brokenOf(db: Handle, of: Of, values: Values, days: number | null) {
  if (days === null) return []
  return db.rows(
    promiseRow,
    `SELECT m.customer_id AS customerId, m.currency, SUM(p.amount - p.paid) AS amount FROM promise m
      JOIN promise_part p ON p.promise_id = m.id WHERE m.withdrawn_on IS NULL AND p.state IN ('broken', 'partly')
      AND p.until >= :brokenSince AND ${onlyOf(of, 'm.customer_id')} GROUP BY m.customer_id, m.currency`,
    values,
  )
}

const levelRow = z.object({ customerId: cell.whole, level: cell.whole, holds: cell.flag })

/** The highest reminder level of what is open. */
function levelsOf(db: Handle, of: Of, values: Values) {
  return db.rows(
    levelRow,
    `SELECT n.customer_id AS customerId, MAX(ni.level) AS level,
      MAX(n.holds = 1 AND ni.level = n.level) AS holds FROM live_notice n
      JOIN notice_item ni ON ni.notice_id = n.id JOIN open_item o ON o.item_id = ni.item_id
      WHERE ${onlyOf(of, 'n.customer_id')} GROUP BY n.customer_id`,
    values,
  )
}

/** Of each database the addends as they were last, and what they follow from. */
const kept = new WeakMap<object, { state: string; sums: ReadonlyMap<number, number> }>()

const addendsOfRow = z.object({
  entry: cell.sum,
  matched: cell.sum,
  slip: cell.sum,
  orders: cell.sum,
  changed: cell.instant.nullable(),
  merged: cell.sum,
})

/**
 * What adds to the exposure of accounts beside what is open, base currency: delivered, ordered, not final.
 * Amounts that lack a rate are left out. Read again when anything was posted, matched or ordered since.
 */
export async function addendsOf(db: Handle, settings: Settings): Promise<ReadonlyMap<number, number>> {
  const [row] = await db.rows(
    addendsOfRow,
    `SELECT (SELECT MAX(id) FROM entry) AS entry, (SELECT MAX(id) FROM bank_match) AS matched,
      (SELECT MAX(id) FROM slip) AS slip, (SELECT COUNT(*) FROM sales_order) AS orders,
      (SELECT MAX(at) FROM sales_order) AS changed, (SELECT COUNT(*) FROM customer_merge) AS merged`,
  )
  const state = JSON.stringify([row, settings.today, settings.base])
  const known = kept.get(db.sequelize)
  if (known?.state === state) return known.sums
  const sums = await readAddends(db, settings)
  kept.set(db.sequelize, { state, sums })
  return sums
}

async function readAddends(db: Handle, settings: Settings): Promise<Map<number, number>> {
  const [orders, notFinal] = await Promise.all([
    ordersOf(db, null, {}),
    notFinalOf(db, null, {}, settings.today),
  ])
  const inBase = await inBaseToday(
    db,
    settings,
    orders.map(o => o.currency),
  )
  const sums = new Map<number, number>()
  const add = (customerId: number, amount: number) =>
    sums.set(customerId, (sums.get(customerId) ?? 0) + amount)
  for (const { customerId, amount } of notFinal) add(customerId, int(amount))
  for (const order of orders) {
    const parts = orderParts(order)
    try {
      add(order.customerId, inBase(parts.delivered + parts.orders, order.currency))
    } catch (error) {
      if (!(error instanceof NoRate)) throw error
    }
  }
  return sums
}

const byCustomer = <T extends { customerId: number }>(rows: readonly T[]): Map<number, T> =>
  new Map(rows.map(r => [r.customerId, r]))

/**
 * How accounts stand today. Throws NoRate when an amount of one that was asked for cannot be told in base
 * currency; of all accounts such a one is left out.
 */
export async function standingsOf(
  db: Handle,
  settings: Settings,
  of: Of,
): Promise<Map<number, AccountStanding>> {
  if (of !== null && !of.length) return new Map()
  const { base, today, holdRules } = settings
  const values: Values = {
    ids: of ?? [],
    longAgo: addDays(today, -(holdRules.overdueDays ?? 0)),
    brokenSince: addDays(today, -(holdRules.brokenPromiseDays ?? 0)),
  }
  const [open, orders, notFinal, limits, levels, broken] = await Promise.all([
    openSums(db, of, values),
    ordersOf(db, of, values),
    notFinalOf(db, of, values, settings.today),
    limitsOf(db, of, values),
    levelsOf(db, of, values),
    brokenOf(db, of, values, holdRules.brokenPromiseDays),
  ])
  const inBase = await inBaseToday(db, settings, [
    ...orders.map(o => o.currency),
    ...broken.map(b => b.currency),
    ...limits.flatMap(l => (l.currency ? [l.currency] : [])),
  ])
  const opens = byCustomer(open)
  const notFinalBy = byCustomer(notFinal)
  const levelOf = byCustomer(levels)
  const ordersOfCustomer = new Map<number, (typeof orders)[number][]>()
  for (const order of orders)
    ordersOfCustomer.set(order.customerId, [...(ordersOfCustomer.get(order.customerId) ?? []), order])
  const orderedBy = (customerId: number) => {
    const sum = { delivered: 0, orders: 0 }
    for (const order of ordersOfCustomer.get(customerId) ?? []) {
      const parts = orderParts(order)
      sum.delivered += inBase(parts.delivered, order.currency)
      sum.orders += inBase(parts.orders, order.currency)
    }
    return sum
  }
  const brokenBy = (customerId: number): number =>
    broken
      .filter(b => b.customerId === customerId)
      .reduce((sum, b) => sum + inBase(int(b.amount), b.currency), 0)
  const standings = new Map<number, AccountStanding>()
  const standingOf = ({ customerId, own, ofClass, ...l }: (typeof limits)[number]): AccountStanding => {
    const terms: Limit = { ...l, ...limitOf({ own, ofClass, currency: l.currency }, base) }
    const { currency } = terms
    const isInForce = inForceOn(terms, today)
    const limit = terms.amount !== null && isInForce ? inBase(terms.amount, currency) : null
    const insured = inBase(insuredOn(terms, today), currency)
    const sums = opens.get(customerId)
    const parts = {
      receivables: int(sums?.receivables),
      onAccount: int(sums?.onAccount),
      ...orderedBy(customerId),
      notFinal: int(notFinalBy.get(customerId)?.amount),
    }
    const exposure = exposureOf(parts, insured)
    return {
      customerId,
      exposure,
      limit,
      terms,
      facts: {
        exposure: exposure.total,
        unsecured: exposure.total - exposure.parts.secured,
        limit,
        isLimitExpired: terms.amount !== null && !isInForce,
        insured,
        longOverdue: int(sums?.longOverdue),
        level: levelOf.get(customerId)?.level ?? 0,
        noticeHolds: levelOf.get(customerId)?.holds === 1,
        brokenPromises: Math.min(brokenBy(customerId), parts.receivables),
      },
    }
  }
  for (const row of limits) {
    try {
      standings.set(row.customerId, standingOf(row))
    } catch (error) {
      // Of all accounts, one that lacks a rate is left out; whoever asks for it by itself is told why.
      if (of !== null || !(error instanceof NoRate)) throw error
    }
  }
  return standings
}

/**
 * The group that the account of a number belongs to, itself among them (`own`); the head first. Nothing when
 * there is no such account.
 */
export async function groupOf(db: Handle, number: string): Promise<GroupMember[]> {
  const head = `(SELECT COALESCE(c.head_id, c.id) FROM customer c WHERE c.id = ${ACCOUNT_OF})`
  const told = `id, number, name, closed_on AS closedOn, sales_id AS salesId, id = ${ACCOUNT_OF} AS own`
  return db.rows(
    groupMemberRow,
    `SELECT ${told} FROM customer WHERE id = ${head}
      UNION ALL SELECT ${told} FROM customer WHERE head_id = ${head} AND merged_into IS NULL`,
    { number },
  )
}

/** An account of a group. */
const groupMemberRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  closedOn: cell.text.nullable(),
  salesId: cell.whole.nullable(),
  /** Whether it is the account itself. */
  own: cell.whole,
})
export type GroupMember = z.output<typeof groupMemberRow>
