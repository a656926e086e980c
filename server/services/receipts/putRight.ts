import type { Sequelize, Transaction } from 'sequelize'
import type { z } from 'zod'
import { putRight, type PutRightIntent } from '../../../core/receipts'
import { type LedgerState, type Means, type Posting } from '../../../core/ledger'
import { can } from '../../../core/people'
import type { Posted, Proof, putRightBody } from '../../../contract/receipts'
import { select } from '../../db/connection'
import { audit } from '../../db/settings'
import { LedgerRefused, throughDoor } from '../../ledger/door'
import { loadLines, type Wanted } from '../../ledger/load'
import { markMet } from '../banking/met'
import { ProblemError } from '../common/problems'
import { rateOn } from '../rates/rates'
import { proofOf } from './receipts'
import { findCustomer, type Actor, type Customer } from '../people/scope'

type Body = z.output<typeof putRightBody>
interface OldMeans {
  id: number
  means: Means
  amount: number
  reference: string
  account: string
  slip: string | null
  settled: number
}

async function prepare(
  database: Sequelize,
  actor: Actor,
  itemId: number,
  body: Body,
): Promise<{
  wanted: Wanted
  customer: Customer
  decide: (state: LedgerState, tx?: Transaction) => Promise<ReturnType<typeof putRight>>
  means: OldMeans[]
}> {
  const [old] = await select<{
    customer: string
    currency: string
    date: string
    amount: number
    text: string
    number: string
  }>(
    database,
    `SELECT c.number AS customer, i.currency, i.document_date AS date, i.amount, i.text, i.number FROM item i
      JOIN customer c ON c.id = i.customer_id WHERE i.id = :itemId AND i.kind = 'receipt'`,
    { itemId },
  )
  if (!old) throw new ProblemError(404, 'Not found', `there is no receipt ${itemId}`)
  const means = await select<OldMeans>(
    database,
    `SELECT m.id, m.means, m.amount, m.reference, m.account, (SELECT s.number FROM slip_means sm
    JOIN slip s ON s.id = sm.slip_id WHERE sm.means_id = m.id AND s.void_entry_id IS NULL) AS slip,
    (EXISTS (SELECT 1 FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id WHERE ((t.kind = 'means'
      AND t.ref_id = m.id) OR (t.kind = 'receipt' AND t.ref_id = m.item_id))
      AND b.undone_entry_id IS NULL)) AS settled FROM receipt_means m WHERE m.item_id = :itemId ORDER BY m.id`,
    { itemId },
  )
  const from = await findCustomer(database, old.customer, {})
  const customer = body.customer ? await findCustomer(database, body.customer, {}) : from
  const moved = customer.id !== from.id
  if (body.means && body.means.length !== means.length)
    throw new ProblemError(
      422,
      'Means',
      `the receipt has ${means.length} payment means: say what each should be`,
      [{ path: 'means', message: `${means.length} of them` }],
    )
  const right = means.map((m, i) => ({
    means: m.means,
    account: m.account,
    amount: body.means?.[i]?.amount ?? m.amount,
    reference: body.means?.[i]?.reference ?? m.reference,
  }))
  right.forEach((m, i) => {
    const was = means[i]!
    if (m.amount !== was.amount && (was.slip || was.settled))
      throw new ProblemError(
        409,
        'The bank has it',
        was.slip
          ? `this ${was.means} went to the bank on slip ${was.slip}: void the slip before its amount is changed`
          : 'the bank confirmed this amount: unmatch the bank line instead',
        [{ path: `means.${i}.amount`, message: 'confirmed' }],
      )
  })
  if (body.date && body.date !== old.date && means.some(m => m.settled))
    throw new ProblemError(
      409,
      'The bank has it',
      'the bank confirmed the day of this payment: unmatch the bank line instead',
      [{ path: 'date', message: 'confirmed' }],
    )
  const date = body.date ?? old.date
  if (
    !moved &&
    date === old.date &&
    right.every((m, i) => m.amount === means[i]!.amount && m.reference === means[i]!.reference)
  )
    throw new ProblemError(
      422,
      'Nothing to put right',
      'customer, date, reference and amount are as they were',
      [{ path: 'customer', message: 'change something' }],
    )
  return {
    customer: from,
    means,
    wanted: { customerIds: [...new Set([from.id, customer.id])], linksOf: [itemId] },
    decide: async (state, tx) => {
      const rate = await rateOn(database, state.base, old.currency, date, tx)
      if (rate === undefined)
        throw new ProblemError(422, 'No exchange rate', `there is no rate for ${old.currency} on ${date}`)
      const amount = right.reduce((a, m) => a + m.amount, 0)
      const allocations = moved ? [] : linksToKeep(state, itemId, amount)
      const assigned = allocations.reduce((a, x) => a + (x.paid ?? x.amount), 0)
      const wanted: PutRightIntent = {
        itemId,
        reason: body.reason,
        lines: await loadLines(database, itemId, tx),
        date: backOn(state, old.date, itemId, date),
        // What was granted once is granted again; a late discount needs the same authority.
        receipt: {
          customerId: customer.id,
          currency: old.currency,
          date: state.closedUntil && date <= state.closedUntil ? state.today : date,
          paidOn: date,
          text: old.text,
          means: right,
          allocations,
          onAccount: amount - assigned,
          rate,
          lateDiscount: date === old.date || can(actor.role, 'discount.authorise'),
        },
      }
      return putRight(state, wanted)
    },
  }
}

/**
 * The day the wrong receipt goes back: its own or that of its youngest link, the right one's when that is
 * later, today when the period is closed.
 */
