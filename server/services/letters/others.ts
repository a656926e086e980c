import type { SentLetter } from '../../../contract/letters'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { sheetPdf } from '../../letters/sheet'
import { findCustomer } from '../accounts/customers'
import { readDispute } from '../disputes/read'
import type { Actor, Scope } from '../people/scope'
import { readPromise } from '../promises/promises'
import { addressee, sendLetter } from './send'
import { planSheet, upheldSheet } from './sheets'

async function planOf(database: Handle, id: number, scope: Scope) {
  const promise = await readPromise(database, id, scope)
  const { today, ...settings } = await readSettings(database)
  const customer = await findCustomer(database, promise.customer.number, scope)
  const to = await addressee(database, customer.id)
  const { currency, parts } = promise
  return { to, today, sheet: planSheet({ ...settings, today }, to, { id, currency, parts }) }
}

export const planPdf = async (database: Handle, id: number, scope: Scope): Promise<Buffer> =>
  sheetPdf([(await planOf(database, id, scope)).sheet])

/** Sends a plan with its dates. */
export async function sendPlan(
  database: Handle,
  actor: Actor,
  id: number,
  scope: Scope,
): Promise<SentLetter> {
  const { to, sheet, today } = await planOf(database, id, scope)
  return database.transaction(
    async tx => (await sendLetter(tx, actor, to, { kind: 'plan', sheet, asOf: today, jobId: null }))!,
  )
}

/** Tells a customer that what it disputed is owed; in the transaction that says so. */
export async function sendUpheld(
  tx: Handle,
  actor: { id: number },
  id: number,
  settings: Settings,
): Promise<void> {
  const { customer, currency, items, resolved } = await readDispute(tx, id, {})
  const to = await addressee(tx, (await findCustomer(tx, customer.number, {})).id)
  const sheet = upheldSheet(settings, to, {
    id,
    currency,
    text: resolved?.text ?? '',
    items: items
      .map(i => ({ number: i.number, amount: Math.min(i.amount, i.open) }))
      .filter(i => i.amount > 0),
  })
  await sendLetter(tx, actor, to, { kind: 'upheld', sheet, asOf: settings.today, jobId: null })
}
