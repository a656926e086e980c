import type { SettingsAnswer } from '../../../contract/setup'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import { notFound } from '../common/problems'
import type { Actor } from '../people/scope'
import { readSettingsAnswer } from '../setup/settings'

export async function changeClass(
  database: Handle,
  actor: Actor,
  code: string,
  body: { keepOnItem: boolean },
): Promise<SettingsAnswer> {
  const [row] = await database.select<{ keep: unknown }>(
    'SELECT keep_on_item AS `keep` FROM customer_class WHERE code = :code',
    { code },
  )
  if (!row) throw notFound(`customer class ${code}`)
  await database.run('UPDATE customer_class SET keep_on_item = :keep WHERE code = :code', {
    code,
    keep: body.keepOnItem ? 1 : 0,
  })
  await audit(database, actor.id, 'class', code, String(Boolean(row.keep)), String(body.keepOnItem))
  return readSettingsAnswer(database, actor)
}
