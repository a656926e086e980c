import { addToBatch, openBatch, removeFromBatch } from '../../../server/services/receipts/batches'
import { closeBatchCommand } from '../../../server/services/receipts/closeBatch'
import { TODAY, CUSTOMERS, type Act, type World, ordered, pick, anyone, openItems, amountOf } from './world'
import { meansIds, received } from './receipts'

/** Somebody's batch: opened, keyed into, taken out of, closed. Only the closing posts. */
export function batch(w: World): Act | null {
  const actor = anyone(w)
  const mine = w.batches.get(actor.id)
  if (!mine) {
    return {
      told: `${actor.name} opens a batch`,
      run: async db => {
        const opened = await openBatch(db, actor, {
          currency: 'EUR',
          date: TODAY,
          text: '',
          controlTotal: null,
          controlCount: null,
        })
        return { order: 0, apply: () => void w.batches.set(actor.id, { id: opened.id, keyed: [] }) }
      },
    }
  }
  if (mine.keyed.length && w.chance.happens(0.1)) {
    const keyed = w.chance.pick(mine.keyed)
    return {
      told: `${actor.name} takes receipt ${keyed} out of batch ${mine.id}`,
      run: async db => {
        await removeFromBatch(db, actor, mine.id, keyed)
        return { order: 0, apply: () => void mine.keyed.splice(mine.keyed.indexOf(keyed), 1) }
      },
    }
  }
  if (mine.keyed.length < 4 && w.chance.happens(0.7)) {
    const customer = w.chance.pick(CUSTOMERS)
    const due = pick(w, openItems(w, 'debit', customer, 'EUR'))
    const amount = due ? amountOf(w, due.open) : w.chance.whole(1, 9000)
    const ask = {
      customer,
      currency: 'EUR',
      date: TODAY,
      text: '',
      means: [{ means: 'cheque' as const, amount, reference: String(w.chance.whole(1, 9999)) }],
      allocations: due ? [{ itemId: due.id, amount, discount: 0, difference: 0 }] : [],
      lateDiscount: false,
      advance: false,
      onAccount: due ? 0 : amount,
    }
    return {
      told: `${actor.name} keys ${JSON.stringify(ask)} into batch ${mine.id}`,
      run: async db => {
        const after = await addToBatch(db, actor, mine.id, ask)
        return { order: 0, apply: () => (mine.keyed = after.receipts.map(r => r.id)) }
      },
    }
  }
  return {
    told: `${actor.name} closes batch ${mine.id}`,
    run: async db => {
      const [row] = await db.select<{ version: number }>('SELECT version FROM batch WHERE id = :id', {
        id: mine.id,
      })
      const ask = { id: mine.id, version: row!.version }
      const { order, written } = await ordered(w, db, actor, closeBatchCommand, ask)
      const made = await db.select<{
        id: number
        body: string
        customer: string
      }>(
        `SELECT r.item_id AS id, r.body, c.number AS customer FROM batch_receipt r
          JOIN customer c ON c.id = r.customer_id WHERE r.batch_id = :id ORDER BY r.id`,
        { id: mine.id },
      )
      const ids: number[][] = []
      for (const r of made) ids.push(await meansIds(db, r.id))
      return {
        order,
        apply: m => {
          w.batches.delete(actor.id)
          made.forEach((r, i) => {
            const body = JSON.parse(r.body) as {
              means: { means: string; amount: number }[]
              allocations: { itemId: number; amount: number }[]
            }
            const sum = body.means.reduce((a, x) => a + x.amount, 0)
            received(m, r.id, r.customer, 'EUR', sum, TODAY, body.means, ids[i]!, () =>
              body.allocations.forEach((a, n) =>
                m.link(written[i]!.allocations[n]!, r.id, a.itemId, a.amount, 0),
              ),
            )
          })
        },
      }
    },
  }
}
