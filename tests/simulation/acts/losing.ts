import { recoverCommand } from '../../../server/services/impairment/recovery'
import { undoWriteOffCommand, writeOffCommand } from '../../../server/services/impairment/writeOff'
import type { ModelItem } from '../model'
import { amountOf, anyone, CUSTOMERS, openItems, ordered, pick, type Act, type World } from './world'

/** Items are given up, whole or in part; mostly of one customer. */
export function writeOff(w: World): Act | null {
  const customer = w.chance.pick(CUSTOMERS)
  const own = openItems(w, 'debit', customer)
  const other = w.chance.happens(0.2) ? openItems(w, 'debit', w.chance.pick(CUSTOMERS)) : own
  // What lies with a factor is not ours to give up: tried often.
  const held = w.chance.happens(0.3) ? own.filter(i => w.model.heldBy(i.id)) : own
  const chosen = [...new Set([pick(w, held), pick(w, other)])].filter((i): i is ModelItem => i !== undefined)
  if (!chosen.length) return null
  const heldBefore = chosen.flatMap(i => w.model.heldBy(i.id) ?? [])
  const ask = {
    items: chosen.map(i => ({
      itemId: i.id,
      ...(w.chance.happens(0.4) ? { amount: amountOf(w, i.open) } : {}),
    })),
    reason: w.chance.pick(['uncollectable', 'insolvency', 'small'] as const),
    text: 'gone',
    against: w.chance.happens(0.1) ? ('allowance' as const) : ('expense' as const),
    commission: 'kept' as const,
  }
  const actor = anyone(w)
  return {
    told: `write off ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, written } = await ordered(w, db, actor, writeOffCommand, ask)
      const closing = written.flatMap(x => x.items)
      const rows = await db.select<{ id: number; item: number }>(
        'SELECT item_id AS id, of_item_id AS item FROM write_off WHERE item_id IN (:ids)',
        { ids: closing.map(c => c.id) },
      )
      return {
        order,
        apply: m => {
          if (rows.length !== ask.items.length) throw new Error('a write-off lost an item')
          for (const { id, item } of rows) {
            const asked = ask.items.find(i => i.itemId === item)!
            // The whole of it is what is open when its turn comes.
            const amount = asked.amount ?? m.items.get(item)!.open
            if (amount <= 0) throw new Error(`nothing of item ${item} was left to write off`)
            m.take(item, amount)
            m.losses.set(id, { id, item, amount, recovered: 0, live: true })
          }
          m.later.push(() => {
            const still = heldBefore.find(o => m.heldBy(o.item)?.id === o.id)
            return still && `item ${still.item} was written off while it lay with a factor`
          })
        },
      }
    },
  }
}

/** A write-off is taken back; now and then one that is gone, or of which money came back. */
export function undoWriteOff(w: World): Act | null {
  const recovered = w.chance.happens(0.3)
  const loss = pick(
    w,
    [...w.model.losses.values()].filter(
      l => (l.live || w.chance.happens(0.05)) && (!recovered || l.recovered),
    ),
  )
  if (!loss) return null
  const actor = anyone(w)
  return {
    told: `undo write-off ${loss.id}`,
    run: async db => {
      const ask = { id: loss.id, reason: 'it is good' }
      const { order } = await ordered(w, db, actor, undoWriteOffCommand, ask)
      return {
        order,
        apply: m => {
          const now = m.losses.get(loss.id)!
          if (!now.live) throw new Error(`write-off ${loss.id} was taken back twice`)
          if (now.recovered) throw new Error(`write-off ${loss.id} was taken back though money came back`)
          now.live = false
          m.take(now.item, -now.amount)
        },
      }
    },
  }
}

/** Money on the account is what was written off; now and then more of it than that. */
export function recover(w: World): Act | null {
  const losses = [...w.model.losses.values()].filter(l => l.live || w.chance.happens(0.05))
  const loss = pick(w, losses)
  const item = loss && w.model.items.get(loss.item)
  const credit = item && pick(w, openItems(w, 'credit', item.customer, item.currency))
  if (!loss || !credit) return null
  const left = Math.min(credit.open, loss.amount - loss.recovered)
  // All of the credit, whether so much was lost or not: tried often.
  const amount = w.chance.happens(0.3) ? Math.max(1, credit.open) : amountOf(w, Math.max(1, left))
  const ask = { creditItemId: credit.id, parts: [{ writeOffId: loss.id, amount }] }
  const actor = anyone(w)
  return {
    told: `recover ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, written } = await ordered(w, db, actor, recoverCommand, ask)
      const { id } = written[0]!.items[0]!
      return {
        order,
        apply: m => {
          const now = m.losses.get(loss.id)!
          now.recovered += amount
          if (!now.live || now.recovered > now.amount)
            throw new Error(`of write-off ${loss.id} ${now.recovered} of ${now.amount} came back`)
          m.take(credit.id, amount)
          m.recoveries.set(id, { id, credit: credit.id, loss: loss.id, amount, live: true })
        },
      }
    },
  }
}

export function undoRecovery(w: World): Act | null {
  const recovery = pick(
    w,
    [...w.model.recoveries.values()].filter(r => r.live || w.chance.happens(0.05)),
  )
  if (!recovery) return null
  const actor = anyone(w)
  return {
    told: `undo recovery ${recovery.id}`,
    run: async db => {
      const ask = { id: recovery.id, reason: 'for something else' }
      const { order } = await ordered(w, db, actor, undoWriteOffCommand, ask)
      return {
        order,
        apply: m => {
          const now = m.recoveries.get(recovery.id)!
          if (!now.live) throw new Error(`recovery ${recovery.id} was taken back twice`)
          now.live = false
          m.losses.get(now.loss)!.recovered -= now.amount
          m.take(now.credit, -now.amount)
        },
      }
    },
  }
}
