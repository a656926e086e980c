import { z } from 'zod'
import { cell } from '../../db/rows'
import type { View, views, ViewState } from '../../../contract/views'
import type { Handle } from '../../db/handle'
import { notFound } from '../common/problems'
import type { Actor } from '../people/scope'

const rowCells = z.object({
  id: cell.whole,
  name: cell.text,
  shared: cell.whole,
  personId: cell.whole,
  by: cell.text,
  state: cell.text,
})
type Row = z.output<typeof rowCells>

const VIEWS = `SELECT v.id, v.name, v.shared, v.person_id AS personId, p.name AS \`by\`, v.state
  FROM saved_view v JOIN person p ON p.id = v.person_id`

const shown = ({ personId, shared, state, ...row }: Row, actor: Actor): View => ({
  ...row,
  shared: shared === 1,
  mine: personId === actor.id,
  state: JSON.parse(state) as ViewState,
})

/** One's own views first, then those that others share, each by name. */
export async function listViews(database: Handle, screen: string, actor: Actor): Promise<{ items: View[] }> {
  const rows = await database.rows(
    rowCells,
    `${VIEWS} WHERE v.screen = :screen AND (v.person_id = :id OR v.shared = 1)
      ORDER BY v.person_id = :id DESC, v.name, v.id`,
    { screen, id: actor.id },
  )
  return { items: rows.map(row => shown(row, actor)) }
}

/** Keeps a view: one of one's own with the same name is changed. */
export async function saveView(
  database: Handle,
  body: z.output<typeof views.save.body & object>,
  actor: Actor,
): Promise<View> {
  const { screen, name, shared, state } = body
  await database.run(
    `INSERT INTO saved_view (screen, name, shared, state, person_id)
      VALUES (:screen, :name, :shared, :state, :id)
      ON DUPLICATE KEY UPDATE shared = :shared, state = :state, at = CURRENT_TIMESTAMP(3)`,
    { screen, name, shared: Number(shared), state: JSON.stringify(state), id: actor.id },
  )
  const [row] = await database.rows(
    rowCells,
    `${VIEWS} WHERE v.screen = :screen AND v.name = :name AND v.person_id = :id`,
    { screen, name, id: actor.id },
  )
  return shown(row!, actor)
}

/** Removes a view of one's own. One of somebody else is not there to be removed. */
export async function removeView(database: Handle, id: number, actor: Actor): Promise<{ removed: boolean }> {
  const affectedRows = await database.remove('saved_view', { id, person_id: actor.id })
  if (!affectedRows) throw notFound(`view ${id} of yours`)
  return { removed: true }
}