function backOn(state: LedgerState, old: string, itemId: number, date: string): string {
  const links = [...state.allocations.values()].filter(
    a => !a.undone && a.undoesId === null && a.creditItemId === itemId,
  )
  const day = [old, date, ...links.map(a => a.effective)].reduce((a, b) => (b > a ? b : a))
  return state.closedUntil && day <= state.closedUntil ? state.today : day
}

/**
 * The links of a receipt as allocations again, with what was born with them; a smaller amount keeps the
 * oldest.
 */
function linksToKeep(state: LedgerState, itemId: number, amount: number) {
  let left = amount
  const live = [...state.allocations.values()].filter(a => !a.undone && a.undoesId === null)
  return live
    .filter(a => a.creditItemId === itemId)
    .sort((a, b) => a.id - b.id)
    .flatMap(link => {
      const conversion =
        state.items.get(link.debitItemId)?.kind === 'conversion'
          ? live.find(a => state.items.get(a.creditItemId)?.bornOfItemId === link.debitItemId)
          : undefined
      const target = conversion?.debitItemId ?? link.debitItemId
      const bornOn = (kind: string) =>
        live
          .filter(a => {
            const c = state.items.get(a.creditItemId)
            return c?.kind === kind && c.bornOfItemId === itemId && a.debitItemId === target
          })
          .reduce((s, a) => s + a.amount, 0)
      if (link.amount > left) {
        const part = left
        left = 0
        return part > 0 && !conversion ? [{ itemId: target, amount: part, discount: 0, difference: 0 }] : []
      }
      left -= link.amount
      return [
        {
          itemId: target,
          amount: conversion?.amount ?? link.amount,
          discount: bornOn('discount'),
          difference: bornOn('difference'),
          ...(conversion ? { paid: link.amount } : {}),
        },
      ]
    })
}

export async function previewPutRight(
  database: Sequelize,
  actor: Actor,
  itemId: number,
  body: Body,
): Promise<Proof> {
  const work = await prepare(database, actor, itemId, body)
  return proofOf(database, {
    ...work,
    decide: async (state, tx) => {
      const done = await work.decide(state, tx)
      return done.ok ? { ok: true, posting: together(done.postings) } : done
    },
  })
}

/** For the Proof: both entries in one view. Keys of the second are set apart. */
function together(postings: readonly Posting[]): Posting {
  const [a, b] = postings
  if (!b) return a!
  const shift = (id: number) => (id < 0 ? id - 10_000 : id)
  return {
    ...a!,
    items: [
      ...a!.items,
      ...b.items.map(i => ({
        ...i,
        id: shift(i.id),
        bornOfItemId: i.bornOfItemId === null ? null : shift(i.bornOfItemId),
      })),
    ],
    allocations: [
      ...a!.allocations,
      ...b.allocations.map(x => ({
        ...x,
        id: shift(x.id),
        debitItemId: shift(x.debitItemId),
        creditItemId: shift(x.creditItemId),
      })),
    ],
    lines: [
      ...a!.lines,
      ...b.lines.map(l => ({
        ...l,
        item: l.item === null ? null : shift(l.item),
        allocation: l.allocation === null ? null : shift(l.allocation),
      })),
    ],
  }
}

export async function putReceiptRight(
  database: Sequelize,
  actor: Actor,
  itemId: number,
  body: Body,
  idempotency?: { key: string; request: unknown },
): Promise<Posted> {
  const { wanted } = await prepare(database, actor, itemId, body)
  return throughDoor(database, { ...wanted, personId: actor.id, idempotency }, async door => {
    const work = await prepare(database, actor, itemId, body)
    const done = await work.decide(door.state, door.tx)
    if (!done.ok) throw new LedgerRefused(done.refusals)
    const written = await door.write(done.postings)
    const all = done.postings.flatMap((p, i) =>
      p.items.map((item, n) => ({ item, row: written[i]!.items[n]! })),
    )
    const receipt = all.find(x => x.item.kind === 'receipt')!.row
    // Slip and bank line follow the money to the receipt it now belongs to.
    const fresh = await select<{ id: number }>(
      database,
      'SELECT id FROM receipt_means WHERE item_id = :id ORDER BY id',
      { id: receipt.id },
      door.tx,
    )
    for (const [i, m] of work.means.entries()) {
      await database.query('UPDATE slip_means SET means_id = :fresh WHERE means_id = :old', {
        replacements: { old: m.id, fresh: fresh[i]!.id },
        transaction: door.tx,
      })
      await database.query(
        `UPDATE bank_match_target SET ref_id = :fresh WHERE kind = 'means' AND ref_id = :old`,
        { replacements: { old: m.id, fresh: fresh[i]!.id }, transaction: door.tx },
      )
    }
    await markMet(database, [...work.means.map(m => m.id), ...fresh.map(m => m.id)], door.tx)
    await database.query(
      `UPDATE bank_match_target SET ref_id = :fresh WHERE kind = 'receipt' AND ref_id = :old`,
      { replacements: { old: itemId, fresh: receipt.id }, transaction: door.tx },
    )
    await database
      .getQueryInterface()
      .bulkInsert('put_right', [{ old_item_id: itemId, new_item_id: receipt.id, person_id: actor.id }], {
        transaction: door.tx,
      })
    await audit(
      database,
      actor.id,
      'receipt',
      String(itemId),
      'put right',
      `${receipt.number}: ${body.reason}`,
      door.tx,
    )
    return { entry: written[0]!.entryNumber, receipt, allocations: written.flatMap(w => w.allocations) }
  })
}
