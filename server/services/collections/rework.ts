import { Op, plus } from '../../db/where'
import type { CollectionRow } from '../../../contract/collections'
import { presentAgainOn } from '../../../core/collections'
import { reasonLabel, type PaymentPolicy, type ReturnAction } from '../../../core/payments'
import type { Handle } from '../../db/handle'
import { audit, readSettings, type Settings } from '../../db/settings'
import { ProblemError } from '../common/problems'
import { ownAccount } from '../payments/files'
import type { Actor } from '../people/scope'
import { readCollection } from './lists'
import { suspendMandate } from './mandates'
import { rowOf, type Row } from './returns'
import { keepWorked, runRow, workOut } from './runs'

/** Whether a collection that came back may be presented again. */
export const mayComeAgain = (row: { times: number }, policy: PaymentPolicy): boolean =>
  row.times < policy.againTimes

/**
 * What is done about a collection that came back. `again` prepares a run of it, which a person confirms; the
 * rest is noted, and a mandate is stopped where that is what was chosen.
 */
export async function workReturn(
  database: Handle,
  actor: Actor,
  collectionId: number,
  action: ReturnAction,
): Promise<{ collection: CollectionRow; run: number | null }> {
  const settings = await readSettings(database)
  const run = await database.transaction(async tx => {
    await tx.find('collection', { id: collectionId }, { columns: ['id'], lock: true })
    const row = await rowOf(tx, collectionId)
    if (row.state !== 'returned' && row.state !== 'refused')
      throw new ProblemError(409, 'Did not come back', `${row.number} is ${row.state}`)
    if (row.backDone)
      throw new ProblemError(409, 'Worked', `${row.number} was worked meanwhile: reload the list`)
    if (action === 'again' && !mayComeAgain(row, settings.paymentPolicy))
      throw new ProblemError(
        409,
        'Often enough',
        `${row.number} was presented again ${row.times} times: Setup allows no more`,
        [{ path: 'action', message: 'often enough', satisfy: 'chase it, or stop the mandate' }],
      )
    await tx.update('collection', { back_done: action }, { id: collectionId })
    if (action === 'stop' || action === 'correct')
      await suspendMandate(tx, actor, row.mandateId, `${row.number} came back: ${reasonLabel(row.backCode)}`)
    await audit(tx, actor.id, 'collection', row.number, row.state, action)
    return action === 'again' ? presentAgain(tx, actor, settings, row) : null
  })
  return { collection: await readCollection(database, collectionId), run }
}

/** A run of what came back: several of a day share one. */
async function presentAgain(tx: Handle, actor: Actor, settings: Settings, row: Row): Promise<number> {
  const day = presentAgainOn(settings.today, settings.paymentPolicy.againWeekday)
  const [there] = await tx.find(
    'collection_run',
    { state: 'proposed', collect_on: day, again_of: { [Op.ne]: '[]' } },
    { columns: { id: 'id', againOf: 'again_of' }, order: ['id'], limit: 1, lock: true },
  )
  const account = await ownAccount(tx, { currency: 'EUR' })
  const [fresh] = there
    ? [there.id]
    : await tx.insert('collection_run', [
        {
          collect_on: day,
          due_by: day,
          made_on: settings.today,
          bank_account_id: account.id,
          again_of: '[]',
          person_id: actor.id,
        },
      ])
  const againOf = [...(JSON.parse(there?.againOf ?? '[]') as number[]), row.id]
  await tx.update(
    'collection_run',
    { again_of: JSON.stringify(againOf), version: plus('version', 1) },
    { id: fresh! },
  )
  const run = await runRow(tx, fresh!)
  await tx.run(
    `DELETE t FROM collection_item t JOIN collection k ON k.id = t.collection_id
      WHERE k.run_id = :id AND k.customer_id = :customerId`,
    { id: fresh!, customerId: row.customerId },
  )
  for (const table of ['collection', 'collection_left_out'])
    await tx.run(`DELETE FROM ${table} WHERE run_id = :id AND customer_id = :customerId`, {
      id: fresh!,
      customerId: row.customerId,
    })
  await keepWorked(tx, fresh!, await workOut(tx, settings, run, [row.customerId]))
  return fresh!
}
