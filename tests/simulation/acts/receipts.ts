import type { Handle } from '../../../server/db/handle'
import {
  allocateCommand,
  receiveCommand,
  reverseCommand,
  unallocateCommand,
} from '../../../server/services/receipts/commands'
import { putRightCommand } from '../../../server/services/receipts/putRight'
import type { Model, ModelItem } from '../model'
import { CUSTOMERS, type Act, type World, ordered, pick, day, anyone, openItems, amountOf } from './world'

export function receive(w: World): Act | null {
  const customer = w.chance.pick(CUSTOMERS)
  const due = openItems(w, 'debit', customer)
  const first = pick(w, due)
  const currency = first?.currency ?? 'EUR'
  const chosen = [...new Set([first, pick(w, due), pick(w, due)])].filter(
    (i): i is ModelItem => i !== undefined && i.currency === currency,
  )
  const allocations = chosen.map(i => ({ itemId: i.id, amount: amountOf(w, i.open), difference: 0 }))
  // A few cents short, written off.
  const last = allocations[0]
  const lastOpen = chosen[0]?.open ?? 0
  if (last && lastOpen > 300 && w.chance.happens(0.15)) {
    last.difference = w.chance.whole(1, 90)
    last.amount = lastOpen - last.difference
  }
  const onAccount = w.chance.happens(0.4) || !allocations.length ? w.chance.whole(1, 50_000) : 0
  const sum = allocations.reduce((a, x) => a + x.amount, 0) + onAccount
  const split = w.chance.happens(0.2) && sum > 2 ? w.chance.whole(1, sum - 1) : 0
  const kind = () => w.chance.pick(['cheque', 'cash', 'transfer', 'cheque'] as const)
  const means = [sum - split, split]
    .filter(amount => amount > 0)
    .map(amount => ({ means: kind(), amount, reference: String(w.chance.whole(1, 999_999)) }))
  const ask = { customer, currency, date: day(w), means, allocations, onAccount }
  const actor = anyone(w)
  return {
    told: `receive ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, written } = await ordered(w, db, actor, receiveCommand, ask)
      const { id } = written[0]!.items[0]!
      const ids = await meansIds(db, id)
      return {
        order,
        apply: m =>
          received(m, id, customer, currency, sum, ask.date, means, ids, () => {
            allocations.forEach((a, i) =>
              m.link(written[0]!.allocations[i]!, id, a.itemId, a.amount, a.difference),
            )
          }),
      }
    },
  }
}

export const meansIds = async (db: Handle, itemId: number) =>
  (
    await db.select<{ id: number }>('SELECT id FROM receipt_means WHERE item_id = :itemId ORDER BY id', {
      itemId,
    })
  ).map(m => m.id)

export function received(
  m: Model,
  id: number,
  customer: string,
  currency: string,
  amount: number,
  date: string,
  means: readonly { means: string; amount: number }[],
  ids: readonly number[],
  allocate: () => void,
): void {
  m.items.set(id, {
    id,
    customer,
    currency,
    side: 'credit',
    amount,
    open: amount,
    kind: 'receipt',
    date,
    reversed: false,
  })
  means.forEach((x, i) =>
    m.means.set(ids[i]!, {
      id: ids[i]!,
      owner: id,
      means: x.means,
      currency,
      amount: x.amount,
      place: x.means === 'transfer' || x.means === 'card' ? 'clearing' : 'tray',
      slip: null,
    }),
  )
  allocate()
}

export function allocate(w: World): Act | null {
  const customer = w.chance.pick(CUSTOMERS)
  const credit = pick(w, openItems(w, 'credit', customer))
  const debit = credit && pick(w, openItems(w, 'debit', customer, credit.currency))
  if (!credit || !debit) return null
  const amount = amountOf(w, Math.min(credit.open, debit.open))
  const ask = {
    customer,
    date: day(w),
    pairs: [{ debitItemId: debit.id, creditItemId: credit.id, amount }],
  }
  const actor = anyone(w)
  return {
    told: `allocate ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, written } = await ordered(w, db, actor, allocateCommand, ask)
      return { order, apply: m => m.link(written[0]!.allocations[0]!, credit.id, debit.id, amount, 0) }
    },
  }
}

