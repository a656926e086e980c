import { plus } from '../../db/where'
import type { z } from 'zod'
import { isEdited, type Edit, type Edits } from '../../../core/reminders'
import type { reminders as operations, Run, RunNotice } from '../../../contract/reminders'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { readNotice } from './lines'
import { basisOf, chosenFor, proposeFor } from './proposal'
import { readRun, runRow } from './runs'
import { leftOutRows, noticeRows } from './workOut'

/**
 * Changes a proposed notice. What its customer gets is worked out again with the change, by the same
 * computation as the proposal; confirming decides it once more.
 */
export async function editRun(
  database: Handle,
  actor: Actor,
  id: number,
  body: z.output<NonNullable<(typeof operations.edit)['body']>>,
): Promise<{ run: Run; notice: RunNotice }> {
  await database.transaction(async tx => {
    const settings = await takeLocks(tx, { runs: [id] })
    const run = await runRow(tx, id)
    if (run.state !== 'proposed')
      throw new ProblemError(409, 'Not open', `this run is ${run.state}: only a proposed one can be changed`)
    if (run.version !== body.version)
      throw new ProblemError(409, 'Changed meanwhile', 'somebody else changed this run: reload it')
    const [row] = await tx.find(
      'run_notice',
      { run_id: id, key_text: body.key },
      { columns: { customerId: 'customer_id' } },
    )
    if (!row) throw notFound(`notice ${body.key} in run ${id}`)
    const edits = withEdit(run.edits, body.key, body.edit)
    await keepPart(tx, settings, { ...run, edits }, id, row.customerId)
    await tx.update('reminder_run', { edits: JSON.stringify(edits), version: plus('version', 1) }, { id })
    await audit(
      tx,
      actor.id,
      'reminder run',
      String(id),
      JSON.stringify(run.edits[body.key] ?? null),
      JSON.stringify({ [body.key]: body.edit }),
    )
  })
  const [run, notice] = await Promise.all([readRun(database, id), readNotice(database, id, body.key)])
  return { run, notice }
}

function withEdit(edits: Edits, key: string, edit: Edit): Edits {
  const { [key]: _, ...others } = edits
  return isEdited(edit) ? { ...others, [key]: edit } : others
}

/** The rows of one customer with the edits; a notice that is left out stays, to be brought back. */
async function keepPart(
  tx: Handle,
  settings: Parameters<typeof proposeFor>[1],
  run: Awaited<ReturnType<typeof runRow>>,
  id: number,
  customerId: number,
): Promise<void> {
  const chosen = await chosenFor(tx, run, [customerId])
  const basis = await basisOf(tx, run, run.edits)
  const part = await proposeFor(tx, settings, basis, chosen)
  // What is left out is still shown, as it would be if it went.
  const back = Object.fromEntries(
    Object.entries(run.edits).map(([key, { leaveOut: _, items: __, ...rest }]) => [key, rest]),
  )
  const whole = await proposeFor(tx, settings, { ...basis, edits: back }, chosen)
  const going = new Set(part.notices.map(n => n.key))
  const left = whole.notices.filter(n => !going.has(n.key))
  const ids = new Map(part.customers.map(c => [c.number, c.id]))
  await tx.remove('run_notice', { run_id: id, customer_id: customerId })
  await tx.remove('run_left_out', { run_id: id, customer_id: customerId })
  await tx.insert('run_notice', [...noticeRows(id, ids, part.notices), ...noticeRows(id, ids, left, 0)])
  await tx.insert('run_left_out', leftOutRows(id, ids, part.leftOut))
}
