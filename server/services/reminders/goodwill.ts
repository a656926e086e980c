import { z } from 'zod'
import { id } from '../../../contract/common'
import { decideGoodwill } from '../../../core/reminders'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { toMajor } from '../../../core/money'
import { notFound } from '../common/problems'

async function ownerOf(db: Handle, itemId: number): Promise<number> {
  const [row] = await db.find('item', { id: itemId }, { columns: { id: 'customer_id' } })
  if (!row) throw notFound(`item ${itemId}`, 'choose a fee or interest of an account')
  return row.id
}

/** Gives up a fee, interest or compensation; above the threshold of the house a second person signs. */
export const goodwillCommand = command({
  name: 'reminders.goodwill',
  ability: 'reminders.run',
  input: z.object({ itemId: id, amount: z.int(), reason: z.string().max(200) }),
  locks: async (db, input) => ({ customers: [await ownerOf(db, input.itemId)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const customerId = await ownerOf(db, input.itemId)
    return {
      customerId,
      ledger: await loadState(db, { customerIds: [customerId], itemIds: [input.itemId] }, settings),
    }
  },
  decide: decideGoodwill,
  stake: ({ ledger, customerId }, input) => {
    const item = ledger.items.get(input.itemId)
    if (!item) return null
    const baseAmount = item.open > 0 ? Math.round((item.baseOpen * input.amount) / item.open) : 0
    return { kind: 'waiver', amount: input.amount, currency: item.currency, baseAmount, customerId }
  },
  changes: ({ ledger }, input) => {
    const item = ledger.items.get(input.itemId)
    if (!item) return []
    const words = (amount: number) => `${toMajor(amount, item.currency)} ${item.currency}`
    return [
      {
        field: item.number,
        before: `${words(item.open)} open`,
        after: `${words(input.amount)} given up: ${input.reason}`,
      },
    ]
  },
  after: async () => ({}),
  about: input => `item ${input.itemId}`,
})
