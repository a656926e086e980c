import type { Handle } from '../../db/handle'
import type { PolicyForm } from '../../../contract/reminders'

import { audit } from '../../db/settings'
import { fillText } from '../../letters/text'
import { notFound, ProblemError } from '../common/problems'

type PolicyRow = { code: string; name: string; levels: string; version: number }
const parsed = (r: PolicyRow): PolicyForm => ({ ...r, levels: JSON.parse(r.levels) as PolicyForm['levels'] })

export async function listPolicies(database: Handle) {
  return {
    items: (
      await database.select<PolicyRow>(
        'SELECT code, name, levels, version FROM reminder_policy ORDER BY code',
      )
    ).map(parsed),
  }
}

export async function readPolicy(database: Handle, code: string): Promise<PolicyForm> {
  const [row] = await database.select<PolicyRow>(
    'SELECT code, name, levels, version FROM reminder_policy WHERE code = :code',
    { code },
  )
  if (!row) throw notFound(`reminder policy ${code}`)
  return parsed(row)
}

const SAMPLE = {
  company: 'Sample',
  customer: 'Sample',
  contact: 'Sample',
  number: 'N-1',
  level: 1,
  total: 'EUR 1.00',
  fee: 'EUR 1.00',
  has_fee: true,
  date: '1 Jan 2026',
  deadline: '8 Jan 2026',
  items: 1,
}

export async function changePolicy(
  database: Handle,
  personId: number,
  code: string,
  body: PolicyForm,
): Promise<PolicyForm> {
  const before = await readPolicy(database, code)
  for (const [i, level] of body.levels.entries()) {
    if (i && level.days <= body.levels[i - 1]!.days) {
      throw new ProblemError(422, 'Levels must rise', `level ${i + 1} must be due later than level ${i}`, [
        { path: `levels.${i}.days`, message: `more than ${body.levels[i - 1]!.days} days` },
      ])
    }
    for (const [language, text] of Object.entries(level.texts)) {
      try {
        await fillText(text, SAMPLE)
      } catch (error) {
        throw new ProblemError(
          422,
          'Text cannot be filled',
          `level ${i + 1}, ${language}: ${(error as Error).message}`,
          [{ path: `levels.${i}.texts.${language}`, message: (error as Error).message }],
        )
      }
    }
  }
  const changed = await database.run(
    `UPDATE reminder_policy SET name = :name, levels = :levels, version = version + 1 WHERE code = :code
      AND version = :version`,
    { code, name: body.name, levels: JSON.stringify(body.levels), version: body.version },
  )
  if (!changed.affectedRows)
    throw new ProblemError(
      409,
      'Changed meanwhile',
      'someone else changed this policy: reload it and make your change again',
    )
  await audit(database, personId, 'policy', code, JSON.stringify(before.levels), JSON.stringify(body.levels))
  return readPolicy(database, code)
}
