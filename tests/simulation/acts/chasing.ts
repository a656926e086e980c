import { addDays } from '../../../core/calendar'
import { disputeCommand } from '../../../server/services/disputes/open'
import { resolveCommand } from '../../../server/services/disputes/resolve'
import { promiseCommand } from '../../../server/services/promises/promises'
import type { Handle } from '../../../server/db/handle'
import { amountOf, anyone, CUSTOMERS, openItems, ordered, pick, TODAY, type Act, type World } from './world'

/** Somebody disputes an item, whole or in part; now and then more than is open of it. */
export function dispute(w: World): Act | null {
  const customer = w.chance.pick(CUSTOMERS)
  const item = pick(w, openItems(w, 'debit', customer))
  if (!item) return null
  const amount = amountOf(w, item.open)
  const ask = {
    customer,
    reason: w.chance.pick(['price', 'quality', 'freight'] as const),
    items: [{ itemId: item.id, amount }],
  }
  const actor = anyone(w)
  return {
    told: `dispute ${JSON.stringify(ask)}`,
    run: async db => {
      const { result } = await ordered(w, db, actor, disputeCommand, ask)
      const { id } = result as { id: number }
      return { order: 0, apply: m => void m.disputes.set(id, { id, item: item.id, amount, live: true }) }
    },
  }
}

async function versionOf(db: Handle, id: number): Promise<number> {
  const [row] = await db.select<{ version: number }>('SELECT version FROM dispute WHERE id = :id', { id })
  return row!.version
}

/** A dispute ends; now and then one that ended before. What is given up is what is still open of it. */
export function resolve(w: World): Act | null {
  const chosen = pick(
    w,
    [...w.model.disputes.values()].filter(d => d.live || w.chance.happens(0.05)),
  )
  if (!chosen) return null
  const resolution = w.chance.pick(['credited', 'written-off', 'upheld'] as const)
  const actor = anyone(w)
  return {
    told: `${resolution} ends dispute ${chosen.id}`,
    run: async db => {
      const ask = { id: chosen.id, version: await versionOf(db, chosen.id), resolution, amounts: [] }
      const { order, written } = await ordered(w, db, actor, resolveCommand, ask)
      return {
        order,
        apply: m => {
          const now = m.disputes.get(chosen.id)!
          if (!now.live) throw new Error(`dispute ${chosen.id} ended twice`)
          now.live = false
          if (resolution === 'upheld') return
          const item = m.items.get(chosen.item)!
          const amount = Math.min(chosen.amount, item.open)
          const { id } = written[0]!.items[0]!
          m.items.set(id, {
            id,
            customer: item.customer,
            currency: item.currency,
            side: 'credit',
            amount,
            open: amount,
            kind: 'document',
            date: TODAY,
            reversed: false,
          })
          m.link(written[0]!.allocations[0]!, id, chosen.item, amount, 0)
        },
      }
    },
  }
}

/** Somebody promises; it changes nothing of what is owed, whatever becomes of it. */
export function promise(w: World): Act | null {
  const customer = w.chance.pick(CUSTOMERS)
  const item = pick(w, openItems(w, 'debit', customer))
  if (!item) return null
  const amount = amountOf(w, item.open)
  const ask = {
    customer,
    currency: item.currency,
    items: w.chance.happens(0.7) ? [{ itemId: item.id, amount }] : null,
    parts: [{ date: addDays(TODAY, w.chance.whole(-1, 20)), amount }],
  }
  const actor = anyone(w)
  return {
    told: `promise ${JSON.stringify(ask)}`,
    run: async db => {
      await ordered(w, db, actor, promiseCommand, ask)
      return { order: 0, apply: () => {} }
    },
  }
}
