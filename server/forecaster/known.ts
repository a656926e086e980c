import { z } from 'zod'
import { cell } from '../db/rows'
import { joinKnown, knownLedger, type KnownLedger } from '../../core/forecast'
import type { Handle } from '../db/handle'
import { Customers, LedgerImage } from '../../core/image'
import { askImage, slicesOf } from '../image'

export interface KnownOn {
  asOf: number
  /** Also what became of it until this day. */
  until?: number
}

const keyOfRow = z.object({
  entry: cell.whole.nullable(),
  customers: cell.text.nullable(),
})

/** Names a ledger on a day as it is committed now. */
export async function keyOf(db: Handle, { asOf, until }: KnownOn): Promise<string> {
  const [there] = await db.rows(
    keyOfRow,
    `SELECT (SELECT MAX(id) FROM entry) AS entry,
      (SELECT value FROM setting WHERE name = 'customers') AS customers`,
  )
  return [asOf, until ?? '', there!.entry ?? 0, there!.customers ?? 0].join(' ')
}

/** The ledger on a day: from memory, or where it is too large for that, from the tables bit by bit. */
export async function knownOn(db: Handle, on: KnownOn): Promise<KnownLedger> {
  const fromMemory = await askImage(db, 'known', on, 'waits')
  if (fromMemory) return fromMemory
  const parts: KnownLedger[] = []
  for await (const { ledger, customers, ids } of slicesOf(db, { ids: null }))
    parts.push(knownLedger(ledger, customers, { ...on, only: new Set(ids) }))
  return parts.length ? joinKnown(parts) : nothingKnown(on)
}

/** A house without customers. */
const nothingKnown = ({ asOf, until }: KnownOn): KnownLedger =>
  knownLedger(new LedgerImage(), new Customers([]), { asOf, until })
