import { addDays, type IsoDate } from '../core/calendar'
import { creditorIdFault } from '../core/payments'
import { mandateBody } from '../contract/collections'
import type { Handle } from '../server/db/handle'
import { writeSetting } from '../server/db/settings'
import { perform } from '../server/ledger/command'
import { addMandate, setMandateState } from '../server/services/collections/mandates'
import { receiveCommand } from '../server/services/receipts/commands'
import { writeCheque } from '../server/services/refunds/cheques'
import { refundCommand } from '../server/services/refunds/post'
import type { Actor } from '../server/services/people/scope'
import type { AccountHabit } from '../simulators/payments'
import { chance } from '../simulators/chance'
import { DEMO_TODAY } from './people'
import type { Payer } from './trade'

interface People {
  controller: Actor
  cash: Actor
  supervisor: Actor
  treasurer: Actor
}

/** So many accounts pay by direct debit since the autumn. */
const PULLED = 42
/** The advance notice that they agreed to. */
const AGREED_DAYS = 5

/** Our identifier, with the check digits of ISO 7064: no bank gave it to anybody. */
function creditorId(): string {
  for (let check = 2; check < 99; check++) {
    const id = `IE${String(check).padStart(2, '0')}ZZZ360099`
    if (!creditorIdFault(id)) return id
  }
  throw new Error('no check digits fit')
}

/** Steady payers in euro whose account the SEPA reaches. */
export function pulledOf(payers: readonly Payer[]): Payer[] {
  return payers
    .filter(p => p.currency === 'EUR' && (p.habit === 'prompt' || p.habit === 'month-end'))
    .slice(0, PULLED)
}

/** What three of them do when they are collected from, and one does with its refund. */
export function accountHabits(payers: readonly Payer[]): Record<string, AccountHabit> {
  const pulled = pulledOf(payers)
  const [short, asked, closed] = [pulled[4]!, pulled[11]!, pulled[19]!]
  return {
    [short.payerIban]: { code: 'AM04', after: 2, times: 1 },
    [asked.payerIban]: { code: 'MD06', after: 3 },
    [closed.payerIban]: { code: 'AC04', after: 2 },
  }
}

/** Mandates, credits that wait to go back, a cheque that nobody has cashed. */
export async function loadPayments(
  database: Handle,
  people: People,
  payers: readonly Payer[],
): Promise<void> {
  await writeSetting(database, people.supervisor.id, 'paymentPolicy', {
    creditorId: creditorId(),
    returnFee: 750,
    againWeekday: 3,
    lapse: {
      days: 540,
      byCountry: { DE: { days: 1095, to: 'owed' }, FR: { days: 1825, to: 'owed' } },
      most: 10_000,
    },
  })
  await addMandates(database, people, pulledOf(payers))
  await addCredits(database, people.cash, payers)
  await oldCheque(database, people)
}

async function addMandates(database: Handle, people: People, pulled: readonly Payer[]): Promise<void> {
  await database.update('customer', { method: 'direct-debit' }, { id: pulled.map(p => p.id) })
  for (const [n, p] of pulled.entries()) {
    const c = chance(`wrackline mandate ${p.number}`)
    const signedOn: IsoDate = n === 7 ? '2024-01-15' : addDays('2026-08-03', c.whole(0, 60))
    const mandate = await addMandate(database, people.treasurer, {
      ...mandateBody.parse({
        scheme: n % 6 === 5 ? 'B2B' : 'CORE',
        use: n === 9 ? 'one-off' : 'recurring',
        signedOn,
        iban: p.payerIban,
        most: n === 3 ? 150_000 : null,
        noticeDays: n % 11 === 10 ? null : AGREED_DAYS,
      }),
      customer: p.number,
    })
    if (n === 2)
      await setMandateState(database, people.treasurer, mandate.id, {
        version: mandate.version,
        state: 'suspended',
        reason: 'asked us to pause while their bank changes',
      })
  }
  // Some were collected from before these books began to collect.
  await database.run(
    `UPDATE mandate SET last_used = DATE_SUB(:today, INTERVAL 20 + id DAY) WHERE id % 3 = 0 AND used_for = 'recurring'
      AND signed_on < DATE_SUB(:today, INTERVAL 60 DAY)`,
    { today: DEMO_TODAY },
  )
}

const REASONS = [
  'paid the same invoice twice, asked for it back',
  'deposit for a tasting event that was called off',
  'overpaid by transposed figures, wants it back',
  'order cancelled after payment',
]

/** Money that customers want back: kept to be refunded when it came. */
async function addCredits(database: Handle, cash: Actor, payers: readonly Payer[]): Promise<void> {
  const owners = payers.filter(p => p.currency === 'EUR' && p.iban !== '' && p.habit === 'early').slice(0, 4)
  for (const [n, p] of owners.entries()) {
    const amount = chance(`wrackline back ${p.number}`).whole(9_000, 260_000)
    await perform(database, cash, receiveCommand, {
      customer: p.number,
      currency: 'EUR',
      date: addDays(DEMO_TODAY, -3 - n),
      text: REASONS[n]!,
      means: [{ means: n === 1 ? 'card' : 'transfer', amount, reference: `WB${4400 + n * 7}` }],
      allocations: [],
      onAccount: amount,
      rest: { use: 'refund' },
    })
  }
}

/** A refund by cheque of last month, which nobody has cashed. */
async function oldCheque(database: Handle, { cash, supervisor }: People): Promise<void> {
  const [credit] = await database.select<{ id: number; customer: string; open: number }>(
    `SELECT i.id, c.number AS customer, -o.open AS open FROM open_item o JOIN item i ON i.id = o.item_id
      JOIN customer c ON c.id = i.customer_id WHERE i.kind = 'credit-note' AND o.open < 0 AND c.country = 'IE'
      AND i.posting_date < '2026-10-01' ORDER BY i.posting_date DESC LIMIT 1`,
  )
  if (!credit) return
  const date = '2026-10-05'
  const refund = {
    customer: credit.customer,
    method: 'cheque' as const,
    credits: [{ itemId: credit.id, amount: Number(credit.open) }],
    text: '',
  }
  const { ids } = await perform(database, cash, refundCommand, { date, refunds: [refund] })
  await writeSetting(database, supervisor.id, 'clock', date)
  await writeCheque(database, cash, ids[0]!, {})
  await writeSetting(database, supervisor.id, 'clock', DEMO_TODAY)
}
