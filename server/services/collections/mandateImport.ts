import { isIsoDate } from '../../../core/calendar'
import { mandateRefusals } from '../../../core/collections'
import type { Fault } from '../../../contract/common'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { findCustomers } from '../accounts/customers'
import { ProblemError } from '../common/problems'
import { readTable } from '../documents/table'
import type { Actor } from '../people/scope'
import { putMandate, type MandateAsk } from './mandates'

const COLUMNS = [
  'customer',
  'reference',
  'scheme',
  'use',
  'signed_on',
  'iban',
  'bic',
  'holder',
  'last_used',
] as const
const NEEDED = ['customer', 'signed_on', 'iban'] as const
const MOST_LETTERS = 4 * 1024 * 1024
/** The columns that the fields of a refusal stand in. */
const COLUMN_OF: Record<string, string> = { signedOn: 'signed_on' }

/** A CSV of mandates, some of them in use already: all of it, or nothing and every fault. */
export async function importMandates(
  database: Handle,
  actor: Actor,
  text: string,
): Promise<{ imported: number }> {
  if (text.length > MOST_LETTERS)
    throw new ProblemError(413, 'Too large', 'at most 4 MB of mandates at once: split the file')
  const settings = await readSettings(database)
  const { table } = await readTable(text, COLUMNS, NEEDED)
  const customers = await findCustomers(
    database,
    table.rows.map(r => r.cells.customer!.trim()),
  )
  const there = new Set(
    (await database.find('mandate', {}, { columns: ['reference'] })).map(r => r.reference),
  )
  const faults: Fault[] = []
  const forms = table.rows.map(({ line, cells: r }) => {
    const say = (column: string, message: string) =>
      faults.push({ path: `line ${line}, ${column}`, line, column, message })
    const text = (column: (typeof COLUMNS)[number]) => (r[column] ?? '').trim()
    const customer = customers.get(text('customer'))
    if (!customer) say('customer', `there is no customer ${text('customer')}`)
    const scheme = (text('scheme') || 'CORE').toUpperCase()
    if (scheme !== 'CORE' && scheme !== 'B2B') say('scheme', `"${scheme}" is no scheme: use CORE or B2B`)
    const use = (text('use') || 'recurring').toLowerCase()
    if (use !== 'recurring' && use !== 'one-off') say('use', `"${use}": use recurring or one-off`)
    const lastUsed = text('last_used')
    if (lastUsed && (!isIsoDate(lastUsed) || lastUsed > settings.today))
      say('last_used', `"${lastUsed}" is not a day on which it was used: write YYYY-MM-DD`)
    const form: MandateAsk = {
      reference: text('reference'),
      scheme: scheme as MandateAsk['scheme'],
      use: use as MandateAsk['use'],
      signedOn: text('signed_on'),
      iban: text('iban').replace(/\s/g, '').toUpperCase(),
      bic: text('bic').toUpperCase(),
      holder: text('holder') || (customer?.name ?? text('customer')),
      most: null,
      noticeDays: null,
      attachmentId: null,
    }
    const taken = form.reference !== '' && there.has(form.reference)
    there.add(form.reference)
    const refusals = mandateRefusals(form, settings.today, taken, lastUsed || null)
    for (const refusal of refusals)
      say(COLUMN_OF[refusal.path] ?? refusal.path, `${refusal.message}: ${refusal.satisfy}`)
    return { customer, form, lastUsed }
  })
  if (faults.length)
    throw new ProblemError(422, 'Nothing was imported', `${faults.length} cells are wrong`, faults)
  await database.transaction(async tx => {
    await takeLocks(tx, { customers: forms.map(f => f.customer!.id) })
    for (const { customer, form, lastUsed } of forms)
      await putMandate(tx, actor, settings, customer!, form, lastUsed || null)
    await audit(tx, actor.id, 'mandate', 'import', null, `${forms.length} mandates`)
  })
  return { imported: forms.length }
}