export function unallocate(w: World): Act | null {
  const links = [...w.model.links.values()].filter(l => l.live || w.chance.happens(0.03))
  const link = pick(w, links)
  if (!link) return null
  const { customer } = w.model.items.get(link.credit)!
  const ask = { customer, date: day(w), allocationIds: [link.id], reason: 'wrong' }
  const actor = anyone(w)
  return {
    told: `unallocate ${JSON.stringify(ask)}`,
    run: async db => {
      const { order } = await ordered(w, db, actor, unallocateCommand, ask)
      return { order, apply: m => m.unlink(link.id) }
    },
  }
}

export const receipts = (w: World) =>
  [...w.model.items.values()].filter(i => i.kind === 'receipt' && (!i.reversed || w.chance.happens(0.03)))

export function reverse(w: World): Act | null {
  const receipt = pick(w, receipts(w))
  if (!receipt) return null
  const ask = { itemId: receipt.id, date: day(w), reason: 'returned' }
  const actor = anyone(w)
  return {
    told: `reverse ${JSON.stringify(ask)}`,
    run: async db => {
      const { order } = await ordered(w, db, actor, reverseCommand, ask)
      return { order, apply: m => m.reverse(receipt.id) }
    },
  }
}

export function putRight(w: World): Act | null {
  const receipt = pick(w, receipts(w))
  if (!receipt) return null
  const customer = w.chance.happens(0.6) ? w.chance.pick(CUSTOMERS) : receipt.customer
  const date = w.chance.happens(0.4) ? day(w) : undefined
  const ask = { itemId: receipt.id, reason: 'wrong', customer, date }
  const actor = anyone(w)
  return {
    told: `put right ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, result } = await ordered(w, db, actor, putRightCommand, ask)
      const { receipt: right } = result as { receipt: { id: number } }
      const ids = await meansIds(db, right.id)
      const links = await db.select<{ id: number; debit: number; amount: number; extra: unknown }>(
        `SELECT a.id, a.debit_item_id AS debit, a.amount,
          COALESCE((SELECT SUM(x.amount) FROM allocation x JOIN item k ON k.id = x.credit_item_id
            WHERE k.born_of_item_id = :id AND x.debit_item_id = a.debit_item_id
            AND x.undoes_id IS NULL), 0) AS extra
          FROM allocation a WHERE a.credit_item_id = :id AND a.undoes_id IS NULL ORDER BY a.id`,
        { id: right.id },
      )
      return {
        order,
        apply: m => {
          const moved = customer !== receipt.customer
          const was = m.linksOf(receipt.id)
          if (!moved && JSON.stringify(was.map(l => l.debit)) !== JSON.stringify(links.map(l => l.debit)))
            throw new Error(`putting right ${receipt.id} lost a link`)
          if (moved && links.length)
            throw new Error(`putting right ${receipt.id} kept links of another account`)
          const old = m.meansOf(receipt.id)
          for (const l of was) m.unlink(l.id)
          m.take(receipt.id, m.items.get(receipt.id)!.open)
          m.items.get(receipt.id)!.reversed = true
          m.items.set(right.id, { ...receipt, id: right.id, customer, open: receipt.amount, reversed: false })
          // The money stays where it is; slip and bank line follow to the new receipt.
          old.forEach((x, i) => {
            m.means.delete(x.id)
            m.means.set(ids[i]!, { ...x, id: ids[i]!, owner: right.id })
            for (const line of m.lines.values())
              if (line.matched?.kind === 'covered')
                line.matched.means = line.matched.means.map(id => (id === x.id ? ids[i]! : id))
          })
          for (const line of m.lines.values())
            if (line.matched?.kind === 'receipt')
              line.matched.receipts = line.matched.receipts.map(id => (id === receipt.id ? right.id : id))
          for (const l of links) m.link(l.id, right.id, l.debit, l.amount, Number(l.extra))
        },
      }
    },
  }
}
