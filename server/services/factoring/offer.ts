import { cell } from '../../db/rows'
import { z } from 'zod'
import { currency, id } from '../../../contract/common'
import { LEFT_OUT, proposeSchedule, type Facility } from '../../../core/factoring'
import { dateRefusals, refuse, refused, type Refusal } from '../../../core/ledger'
import { amountWords } from '../../../core/money'
import { writeSchedule } from '../../../formats/factoring'
import { chunksOf, type Handle } from '../../db/handle'
import { audit, type Settings } from '../../db/settings'
import { command, perform, type By, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { takeLocks } from '../../ledger/locks'
import { takeSeries } from '../../ledger/series'
import { factorPort } from '../../wiring'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { openInvoices, type OpenInvoice } from './candidates'
import { facilityByCode, inFacility } from './facilities'
import { tellDebtors } from './letters'

const CHUNK = 5000

async function invoicesOf(db: Handle, itemIds: readonly number[]): Promise<OpenInvoice[]> {
  const all: OpenInvoice[] = []
  for (const some of chunksOf(itemIds, CHUNK)) all.push(...(await openInvoices(db, { itemIds: some })))
  return all
}

function offerRefusals(
  facility: Facility,
  invoices: readonly OpenInvoice[],
  state: { there: Awaited<ReturnType<typeof inFacility>>; settings: Settings },
  input: { itemIds: readonly number[]; currency: string },
): Refusal[] {
  const { today, base } = state.settings
  const place = new Map(input.itemIds.map((itemId, n) => [itemId, n]))
  const refusals: Refusal[] = []
  if (place.size !== input.itemIds.length)
    refusals.push(refuse('offer.twice', 'itemIds', 'an invoice is named twice', 'name each once'))
  const known = new Set(invoices.map(i => i.itemId))
  for (const [itemId, n] of place)
    if (!known.has(itemId))
      refusals.push(
        refuse('offer.known', `itemIds.${n}`, 'there is no such invoice', 'choose from the proposal'),
      )
  const { leftOut } = proposeSchedule(facility, invoices, state.there, today, base)
  for (const { candidate, rule, why } of leftOut) {
    const path = `itemIds.${place.get(candidate.itemId)}`
    const message = `${candidate.number}: ${LEFT_OUT[rule].toLowerCase()}, ${why}`
    refusals.push(refuse(`offer.${rule}`, path, message, 'leave it out'))
  }
  for (const i of invoices)
    if (i.currency !== input.currency) {
      const path = `itemIds.${place.get(i.itemId)}`
      refusals.push(
        refuse('offer.currency', path, `${i.number} is in ${i.currency}`, 'one schedule a currency'),
      )
    }
  return refusals
}

/** Offers invoices to a factor. Nothing is posted: they are ours until it accepts them. */
export const offerCommand = command({
  name: 'factoring.offer',
  ability: 'factoring.run',
  input: z.object({ facility: z.string(), currency, itemIds: z.array(id).min(1).max(20_000) }),
  locks: async (db, input) => ({
    facilities: [(await facilityByCode(db, input.facility)).id],
    customers: [...new Set((await invoicesOf(db, input.itemIds)).map(i => i.customerId))],
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const facility = await facilityByCode(db, input.facility)
    return {
      facility,
      settings,
      invoices: await invoicesOf(db, input.itemIds),
      there: await inFacility(db, facility.id),
      ledger: await loadState(db, { customerIds: [] }, settings),
    }
  },
  decide: (state, input) => {
    const { ledger, facility, invoices } = state
    const refusals = [
      ...dateRefusals(ledger, ledger.today, 'date'),
      ...offerRefusals(facility, invoices, state, input),
    ]
    return refusals.length ? refused(refusals) : { ok: true as const, postings: [], facts: null }
  },
  after: async ({ db, input, state, actor }) => {
    const { facility, invoices, ledger } = state
    const takes = await takeSeries(db, new Map([['schedule', 1]]))
    const number = takes.get('schedule')!(0)
    const [scheduleId] = await db.insert('factor_schedule', [
      {
        facility_id: facility.id,
        number,
        currency: input.currency,
        on_date: ledger.today,
        state: 'made',
        count: invoices.length,
        total: invoices.reduce((sum, i) => sum + i.open, 0),
        content: writeSchedule(
          number,
          invoices.map(i => ({ ...i, name: i.customer, customer: i.customerNumber, amount: i.open })),
        ),
        person_id: actor.id,
      },
    ])
    await db.insert(
      'factor_item',
      invoices.map(i => ({
        schedule_id: scheduleId!,
        item_id: i.itemId,
        customer_id: i.customerId,
        amount: i.open,
        base: i.base,
      })),
    )
    if (facility.disclosed) await tellDebtors(db, actor, facility, number, invoices)
    return { id: scheduleId!, number }
  },
  tell: ({ input }) => ({ ...input, itemIds: `${input.itemIds.length} invoices` }),
  about: input => `${input.itemIds.length} invoices to ${input.facility}`,
})

const giveSchedulesRow = z.object({
  id: cell.whole,
  number: cell.text,
  code: cell.text,
  content: cell.text,
})

/**
 * Gives schedules that wait to their factors. Each is handed over before it is marked so: after a crash it is
 * given again, which does no harm.
 */
export async function giveSchedules(database: Handle): Promise<void> {
  const rows = await database.rows(
    giveSchedulesRow,
    `SELECT s.id, s.number, f.code, s.content FROM factor_schedule s
      JOIN factor_facility f ON f.id = s.facility_id WHERE s.state = 'made' ORDER BY s.id`,
  )
  for (const { id: scheduleId, number, code, content } of rows) {
    factorPort().give(code, `${number}.csv`, content)
    await database.update('factor_schedule', { state: 'sent' }, { id: scheduleId, state: 'made' })
  }
}

/** Offers invoices, and gives the schedule to the factor. */
export async function offerInvoices(
  database: Handle,
  actor: Actor,
  body: z.input<typeof offerCommand.input>,
  idempotency?: Idempotency,
): Promise<{ id: number; number: string }> {
  const made = await perform(database, actor, offerCommand, body, idempotency)
  await giveSchedules(database)
  return made
}

const takeBackScheduleRow = z.object({
  number: cell.text,
  amount: cell.whole,
  currency: cell.text,
})

/** Takes a schedule back, of which the factor has answered nothing. */
export async function takeBackSchedule(
  database: Handle,
  actor: Actor,
  scheduleId: number,
  reason: string,
): Promise<void> {
  const [schedule] = await database.find(
    'factor_schedule',
    { id: scheduleId },
    { columns: { facilityId: 'facility_id' } },
  )
  if (!schedule) throw notFound(`schedule ${scheduleId}`)
  await database.transaction(async tx => {
    // An answer of the factor that comes at the same moment waits, or has come.
    await takeLocks(tx, { facilities: [schedule.facilityId] })
    const [row] = (await tx.find(
      'factor_schedule',
      { id: scheduleId },
      { columns: ['number', 'state'] },
    )) as [{ number: string; state: string }]
    const [answered] = await tx.rows(
      takeBackScheduleRow,
      `SELECT i.number, t.amount, i.currency FROM factor_item t JOIN item i ON i.id = t.item_id
        WHERE t.schedule_id = :scheduleId AND t.state <> 'sent' LIMIT 1`,
      { scheduleId },
    )
    if (row.state === 'taken-back' || answered)
      throw new ProblemError(
        409,
        'Not any more',
        answered
          ? `the factor has answered ${answered.number}, ${amountWords(answered.amount, answered.currency)}`
          : `${row.number} was taken back before`,
        [{ path: 'id', message: 'too late', satisfy: 'ask the factor to give the invoices back' }],
      )
    await tx.update('factor_schedule', { state: 'taken-back' }, { id: scheduleId })
    await tx.update('factor_item', { live: null }, { schedule_id: scheduleId })
    await audit(tx, actor.id, 'factoring.takeBack', row.number, null, reason)
  })
}
