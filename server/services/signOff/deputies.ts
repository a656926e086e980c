import { z } from 'zod'
import { cell } from '../../db/rows'
import { Op } from '../../db/where'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

const listDeputiesRow = z.object({
  id: cell.whole,
  absent: cell.text,
  deputy: cell.text,
  from: cell.text,
  until: cell.text,
})

export async function listDeputies(database: Handle) {
  const { today } = await readSettings(database)
  const [items, people] = await Promise.all([
    database.rows(
      listDeputiesRow,
      `SELECT d.id, a.name AS absent, p.name AS deputy, d.from_date AS \`from\`, d.until_date AS until
        FROM deputy d JOIN person a ON a.id = d.absent_id JOIN person p ON p.id = d.deputy_id
        WHERE d.until_date >= :today ORDER BY d.from_date, d.id`,
      { today },
    ),
    database.find(
      'person',
      { active: 1, role: { [Op.notIn]: ['sales', 'auditor'] } },
      { columns: ['email', 'name'], order: ['name'] },
    ),
  ])
  return { items, people }
}

/** Lets somebody sign in one's own place, from a day to another. */
export async function addDeputy(
  database: Handle,
  actor: Actor,
  body: { deputy: string; from: string; until: string },
): Promise<{ id: number }> {
  const { today } = await readSettings(database)
  const [deputy] = await database.find(
    'person',
    { email: body.deputy, active: 1 },
    { columns: ['id', 'name', 'role'] },
  )
  const refuse = (path: string, message: string, satisfy: string) =>
    new ProblemError(422, 'Not as asked', `${message}: ${satisfy}`, [{ path, message, satisfy }])
  if (!deputy) throw refuse('deputy', `${body.deputy} is nobody here`, 'choose one of the people')
  if (deputy.id === actor.id)
    throw refuse('deputy', 'nobody stands in for themselves', 'choose somebody else')
  if (deputy.role === 'sales' || deputy.role === 'auditor')
    throw refuse('deputy', `a ${deputy.role} changes nothing`, 'choose somebody who works the ledger')
  if (body.until < body.from) throw refuse('until', 'it ends before it begins', 'let it end later')
  if (body.until < today) throw refuse('until', 'that is over', `choose a day from ${today} on`)
  return database.transaction(async tx => {
    const [id] = await tx.insert('deputy', [
      {
        absent_id: actor.id,
        deputy_id: deputy.id,
        from_date: body.from,
        until_date: body.until,
        person_id: actor.id,
      },
    ])
    await audit(tx, actor.id, 'deputy', actor.email, null, JSON.stringify(body))
    return { id: id! }
  })
}

export async function removeDeputy(database: Handle, actor: Actor, id: number): Promise<void> {
  const affectedRows = await database.remove('deputy', { id, absent_id: actor.id })
  if (!affectedRows) throw notFound(`deputy ${id}`, 'only one’s own can be ended')
  await audit(database, actor.id, 'deputy', actor.email, String(id), null)
}
