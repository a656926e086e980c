import { refundCommand } from '../../../server/services/refunds/post'
import { undoRefundCommand } from '../../../server/services/refunds/undo'
import { amountOf, anyone, CUSTOMERS, openItems, ordered, pick, TODAY, type Act, type World } from './world'

/** Credit goes back to the customer, by cheque. */
export function refund(w: World): Act | null {
  const customer = w.chance.pick(CUSTOMERS)
  const credit = pick(w, openItems(w, 'credit', customer))
  if (!credit) return null
  const amount = amountOf(w, credit.open)
  const ask = { refunds: [{ customer, method: 'cheque' as const, credits: [{ itemId: credit.id, amount }] }] }
  const actor = anyone(w)
  return {
    told: `refund ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, written } = await ordered(w, db, actor, refundCommand, ask)
      const { id } = written[0]!.items[0]!
      return {
        order,
        apply: m => {
          const { currency } = m.items.get(credit.id)!
          m.items.set(id, {
            ...{ id, customer, currency, side: 'debit', amount, open: amount },
            ...{ kind: 'refund', date: TODAY, reversed: false },
          })
          m.link(written[0]!.allocations[0]!, credit.id, id, amount, 0)
        },
      }
    },
  }
}

export function undoRefund(w: World): Act | null {
  const own = pick(
    w,
    [...w.model.items.values()].filter(i => i.kind === 'refund' && (!i.reversed || w.chance.happens(0.05))),
  )
  if (!own) return null
  const actor = anyone(w)
  return {
    told: `undo refund ${own.id}`,
    run: async db => {
      const ask = { id: own.id, reason: 'not wanted' }
      const { order } = await ordered(w, db, actor, undoRefundCommand, ask)
      return { order, apply: m => m.reverse(own.id) }
    },
  }
}
