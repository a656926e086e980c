import { cell } from '../../db/rows'
import { z } from 'zod'
import type { IsoDate } from '../../../core/calendar'
import { sumOf } from '../../../core/interest'
import { convert } from '../../../core/money'
import { rateOf } from '../../../core/rates'
import { decideClaim, statutoryClaims, type StatutoryAnswer } from '../../../core/reminders'
import { claimBody, type ClaimsAnswer } from '../../../contract/reminders'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { loadRates } from '../../ledger/rates'
import { findCustomer, idOfCustomer } from '../accounts/customers'
import { addressee, sendLetter } from '../letters/send'
import { claimSheet } from '../letters/sheets'
import type { Scope } from '../people/scope'
import { reminderFacts } from './facts'
import { interestRow } from './interestRow'
import { referenceRates } from './rates'

const claimedBeforeRow = z.object({
  id: cell.whole,
})

/** Items whose compensation was claimed before, by documents that were not reversed. */
async function claimedBefore(db: Handle, itemIds: readonly number[]): Promise<Set<number>> {
  if (!itemIds.length) return new Set()
  const rows = await db.rows(
    claimedBeforeRow,
    `SELECT k.for_item_id AS id FROM compensation k WHERE k.for_item_id IN (:itemIds) AND NOT EXISTS
      (SELECT 1 FROM item r WHERE r.reverses_item_id = k.document_item_id)`,
    { itemIds },
  )
  return new Set(rows.map(r => r.id))
}

interface Found {
  customerId: number
  country: string
  answer: StatutoryAnswer
  asOf: IsoDate
}

/** What may be claimed by law of an account today. */
async function claimsOf(db: Handle, settings: Settings, number: string, scope: Scope): Promise<Found> {
  const { id } = await findCustomer(db, number, scope)
  const asOf = settings.today
  const [customer] = await reminderFacts(db, settings, [id], { asOf, withInterest: true, paidSince: null })
  const { items, country } = customer!
  const before = await claimedBefore(
    db,
    items.map(i => i.id),
  )
  const currencies = [...new Set(['GBP', 'EUR', ...items.map(i => i.currency)])]
  const wanted = currencies.map(currency => ({ currency, date: asOf }))
  const known = { base: settings.base, rates: await loadRates(db, settings.base, wanted) }
  const converted = (amount: number, from: string, to: string): number | undefined => {
    if (from === to) return amount
    const [own, other] = [rateOf(known, from, asOf), rateOf(known, to, asOf)]
    if (own === undefined || other === undefined) return undefined
    const base = convert(amount, from, settings.base, own)
    return Math.round(base / (convert(1_000_000, to, settings.base, other) / 1_000_000))
  }
  const rates = await referenceRates(db)
  return {
    customerId: id,
    country,
    asOf,
    answer: statutoryClaims(country, items, before, rates, asOf, converted),
  }
}

/** Without a rule or a rate there are no claims, and why is said. */
function shown({ answer, country, asOf }: Found): ClaimsAnswer {
  if (answer.ok)
    return {
      country,
      asOf,
      law: answer.rule.name,
      source: answer.rule.source,
      currency: answer.rule.compensation.currency,
      trouble: '',
      items: answer.claims.map(c => ({ ...c, interestAmount: sumOf(c.interest) })),
    }
  const trouble =
    answer.why === 'no rule'
      ? 'no law of this country on late payment is known to us'
      : `no ${answer.missing} rate is known for ${answer.day}: enter it under Setup, Reminders`
  return { country, asOf, law: '', source: '', currency: '', trouble, items: [] }
}

export async function readClaims(database: Handle, number: string, scope: Scope): Promise<ClaimsAnswer> {
  return shown(await claimsOf(database, await readSettings(database), number, scope))
}

/** Claims interest and compensation by law, and writes to the customer. */
export const claimCommand = command({
  name: 'reminders.claim',
  ability: 'reminders.run',
  input: claimBody.extend({ customer: z.string() }),
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const found = await claimsOf(db, settings, input.customer, {})
    const currencies = found.answer.ok
      ? [found.answer.rule.compensation.currency, ...found.answer.claims.map(c => c.currency)]
      : []
    const rates = [...new Set(currencies)].map(currency => ({ currency, date: found.asOf }))
    const customer = await findCustomer(db, input.customer, {})
    return {
      ...found,
      customer,
      settings,
      ledger: await loadState(db, { customerIds: [found.customerId], rates }, settings),
    }
  },
  decide: decideClaim,
  after: async ({ db, input, state, facts, written, actor }) => {
    const itemOf = (posting: number) => written[posting]!.items[0]!.id
    await db.insert(
      'interest_line',
      facts.interest.flatMap(({ claims, posting }) =>
        claims.flatMap(c => c.interest.map(line => interestRow(itemOf(posting), c.itemId, line))),
      ),
    )
    await db.insert(
      'compensation',
      facts.compensation.map(({ claim, posting }) => ({
        document_item_id: itemOf(posting),
        for_item_id: claim.itemId,
      })),
    )
    const numbers = written.map(w => w.items[0]!.number)
    if (input.letter && state.answer.ok) {
      const to = await addressee(db, state.customerId)
      const { rule } = state.answer
      const sheet = claimSheet(state.settings, to, {
        number: numbers[0]!,
        law: rule.name,
        facts,
        currency: rule.compensation.currency,
      })
      await sendLetter(db, actor, to, { kind: 'claim', sheet, asOf: state.asOf, jobId: null })
    }
    return { numbers }
  },
  about: input => input.customer,
})
