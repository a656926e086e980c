import { itemsQuery } from '../../../contract/accounts'
import { addDays } from '../../../core/calendar'
import { LedgerRefused } from '../../../server/ledger/command'
import { readItems } from '../../../server/services/accounts/items'
import { chance } from '../../../simulators/chance'
import { CUSTOMERS, customers, documents, TODAY, type Books } from '../database'
import { intents, postIntent } from '../post'

const START = '2026-07-20'

/**
 * A ledger of chance: documents, receipts, links undone and reversals over four months, in two currencies.
 */
export async function ledgerOfChance(books: Books, seed = 'position'): Promise<void> {
  const c = chance(seed)
  await customers(books, CUSTOMERS)
  const day = () => addDays(START, c.whole(0, 90))
  const rows = Array.from({ length: 40 }, (_, i) =>
    [
      `P-${i}`,
      c.happens(0.15) ? 'credit-note' : 'invoice',
      c.pick(['K1', 'K1', 'K3']),
      day(),
      c.pick(['EUR', 'EUR', 'GBP']),
      `${c.whole(10, 4000)}.${String(c.whole(0, 99)).padStart(2, '0')}`,
    ].join(','),
  )
  await documents(books, ['number,kind,customer,date,currency,amount', ...rows, ''].join('\n'))
  const quiet = (work: Promise<unknown>) =>
    work.catch((error: unknown) => {
      if (!(error instanceof LedgerRefused)) throw error
    })
  for (let n = 0; n < 40; n++) {
    const customer = c.pick(['K1', 'K3'])
    const currency = c.pick(['EUR', 'GBP'])
    const open = (
      await readItems(books.database, customer, itemsQuery.parse({ state: 'open', limit: 100 }), {})
    ).items.filter(i => i.currency === currency)
    const debits = open.filter(i => i.open > 0).slice(0, c.whole(0, 3))
    const date = addDays(START, 30 + c.whole(0, 85))
    const wish = debits.map(i => ({
      itemId: i.id,
      amount: c.happens(0.6) ? i.open : Math.max(1, Math.floor(i.open / 2)),
    }))
    const extra = c.happens(0.3) ? c.whole(1, 50_000) : 0
    const amount = wish.reduce((a, w) => a + w.amount, 0) + extra
    if (amount && n % 4 !== 3)
      await quiet(
        intents
          .receipt(books.database, {
            customer,
            currency,
            date,
            means: [{ means: 'transfer', amount }],
            allocations: wish,
          })
          .then(i => postIntent(books.database, books.actor, i)),
      )
    const credit = open.find(i => i.open < 0 && i.kind === 'credit-note')
    if (credit && debits[0])
      await quiet(
        intents
          .allocate(books.database, {
            customer,
            date: TODAY,
            pairs: [
              {
                debitItemId: debits[0].id,
                creditItemId: credit.id,
                amount: Math.min(-credit.open, debits[0].open),
              },
            ],
          })
          .then(i => postIntent(books.database, books.actor, i)),
      )
    const receipts = (
      await readItems(books.database, customer, itemsQuery.parse({ state: 'all', limit: 200 }), {})
    ).items.filter(i => i.kind === 'receipt' && !i.reversed)
    const receipt = receipts[c.whole(0, Math.max(0, receipts.length - 1))]
    if (receipt && n % 5 === 4) {
      const link = receipt.links.find(l => !l.undone && !l.undoes)
      if (link && c.happens(0.5))
        await quiet(
          intents
            .unallocate(books.database, {
              customer,
              date: TODAY,
              reason: 'wrong invoice',
              allocationIds: [link.allocationId],
            })
            .then(i => postIntent(books.database, books.actor, i)),
        )
      else
        await quiet(
          intents
            .reverse(books.database, receipt.id, { date: TODAY, reason: 'bounced', fee: 0 })
            .then(i => postIntent(books.database, books.actor, i)),
        )
    }
  }
}
