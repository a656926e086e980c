import { limitOf, type Value } from '../../../../core/accounts'
import type { Handle } from '../../../db/handle'
import { readSettings } from '../../../db/settings'

/** What of a customer says which limit it inherits. */
type Inheriting = Partial<Record<'class' | 'creditLimit' | 'limitCurrency', Value>>

/**
 * The limit that an account had from its class, when it goes to one with another limit: it stays as its own
 * until the new one is signed like any other. Null when it has its own, or had none.
 */
export async function limitToKeep(
  tx: Handle,
  before: Inheriting,
  toClass: Value,
): Promise<{ amount: number; currency: string } | null> {
  const [from, to] = [String(before.class ?? ''), String(toClass ?? '')]
  if (from === to || (before.creditLimit ?? null) !== null) return null
  const { base } = await readSettings(tx)
  const rows = await tx.find(
    'customer_class',
    { code: [from, to] },
    { columns: { code: 'code', limit: 'credit_limit' } },
  )
  const ofClass = (code: string) => rows.find(r => r.code.toLowerCase() === code.toLowerCase())?.limit ?? null
  const currency = String(before.limitCurrency ?? '')
  const { amount } = limitOf({ own: null, ofClass: ofClass(from), currency }, base)
  return amount === null || amount === ofClass(to) ? null : { amount, currency: base }
}
